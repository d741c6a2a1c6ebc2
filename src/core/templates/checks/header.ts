import type { PartFinding } from '../finding';
import type { TemplateRules } from '../rules';
import { type Header, type HeaderMedia, type MediaKind, mediaKindOf, placeholdersIn } from '../template';

const part = 'header';

export function headerFindings(header: Header | undefined, rules: TemplateRules['header']): PartFinding[] {
  if (!header) return [];
  if (!rules.kinds.includes(header.kind))
    return [
      {
        part,
        code: 'header-kind-not-offered',
        severity: 'error',
        problem: `The platform takes no header with ${article(header.kind)}.`,
        remedy: `These are taken: ${rules.kinds.join(', ')}.`,
      },
    ];
  return header.kind === 'text' ? textFindings(header.text, rules) : mediaFindings(header.kind, header.media, rules);
}

function textFindings(text: string, rules: TemplateRules['header']): PartFinding[] {
  const findings: PartFinding[] = [];
  const add = (code: string, problem: string, remedy: string, place?: PartFinding['place'], fix?: PartFinding['fix']) =>
    findings.push({ part, code, severity: 'error', problem, remedy, place, ...(fix ? { fix } : {}) });
  if (text.trim() === '') {
    add('header-empty', 'The header says nothing.', 'Write it, or leave the header out.');
    return findings;
  }
  if (text.length > rules.longest)
    add('header-too-long', `The header has ${text.length} characters; ${rules.longest} are allowed.`, 'Shorten it.', {
      from: rules.longest,
      to: text.length,
    });
  const beyond = placeholdersIn(text)[rules.mostVariables];
  if (beyond)
    add(
      'header-variables',
      rules.mostVariables === 0
        ? 'A header may hold no variable.'
        : `A header may hold ${rules.mostVariables === 1 ? 'one variable' : `${rules.mostVariables} variables`}.`,
      'Say it in the body.',
      { from: beyond.from, to: beyond.to },
    );
  const at = text.search(/[\r\n]/);
  if (at >= 0)
    add(
      'header-line-break',
      'A header is one line.',
      'Put the rest into the body.',
      { from: at, to: at + 1 },
      {
        label: 'Make it one line',
        edit: { from: 0, to: text.length, write: text.replace(/\s*[\r\n]+\s*/g, ' ').trim() },
      },
    );
  return findings;
}

function mediaFindings(kind: MediaKind, media: HeaderMedia | undefined, rules: TemplateRules['header']): PartFinding[] {
  const limit = rules.media[kind];
  const finding = (code: string, problem: string, remedy: string): PartFinding[] => [
    { part, code, severity: 'error', problem, remedy },
  ];
  if (!media) return finding('header-media-missing', `No ${kind} is chosen.`, 'Upload a sample of it.');
  const types = limit?.types ?? [];
  if (!types.includes(media.type)) {
    const really = mediaKindOf(media.type);
    const problem =
      really && really !== kind
        ? `${media.name} is ${article(really)} (${media.type}), not ${article(kind)}.`
        : `${media.name} is ${media.type || 'of no known type'}, which the platform does not take.`;
    return finding('header-media-type', problem, `These are taken: ${types.join(', ')}.`);
  }
  if (limit && media.bytes > limit.mostBytes)
    return finding(
      'header-media-too-large',
      `${media.name} has ${megabytes(media.bytes)}; ${megabytes(limit.mostBytes)} are allowed.`,
      'Make it smaller and upload it again.',
    );
  return [];
}

function article(kind: string): string {
  return kind === 'text' ? 'text' : kind === 'image' ? 'an image' : `a ${kind}`;
}

export function megabytes(bytes: number): string {
  return bytes < 100_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;
}
