'use client';

import { diffWordsWithSpace } from 'diff';
import { useState } from 'react';
import { type Template, writtenParts } from '../../../../../core/templates/template';
import type { TemplatePage } from '../../../../../operations/templates';
import { StandingMark } from '../../../../../ui/compose/StandingMark';
import { Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { ClockTime } from '../../../../../ui/primitives/Time';

type Props = Pick<TemplatePage, 'row' | 'versions' | 'events'>;

const WHAT: Record<TemplatePage['events'][number]['what'], string> = {
  created: 'began it',
  saved: 'saved it',
  submitted: 'submitted it',
  refused: 'tried to submit it',
  'in-review': 'took it for review',
  approved: 'approved it',
  rejected: 'rejected it',
  paused: 'paused it',
  retired: 'took it out of use',
  refiled: 'filed it anew',
  archived: 'archived it',
};

/** What was submitted, what became of it, and what differs between two versions. */
export function Versions({ row, versions, events }: Props) {
  const [compared, setCompared] = useState<number>();
  const chosen = versions.find(({ number }) => number === compared);
  const before = versions.find(({ number }) => number === (compared ?? 0) - 1);
  return (
    <div className="grid gap-x-6 xl:grid-cols-[minmax(0,1fr)_340px]">
      {versions.length > 0 && (
        <Section title="Versions" id="versions">
          <Table
            caption="Versions"
            rows={versions}
            keyOf={({ id }) => id}
            columns={[
              { head: 'No.', figures: true, cell: ({ number }) => number },
              { head: 'Status', cell: ({ state }) => <StandingMark state={state} /> },
              {
                head: 'Submitted',
                className: 'whitespace-nowrap',
                cell: ({ submittedAt, submittedBy }) => (
                  <>
                    <ClockTime at={submittedAt} /> {submittedBy}
                  </>
                ),
              },
              {
                head: 'Decided',
                className: 'whitespace-nowrap',
                cell: ({ decidedAt }) => (decidedAt === null ? '' : <ClockTime at={decidedAt} />),
              },
              {
                head: 'Reason',
                className: 'w-full',
                cell: ({ reasons }) =>
                  reasons
                    .map(
                      ({ text, language, part }) =>
                        `${language ? `${language}: ` : ''}${text}${part ? ` (${part})` : ''}`,
                    )
                    .join(' '),
              },
              {
                head: 'Difference',
                cell: ({ number }) => (
                  <button
                    type="button"
                    className="font-medium text-ridge underline underline-offset-2"
                    aria-expanded={compared === number}
                    onClick={() => setCompared(compared === number ? undefined : number)}
                  >
                    {number === 1 ? 'to now' : `to version ${number - 1}`}
                  </button>
                ),
              },
            ]}
          />
          {chosen &&
            (before ? (
              <Difference from={before.content} to={chosen.content} />
            ) : (
              <Difference from={chosen.content} to={row} />
            ))}
        </Section>
      )}
      <Section title="History" id="history">
        <ol className="text-[13px]">
          {events.slice(0, 12).map((event) => (
            <li key={event.id} className="border-b border-line py-1 last:border-0">
              <span className="text-soft">
                <ClockTime at={event.at} />
              </span>{' '}
              {event.by} {WHAT[event.what]}
              {event.version === null ? '' : ` (version ${event.version})`}
              {event.detail?.said && <span className="block text-soft">{event.detail.said}</span>}
            </li>
          ))}
        </ol>
      </Section>
    </div>
  );
}

function Difference({ from, to }: { from: Template; to: Template }) {
  const languages = [...new Set([...from.variants, ...to.variants].map(({ language }) => language))];
  return (
    <div className="mt-3 rounded border border-line bg-panel p-3 text-[13px]" data-difference>
      {languages.map((language) => (
        <div key={language} className="mb-2 last:mb-0">
          <p className="font-mono text-xs text-soft">{language}</p>
          <p className="whitespace-pre-wrap">
            {diffWordsWithSpace(whole(from, language), whole(to, language)).map((piece, index) =>
              piece.added ? (
                // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one difference, in their order
                <ins key={index} className="text-moss decoration-2">
                  {piece.value}
                </ins>
              ) : piece.removed ? (
                // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one difference, in their order
                <del key={index} className="text-clay">
                  {piece.value}
                </del>
              ) : (
                piece.value
              ),
            )}
          </p>
        </div>
      ))}
    </div>
  );
}

function whole({ variants }: Template, language: string): string {
  const variant = variants.find((each) => each.language === language);
  return variant
    ? writtenParts(variant)
        .map(({ text }) => text)
        .join('\n')
    : '';
}
