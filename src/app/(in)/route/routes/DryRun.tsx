'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import type { Arrival, ConversationState } from '../../../../core/routing/arrival';
import type { ExplainedGroup, ExplainedRoute } from '../../../../core/routing/explain';
import type { RouteChoices } from '../../../../core/routing/names';
import { list, type RouteNames } from '../../../../core/routing/names';
import { insideOf, type RouteSet, type RouteStep } from '../../../../core/routing/route';
import { stepWords } from '../../../../core/routing/wording';
import type { PastMessage } from '../../../../operations/routing';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { Panel } from '../../../../ui/primitives/layout';
import { pastArrivalAction } from './actions';
import { Choice, INPUT, Several, TextFor, Words } from './fields';

interface Props {
  arrival: Arrival;
  onArrival: (arrival: Arrival) => void;
  explained: readonly ExplainedRoute[];
  /** What decides now, where the draft differs from it. */
  live?: string;
  set: RouteSet;
  names: RouteNames;
  choices: RouteChoices;
  past: readonly PastMessage[];
  asked?: string;
}

const FIELD = `${INPUT} w-full`;

/** One message, made up or a real one, put to the draft: nothing is sent, kept or told. */
export function DryRun({ arrival, onArrival, explained, live, set, names, choices, past, asked }: Props) {
  const [chosen, setChosen] = useState(asked ?? '');
  const change = (changed: Partial<Arrival>) => {
    setChosen('');
    onArrival({ ...arrival, ...changed });
  };
  const taken = explained.filter(({ outcome }) => outcome === 'taken');
  const unasked = explained.find(({ outcome }) => outcome === 'unasked');
  return (
    <Panel className="grid content-start gap-3 p-3">
      <h2 className="text-[15px] font-semibold">Dry run</h2>
      <select
        aria-label="Begin with a message that came in"
        className={FIELD}
        value={chosen}
        onChange={async (event) => {
          const id = event.target.value;
          setChosen(id);
          const real = id ? await throughAsking(() => pastArrivalAction(id)) : undefined;
          if (real) onArrival(real);
          else if (id) toast.error('This message is no longer kept.');
        }}
      >
        <option value="">a made-up message</option>
        {past.map(({ id, text, from }) => (
          <option key={id} value={id}>
            {from}: {text.slice(0, 60)}
          </option>
        ))}
      </select>
      <textarea
        aria-label="Text of the message"
        rows={2}
        className={FIELD}
        value={arrival.text}
        onChange={(event) => change({ text: event.target.value })}
      />
      <div className="grid grid-cols-2 gap-2 text-[13px]">
        <Choice
          label="Over"
          value={arrival.channel}
          options={choices.channels}
          onChange={(channel) => change({ channel })}
        />
        <Choice
          label="From whom"
          value={arrival.known ? 'yes' : 'no'}
          options={[
            ['no', 'from somebody new'],
            ['yes', 'from a contact'],
          ]}
          onChange={(known) => change({ known: known === 'yes' })}
        />
        <input
          type="datetime-local"
          aria-label="When"
          className={FIELD}
          value={localOf(arrival.at)}
          onChange={(event) => event.target.value && change({ at: new Date(event.target.value).getTime() })}
        />
        <Choice
          label="The conversation is"
          value={arrival.conversation}
          options={(['new', 'open', 'waiting', 'closed'] as ConversationState[]).map(
            (state) => [state, `conversation ${state}`] as const,
          )}
          onChange={(conversation) => change({ conversation })}
        />
      </div>
      <details>
        <summary className="cursor-pointer text-[13px] text-soft">More about who sends it</summary>
        <div className="mt-2 grid gap-2 text-[13px]">
          <Words
            label="tags"
            values={arrival.tags}
            onChange={(tags) => change({ tags: tags.map((tag) => tag.toLowerCase()) })}
          />
          <input
            aria-label="Language"
            placeholder="language, such as en or sv"
            className={FIELD}
            value={arrival.language ?? ''}
            onChange={(event) => change({ language: event.target.value.trim() || undefined })}
          />
          <TextFor
            label="Attributes"
            placeholder="attributes, such as city: Norwich; age: 17"
            className={FIELD}
            value={arrival.attributes}
            write={(attributes) =>
              Object.entries(attributes)
                .map(([name, value]) => `${name}: ${value}`)
                .join('; ')
            }
            read={attributesIn}
            onChange={(attributes) => change({ attributes })}
          />
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={arrival.media}
              onChange={(event) => change({ media: event.target.checked })}
            />
            with a file
          </label>
          {choices.answerable.length > 0 && (
            <div>
              <span className="text-soft">Answers the template</span>{' '}
              <Several
                label="Answers the template"
                values={arrival.answers ? [arrival.answers] : []}
                options={choices.answerable}
                onChange={(ids) => change({ answers: ids.at(-1) })}
              />
            </div>
          )}
        </div>
      </details>
      {choices.counted.map(([key, words]) => (
        <div key={key} className="flex items-center justify-between gap-2 text-[13px]">
          <span>Open {words}</span>
          <Choice
            label={`Open ${words}`}
            value={String(arrival.open[key] ?? 'unasked')}
            options={[
              ['unasked', 'not asked'],
              ['0', 'none'],
              ['1', 'one'],
              ['2', 'two'],
              ['failed', 'the app does not answer'],
            ]}
            onChange={(count) => {
              const { [key]: _, ...others } = arrival.open;
              change({
                open:
                  count === 'unasked' ? others : { ...others, [key]: count === 'failed' ? 'failed' : Number(count) },
              });
            }}
          />
        </div>
      ))}
      <div
        className="border-t border-line pt-2"
        aria-live="polite"
        data-dry={taken.map(({ name }) => name).join(', ') || (unasked ? 'unasked' : 'none')}
      >
        {unasked && !before(explained, unasked, taken) ? (
          <p className="text-ochre-ink">▲ {unasked.name}: an app would be asked first. Say above what it answers.</p>
        ) : taken.length === 0 ? (
          <p className="text-clay">■ No route matches: it stays on the shared desk, shown as unrouted.</p>
        ) : (
          taken.map(({ id, name }) => (
            <div key={id} className="mb-1">
              <p>
                <span className="text-heather">◆</span> Handled by <strong>{name}</strong>
              </p>
              <Would steps={set.routes.find((route) => route.id === id)?.steps ?? []} names={names} />
            </div>
          ))
        )}
        {live && (
          <p className="mt-1 text-[13px] text-ochre-ink" data-live={live}>
            ▲ This is the draft, and it decides nothing. Live, it goes to {live}.
          </p>
        )}
        <p className="mt-1 text-[12px] text-soft">Nothing of this is done: it is only shown.</p>
      </div>
      <ol className="grid gap-1 text-[13px]">
        {explained.map((route, index) => (
          <Considered key={route.id} route={route} place={index + 1} />
        ))}
      </ol>
    </Panel>
  );
}

