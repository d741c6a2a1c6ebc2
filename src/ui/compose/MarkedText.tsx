'use client';

import { type ReactNode, useId, useRef } from 'react';
import type { Fix, TemplateFinding } from '../../core/templates/finding';
import { FindingLine } from '../domain/Findings';

interface Props {
  label: string;
  help?: ReactNode;
  value: string;
  onValue: (value: string) => void;
  findings: readonly TemplateFinding[];
  /** One line when absent. */
  rows?: number;
  exact?: boolean;
  readOnly?: boolean;
  direction?: 'ltr' | 'rtl';
  /** Offered above the text: puts something in at the cursor. */
  tools?: (insert: (text: string) => void) => ReactNode;
  placeholder?: string;
}

const UNDERLINES: Record<TemplateFinding['severity'], string> = {
  error: 'decoration-clay',
  attention: 'decoration-ochre',
  notice: 'decoration-soft',
};

/**
 * A text whose findings are underlined where they are and said below it, each with a jump
 * to its place and, where there is one, its fix. The marks are drawn behind the text that is typed.
 */
export function MarkedText({
  label,
  help,
  value,
  onValue,
  findings,
  rows,
  exact,
  readOnly,
  direction,
  tools,
  placeholder,
}: Props) {
  const id = useId();
  const area = useRef<HTMLTextAreaElement>(null);
  const face = `${exact ? 'font-mono text-[13px]' : ''} w-full px-2.5 py-1.5 leading-normal whitespace-pre-wrap break-words`;

  function select({ from, to }: { from: number; to: number }) {
    area.current?.focus();
    area.current?.setSelectionRange(from, to);
  }
  function apply({ edit }: Fix) {
    onValue(value.slice(0, edit.from) + edit.write + value.slice(edit.to));
    const end = edit.from + edit.write.length;
    requestAnimationFrame(() => select({ from: end, to: end }));
  }
  function insert(text: string) {
    const [from, to] = [area.current?.selectionStart ?? value.length, area.current?.selectionEnd ?? value.length];
    onValue(value.slice(0, from) + text + value.slice(to));
    requestAnimationFrame(() => select({ from: from + text.length, to: from + text.length }));
  }

  return (
    <div>
      <div className="mb-1 flex flex-wrap items-end justify-between gap-2">
        <label htmlFor={id} className="font-medium">
          {label}
        </label>
        {!readOnly && tools?.(insert)}
      </div>
      <div className="relative grid rounded border border-line-strong bg-panel" dir={direction}>
        <div aria-hidden className={`pointer-events-none col-start-1 row-start-1 text-transparent ${face}`}>
          {marked(value, findings)}
          {/* A line that is still empty takes its room. */}
          {'\u200b'}
        </div>
        <textarea
          id={id}
          ref={area}
          rows={rows ?? 1}
          readOnly={readOnly}
          value={value}
          placeholder={placeholder}
          aria-describedby={`${id}-help`}
          aria-invalid={findings.some(({ severity }) => severity === 'error') ? true : undefined}
          className={`col-start-1 row-start-1 resize-none overflow-hidden rounded bg-transparent ${face}`}
          onChange={(event) =>
            onValue(rows === undefined ? event.target.value.replace(/\n/g, ' ') : event.target.value)
          }
        />
      </div>
      <div id={`${id}-help`} aria-live="polite">
        {help && <p className="mt-1 text-[13px] text-soft">{help}</p>}
        <TemplateFindings findings={findings} onShow={select} onFix={readOnly ? undefined : apply} />
      </div>
    </div>
  );
}

export function TemplateFindings({
  findings,
  onShow,
  onFix,
}: {
  findings: readonly TemplateFinding[];
  onShow?: (place: { from: number; to: number }) => void;
  onFix?: (fix: Fix) => void;
}) {
  return findings.map((finding) => (
    <div
      key={`${finding.code} ${finding.place?.from} ${finding.problem}`}
      className="flex flex-wrap items-baseline gap-x-3"
    >
      <FindingLine finding={finding} />
      {finding.place && onShow && (
        <Deed onClick={() => finding.place && onShow(finding.place)} label={`Show: ${finding.problem}`}>
          Show
        </Deed>
      )}
      {finding.fix && onFix && (
        <Deed onClick={() => finding.fix && onFix(finding.fix)} label={`${finding.fix.label}: ${finding.problem}`}>
          {finding.fix.label}
        </Deed>
      )}
    </div>
  ));
}

function Deed({ onClick, label, children }: { onClick: () => void; label: string; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-label={label}
      className="text-[13px] font-medium text-ridge underline underline-offset-2"
      onClick={onClick}
    >
      {children}
    </button>
  );
}

/** The text cut at every edge of a finding, each piece underlined by the gravest it lies in. */
function marked(text: string, findings: readonly TemplateFinding[]): ReactNode[] {
  // What is about the whole text would underline all that is about a part of it.
  const placed = findings.filter(({ place }) => place !== undefined && place.to - place.from < text.length);
  const edges = [...new Set([0, text.length, ...placed.flatMap(({ place }) => [place?.from ?? 0, place?.to ?? 0])])]
    .filter((edge) => edge <= text.length)
    .sort((a, b) => a - b);
  return edges.slice(0, -1).map((from, index) => {
    const to = edges[index + 1] as number;
    const over = placed.filter(({ place }) => place && place.from <= from && place.to >= to);
    const gravest = over.find(({ severity }) => severity === 'error') ?? over[0];
    const piece = text.slice(from, to);
    return gravest ? (
      <mark
        key={from}
        data-mark={gravest.code}
        className={`bg-transparent text-transparent underline decoration-wavy decoration-2 underline-offset-4 ${UNDERLINES[gravest.severity]}`}
      >
        {piece}
      </mark>
    ) : (
      <span key={from}>{piece}</span>
    );
  });
}
