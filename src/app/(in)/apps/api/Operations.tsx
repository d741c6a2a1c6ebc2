'use client';

import { useState } from 'react';
import { Button } from '../../../../ui/primitives/Button';
import { CopyButton } from '../../../../ui/primitives/CopyButton';

export interface OperationView {
  id: string;
  method: string;
  path: string;
  group: string;
  summary: string;
  description?: string;
  scope?: string;
  query: string[];
  body?: string;
  status: string;
  /** JSON Schema of the answer. */
  answer?: string;
  problems: string[];
}

interface Props {
  root: string;
  groups: string[];
  operations: OperationView[];
}

/** The key stays in this page and is forgotten with it. */
export function Operations({ root, groups, operations }: Props) {
  const [key, setKey] = useState('');
  return (
    <>
      <label className="mb-4 grid max-w-[520px] gap-1">
        <span className="font-medium">API key to try with</span>
        <input
          type="password"
          autoComplete="off"
          value={key}
          onChange={(event) => setKey(event.target.value)}
          className="rounded border border-line-strong bg-panel px-2.5 py-1.5 font-mono text-[13px]"
        />
        <span className="text-[13px] text-soft">It stays on this page and is forgotten when you leave it.</span>
      </label>
      {groups.map((group) => (
        <section key={group} className="mb-4" aria-label={group}>
          <h3 className="mb-1 font-semibold">{group}</h3>
          <div className="rounded-md border border-line bg-panel">
            {operations
              .filter((operation) => operation.group === group)
              .map((operation) => (
                <Operation key={operation.id} root={root} operation={operation} apiKey={key} />
              ))}
          </div>
        </section>
      ))}
    </>
  );
}

const AREA = 'w-full rounded border border-line-strong bg-panel px-2 py-1.5 font-mono text-[13px]';

function Operation({ root, operation, apiKey }: { root: string; operation: OperationView; apiKey: string }) {
  const [id, setId] = useState('');
  const [query, setQuery] = useState('');
  const [body, setBody] = useState(operation.body ?? '');
  const [answer, setAnswer] = useState<{ status: number; text: string }>();
  const takesId = operation.path.includes('{id}');
  const path = operation.path.replace('{id}', encodeURIComponent(id)) + (query ? `?${query}` : '');
  const curl = [
    `curl -X ${operation.method} '${root}${path}'`,
    `-H 'Authorization: Bearer $WINDGAP_KEY'`,
    ...(operation.body
      ? [`-H 'Content-Type: application/json'`, `-d '${body.replace(/\s*\n\s*/g, ' ').replaceAll("'", `'\\''`)}'`]
      : []),
  ].join(' \\\n  ');

  async function call() {
    // To this page's own origin, whatever address the outside knows us by.
    const given = await fetch(`/api/v1${path}`, {
      method: operation.method,
      headers: { authorization: `Bearer ${apiKey}`, ...(operation.body ? { 'content-type': 'application/json' } : {}) },
      body: operation.body ? body : undefined,
    }).catch(() => undefined);
    const text = (await given?.text()) ?? 'No answer came.';
    setAnswer({ status: given?.status ?? 0, text: pretty(text) });
  }

  return (
    <details className="border-b border-line last:border-0" data-operation={operation.id}>
      <summary className="flex cursor-pointer flex-wrap items-baseline gap-3 px-3 py-2 text-[13px]">
        <code className="w-14 font-semibold">{operation.method}</code>
        <code>{operation.path}</code>
        <span className="text-soft">{operation.summary}</span>
        {operation.scope && <code className="ml-auto text-xs text-soft">{operation.scope}</code>}
      </summary>
      <div className="grid gap-4 border-t border-line p-3 text-[13px] lg:grid-cols-2">
        <div className="grid content-start gap-3">
          {operation.description && <p>{operation.description}</p>}
          {takesId && (
            <label className="grid gap-1">
              id
              <input className={AREA} value={id} onChange={(event) => setId(event.target.value)} />
            </label>
          )}
          {operation.query.length > 0 && (
            <label className="grid gap-1">
              Query: {operation.query.join(', ')}
              <input className={AREA} value={query} onChange={(event) => setQuery(event.target.value)} />
            </label>
          )}
          {operation.body && (
            <label className="grid gap-1">
              Body
              <textarea
                className={AREA}
                rows={6}
                value={body}
                onChange={(event) => setBody(event.target.value)}
                spellCheck={false}
              />
            </label>
          )}
          <div className="flex gap-2">
            <Button onClick={call} disabled={!apiKey}>
              Call it
            </Button>
            <CopyButton value={curl} what={`command for ${operation.id}`} />
          </div>
          {answer && (
            <div data-answer={answer.status}>
              <p className={answer.status >= 200 && answer.status < 300 ? '' : 'text-clay'}>Answered {answer.status}</p>
              <pre
                tabIndex={0}
                className="max-h-72 overflow-auto rounded border border-line bg-paper p-2 font-mono text-xs whitespace-pre-wrap break-all"
              >
                {answer.text}
              </pre>
            </div>
          )}
        </div>
        <div className="min-w-0">
          <p>
            Answers {operation.status}
            {operation.answer ? ' with' : ' and nothing else'}; problems are {operation.problems.join(', ')}.
          </p>
          {operation.answer && (
            <pre
              tabIndex={0}
              className="mt-1 max-h-96 overflow-auto rounded border border-line bg-paper p-2 font-mono text-xs"
            >
              {operation.answer}
            </pre>
          )}
        </div>
      </div>
    </details>
  );
}

function pretty(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text;
  }
}
