import type { Finding, Severity } from '../../core/finding';

const MARKS: Record<Severity, { shape: string; colour: string; word: string }> = {
  error: { shape: '■', colour: 'text-clay', word: 'Error' },
  attention: { shape: '▲', colour: 'text-ochre-ink', word: 'Attention' },
  notice: { shape: '○', colour: 'text-soft', word: 'Notice' },
};

export const severityColour = (severity: Severity): string => MARKS[severity].colour;

/** How grave something is, by shape and colour, and in a word for people who hear it. */
export function SeverityMark({ severity }: { severity: Severity }) {
  const { shape, colour, word } = MARKS[severity];
  return (
    <>
      <span className={colour} aria-hidden>
        {shape}{' '}
      </span>
      <span className="sr-only">{word}: </span>
    </>
  );
}

export function FindingLine({ finding, id }: { finding: Finding; id?: string }) {
  return (
    <p id={id} className="mt-1 text-[13px]" data-finding={finding.code}>
      <SeverityMark severity={finding.severity} />
      <span className={severityColour(finding.severity)}>{finding.problem}</span> {finding.remedy}
    </p>
  );
}
