import type { Finding } from '../../core/finding';

const MARKS: Record<Finding['severity'], { shape: string; colour: string; word: string }> = {
  error: { shape: '■', colour: 'text-clay', word: 'Error' },
  attention: { shape: '▲', colour: 'text-ochre-ink', word: 'Attention' },
  notice: { shape: '○', colour: 'text-soft', word: 'Notice' },
};

export function FindingLine({ finding, id }: { finding: Finding; id?: string }) {
  const mark = MARKS[finding.severity];
  return (
    <p id={id} className="mt-1 text-[13px]" data-finding={finding.code}>
      <span className={mark.colour} aria-hidden>
        {mark.shape}{' '}
      </span>
      <span className="sr-only">{mark.word}: </span>
      <span className={mark.colour}>{finding.problem}</span> {finding.remedy}
    </p>
  );
}