/** Whether something had taken the message before an app had to be asked. */
function before(
  explained: readonly ExplainedRoute[],
  unasked: ExplainedRoute,
  taken: readonly ExplainedRoute[],
): boolean {
  const [first] = taken;
  return first !== undefined && explained.indexOf(first) < explained.indexOf(unasked);
}

function Would({ steps, names, depth = 0 }: { steps: readonly RouteStep[]; names: RouteNames; depth?: number }) {
  if (steps.length === 0 && depth === 0)
    return <p className="pl-4 text-[13px] text-soft">It would stay on the shared desk.</p>;
  return (
    <ol className="list-decimal pl-8 text-[13px]">
      {steps.map((step, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a step is what stands at its place
        <li key={index}>
          would {stepWords(step, names)}
          {step.do === 'reply' && 'text' in step && step.text.length > 60 && (
            <span className="block text-soft">{step.text}</span>
          )}
          {insideOf(step).length > 0 && depth < 3 && <Would steps={insideOf(step)} names={names} depth={depth + 1} />}
        </li>
      ))}
    </ol>
  );
}

const OUTCOMES: Record<ExplainedRoute['outcome'], { mark: string; words: string; colour: string }> = {
  taken: { mark: '◆', words: 'matches', colour: 'text-heather' },
  'not-matched': { mark: '◇', words: 'does not match', colour: 'text-soft' },
  unasked: { mark: '▲', words: 'an app must be asked', colour: 'text-ochre-ink' },
  after: { mark: '◈', words: 'matches, but is not reached', colour: 'text-soft' },
  off: { mark: '–', words: 'is off', colour: 'text-soft' },
};

function Considered({ route, place }: { route: ExplainedRoute; place: number }) {
  const { mark, words, colour } = OUTCOMES[route.outcome];
  return (
    <li data-considered={route.name} data-outcome={route.outcome}>
      <details>
        <summary className="cursor-pointer">
          <span className={colour} aria-hidden>
            {mark}{' '}
          </span>
          {place}. {route.name} <span className={colour}>{words}</span>
        </summary>
        <div className="pb-1 pl-5">
          <Conditions group={route.when} />
          {route.differ && route.differ.length > 0 && (
            <p className="text-soft">It would match if {list(route.differ, 'and')}.</p>
          )}
        </div>
      </details>
    </li>
  );
}

function Conditions({ group }: { group: ExplainedGroup }) {
  if (group.parts.length === 0)
    return <p className="text-soft">{group.match === 'any' ? 'It never matches.' : 'It always matches.'}</p>;
  return (
    <ul>
      {group.parts.map((part, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a condition is what stands at its place
        <li key={index}>
          {part.kind === 'group' ? (
            <>
              <span className="text-soft">{{ all: 'all of', any: 'any of', none: 'none of' }[part.match]}</span>
              <div className="pl-4">
                <Conditions group={part} />
              </div>
            </>
          ) : (
            <>
              <Answered answer={part.answer} /> {part.words} <span className="text-soft">— saw {part.saw}</span>
            </>
          )}
        </li>
      ))}
    </ul>
  );
}

function Answered({ answer }: { answer: boolean | undefined }) {
  if (answer === undefined) return <span className="text-ochre-ink">?</span>;
  return answer ? <span className="text-moss">yes</span> : <span className="text-clay">no</span>;
}

function attributesIn(text: string): Arrival['attributes'] {
  return Object.fromEntries(
    text.split(';').flatMap((each) => {
      const cut = each.indexOf(':');
      return cut > 0 ? [[each.slice(0, cut).trim(), each.slice(cut + 1).trim()]] : [];
    }),
  );
}

/** For a field of the browser, in its own zone. */
function localOf(at: number): string {
  const date = new Date(at - new Date(at).getTimezoneOffset() * 60_000);
  return date.toISOString().slice(0, 16);
}
