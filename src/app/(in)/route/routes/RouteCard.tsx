'use client';

import { type Group, isGroup } from '../../../../core/routing/group';
import type { OfficeHours } from '../../../../core/routing/hours';
import type { RouteChoices, RouteNames } from '../../../../core/routing/names';
import type { RouteFinding } from '../../../../core/routing/overlap';
import { insideOf, type Route, type RouteStep } from '../../../../core/routing/route';
import { conditionWords, groupWords, stepWords } from '../../../../core/routing/wording';
import { FindingLine } from '../../../../ui/domain/Findings';
import { GroupFields } from './ConditionFields';
import { INPUT, Small } from './fields';
import { StepsFields } from './StepFields';

interface Props {
  route: Route;
  place: number;
  count: number;
  open: boolean;
  /** Whether the dry run's message is taken by it, or would be. */
  lit: 'taken' | 'after' | undefined;
  hits: number;
  findings: readonly RouteFinding[];
  names: RouteNames;
  choices: RouteChoices;
  hours: readonly OfficeHours[];
  admin: boolean;
  onOpen: () => void;
  onChange: (route: Route) => void;
  onMove: (to: number) => void;
  /** Another was dropped here. */
  onDropFrom: (from: number) => void;
  onCopy: () => void;
  onRemove: () => void;
}

/** One route as a sentence; opened, its parts can be changed where they stand. */
export function RouteCard(props: Props) {
  const { route, place, open, lit, hits, findings, names, admin, onOpen, onMove } = props;
  return (
    <li
      id={route.id}
      className={`scroll-mt-16 rounded-md border bg-panel ${lit === 'taken' ? 'border-heather' : 'border-line'} ${route.off ? 'opacity-70' : ''}`}
      data-route={route.name}
      data-lit={lit}
      draggable={admin && !open}
      onDragStart={(event) => {
        event.dataTransfer.setData('text/plain', String(place));
        event.dataTransfer.effectAllowed = 'move';
      }}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const from = Number(event.dataTransfer.getData('text/plain'));
        if (Number.isInteger(from)) props.onDropFrom(from);
      }}
    >
      <div className="flex items-start gap-3 px-3 py-2.5">
        <span className="w-5 shrink-0 pt-0.5 text-right font-mono text-xs text-soft tabular-nums">{place + 1}</span>
        <div className="min-w-0 grow">
          <button
            type="button"
            aria-expanded={open}
            onClick={onOpen}
            onKeyDown={(event) => {
              if (!admin || !event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
              event.preventDefault();
              onMove(place + (event.key === 'ArrowUp' ? -1 : 1));
            }}
            className="block w-full text-left"
          >
            <span className="flex flex-wrap items-baseline gap-x-2">
              <span className="font-semibold">{route.name || 'Without a name'}</span>
              {lit === 'taken' && <span className="text-[13px] text-heather">◆ matches</span>}
              {lit === 'after' && (
                <span className="text-[13px] text-soft">would match, but an earlier route decided</span>
              )}
              {route.off && <span className="text-[13px] text-soft">switched off</span>}
            </span>
            <Sentence route={route} names={names} />
          </button>
          {findings.map((finding) => (
            <FindingLine key={`${finding.code} ${finding.problem}`} finding={finding} />
          ))}
          {open && <Editing {...props} />}
        </div>
        <span
          className="pt-0.5 text-right text-[13px] whitespace-nowrap text-soft tabular-nums"
          title="Messages handled in seven days"
        >
          {hits} in 7 days
        </span>
      </div>
    </li>
  );
}

function Sentence({ route, names }: { route: Route; names: RouteNames }) {
  const always = groupWords(route.when, names) === 'always';
  return (
    <span className="mt-0.5 block text-[13.5px] leading-relaxed">
      {always ? (
        <span className="text-soft">Whatever comes, </span>
      ) : (
        <>
          <span className="text-soft">When </span>
          <GroupSentence group={route.when} names={names} />
          <span className="text-soft">, </span>
        </>
      )}
      {route.steps.length === 0 ? (
        <span className="text-soft">leave it on the shared desk</span>
      ) : (
        <StepsSentence steps={route.steps} names={names} />
      )}
      <span className="text-soft">{route.goesOn ? '; then look at the next route too.' : '.'}</span>
    </span>
  );
}

function GroupSentence({ group, names }: { group: Group; names: RouteNames }) {
  const joint = group.match === 'all' ? ' and ' : ' or ';
  return (
    <>
      {group.match === 'none' && <span className="text-soft">not </span>}
      {group.of.map((part, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a condition is what stands at its place
        <span key={index}>
          {index > 0 && <span className="text-soft">{joint}</span>}
          {isGroup(part) ? (
            <span>
              (<GroupSentence group={part} names={names} />)
            </span>
          ) : (
            <Marked words={conditionWords(part, names)} />
          )}
        </span>
      ))}
    </>
  );
}

/** What stands in quotation marks is what people type: it is set apart. */
function Marked({ words }: { words: string }) {
  return (
    <>
      {words.split(/(“[^”]*”)/).map((piece, index) =>
        piece.startsWith('“') ? (
          // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one text
          <span key={index} className="rounded bg-paper px-1 font-mono text-[12.5px]">
            {piece.slice(1, -1)}
          </span>
        ) : (
          piece
        ),
      )}
    </>
  );
}

function StepsSentence({ steps, names }: { steps: readonly RouteStep[]; names: RouteNames }) {
  return (
    <>
      {steps.map((step, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a step is what stands at its place
        <span key={index}>
          {index > 0 && <span className="text-soft">, then </span>}
          {stepWords(step, names)}
          {insideOf(step).length > 0 && <span className="text-soft"> …</span>}
        </span>
      ))}
    </>
  );
}

function Editing({ route, place, count, choices, hours, admin, onChange, onMove, onCopy, onRemove }: Props) {
  const context = { choices, hours };
  return (
    <fieldset disabled={!admin} className="mt-2 grid gap-3 border-t border-line pt-3">
      <label className="flex items-center gap-2 text-[13px]">
        Name
        <input
          className={`${INPUT} w-72`}
          value={route.name}
          onChange={(event) => onChange({ ...route, name: event.target.value })}
        />
      </label>
      <GroupFields group={route.when} context={context} onChange={(when) => onChange({ ...route, when })} />
      <div>
        <p className="mb-1 text-[13px]">Then</p>
        <StepsFields
          label={`Steps of ${route.name}`}
          steps={route.steps}
          context={context}
          onChange={(steps) => onChange({ ...route, steps })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-[13px]">
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={route.goesOn}
            onChange={(event) => onChange({ ...route, goesOn: event.target.checked })}
          />
          look at the next route too
        </label>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={route.stopsOnReply}
            onChange={(event) => onChange({ ...route, stopsOnReply: event.target.checked })}
          />
          give up what waits when they write again
        </label>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={route.off}
            onChange={(event) => onChange({ ...route, off: event.target.checked })}
          />
          switched off
        </label>
        <span className="ml-auto flex">
          <Small disabled={place === 0} onClick={() => onMove(place - 1)}>
            Earlier
          </Small>
          <Small disabled={place === count - 1} onClick={() => onMove(place + 1)}>
            Later
          </Small>
          <Small onClick={onCopy}>Copy</Small>
          <Small onClick={onRemove}>Remove the route</Small>
        </span>
      </div>
    </fieldset>
  );
}
