import { ClockTime } from '../primitives/Time';

/** One request with its answer, as it may be shown. */
export interface Evidence {
  id: string;
  title: string;
  at: number;
  elapsedMs?: number;
  request: { line: string; headers: Record<string, string>; body: string };
  response?: { line: string; headers: Record<string, string>; body: string };
}

export function EvidenceBlock({ evidence }: { evidence: Evidence }) {
  return (
    <div className="mb-3 last:mb-0" data-evidence={evidence.id}>
      <p className="mb-1 text-[13px]">
        <span className="font-medium">{evidence.title}</span> <ClockTime at={evidence.at} millis />
        {evidence.elapsedMs !== undefined && <span className="text-soft">, answered in {evidence.elapsedMs} ms</span>}
        <span className="ml-2 font-mono text-xs text-soft">{evidence.id}</span>
      </p>
      <div className="grid gap-3 lg:grid-cols-2">
        <Half title="Request" half={evidence.request} />
        <Half title="Answer" half={evidence.response} />
      </div>
    </div>
  );
}

function Half({ title, half }: { title: string; half?: Evidence['request'] }) {
  return (
    <div className="min-w-0 rounded border border-line bg-paper">
      <p className="border-b border-line px-2 py-1 text-xs text-soft">{title}</p>
      <pre tabIndex={0} className="max-h-64 overflow-auto px-2 py-1.5 font-mono text-xs whitespace-pre-wrap break-all">
        {half
          ? [half.line, ...headerLines(half.headers), '', prettyBody(half.body)].join('\n').trim()
          : 'No answer came.'}
      </pre>
    </div>
  );
}

/** What the transport adds to every request says nothing about this one. */
const USUAL =
  /^(host|connection|accept|accept-encoding|accept-language|user-agent|content-length|transfer-encoding|date|keep-alive|x-forwarded-.*|sec-fetch-.*)$/i;

function headerLines(headers: Record<string, string>): string[] {
  return Object.entries(headers)
    .filter(([name]) => !USUAL.test(name))
    .map(([name, value]) => `${name}: ${value}`);
}

function prettyBody(body: string): string {
  try {
    return JSON.stringify(JSON.parse(body), null, 2);
  } catch {
    return body;
  }
}
