'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useRef, useState, useTransition } from 'react';
import { toast } from 'sonner';
import { systemClock } from '../../../../clock/clock';
import type { Arrival } from '../../../../core/routing/arrival';
import { explain } from '../../../../core/routing/explain';
import type { RouteChoices } from '../../../../core/routing/names';
import { namesOf } from '../../../../core/routing/names';
import type { RouteFinding } from '../../../../core/routing/overlap';
import type { Route, RouteSet } from '../../../../core/routing/route';
import { groupWords, stepWords } from '../../../../core/routing/wording';
import type { OtherAutomation, PastMessage } from '../../../../operations/routing';
import { FindingLine } from '../../../../ui/domain/Findings';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { SavedByKey } from '../../../../ui/forms/SavedByKey';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { useUnsavedGuard } from '../../../../ui/forms/useUnsavedGuard';
import { Button } from '../../../../ui/primitives/Button';
import { newPartId } from '../../../../ui/primitives/ids';
import { useNow } from '../../../../ui/primitives/Time';
import { discardDraftAction, examineRoutesAction, pastArrivalAction, saveDraftAction } from './actions';
import { DryRun } from './DryRun';
import { INPUT } from './fields';
import { HoursFields } from './HoursFields';
import { OtherAutomations } from './OtherAutomations';
import { Publish } from './Publish';
import { RouteCard } from './RouteCard';

interface Props {
  published: { number: number; set: RouteSet };
  draft?: { content: RouteSet; changedAt: number; by: string };
  choices: RouteChoices;
  hits: Readonly<Record<string, number>>;
  findings: readonly RouteFinding[];
  past: readonly PastMessage[];
  automations: readonly OtherAutomation[];
  /** A message the dry run begins with. */
  asked?: string;
  admin: boolean;
}

/** The routes in order, changed where they stand, with what a message would meet beside them. */
export function RoutesEditor({
  published,
  draft,
  choices,
  hits,
  findings: given,
  past,
  automations,
  asked,
  admin,
}: Props) {
  const router = useRouter();
  const [set, setSet] = useState<RouteSet>(draft?.content ?? published.set);
  const [saved, setSaved] = useState({ set: draft?.content ?? published.set, changedAt: draft?.changedAt });
  const [open, setOpen] = useState<string>();
  const [search, setSearch] = useState('');
  const [saving, startSaving] = useTransition();
  const now = useNow();
  const [arrival, setArrival] = useState<Arrival>(() => made(choices, now));
  const unsaved = set !== saved.set && JSON.stringify(set) !== JSON.stringify(saved.set);
  useUnsavedGuard(unsaved);
  // What others write is taken over as it comes, but never over what is being written here: saving then says so.
  const seen = useRef(published.number);
  const thrownAway = useRef(0);
  useEffect(() => {
    // The page may still show what stood before one's own last saving.
    const older = seen.current === published.number && (draft?.changedAt ?? 0) < (saved.changedAt ?? 0);
    const gone = draft !== undefined && draft.changedAt <= thrownAway.current;
    if (older || gone || unsaved) return;
    seen.current = published.number;
    const content = draft?.content ?? published.set;
    setSaved({ set: content, changedAt: draft?.changedAt });
    setSet((present) => (JSON.stringify(present) === JSON.stringify(content) ? present : content));
  }, [published, draft, unsaved, saved.changedAt]);
  const findings = useFindings(set, given, saved.set);
  const names = useMemo(() => namesOf(choices, set), [choices, set]);
  const explained = useMemo(() => explain(set, arrival, names), [set, arrival, names]);

  const live = useMemo(() => {
    if (JSON.stringify(set) === JSON.stringify(published.set)) return undefined;
    const taken = explain(published.set, arrival, names).filter(({ outcome }) => outcome === 'taken');
    return taken.length > 0 ? taken.map(({ name }) => `“${name}”`).join(' and ') : 'no route';
  }, [set, published.set, arrival, names]);

  useEffect(() => {
    if (asked) void pastArrivalAction(asked).then((real) => real && setArrival(real));
  }, [asked]);

  const change = (routes: readonly Route[]) => setSet({ ...set, routes });
  const replace = (id: string, route: Route) => change(set.routes.map((each) => (each.id === id ? route : each)));
  function move(from: number, to: number) {
    if (to < 0 || to >= set.routes.length || from === to) return;
    const routes = [...set.routes];
    const [taken] = routes.splice(from, 1);
    if (taken) routes.splice(to, 0, taken);
    change(routes);
  }
  function add(route: Route, at = set.routes.length) {
    const routes = [...set.routes];
    routes.splice(at, 0, route);
    change(routes);
    setOpen(route.id);
  }

  function save() {
    if (!unsaved || saving) return;
    startSaving(async () => {
      const answer = await throughAsking(() => saveDraftAction(set, saved.changedAt));
      if (answer.status === 'refused') return void toast.error(answer.message, { duration: 12_000 });
      if (answer.status === 'done') setSaved({ set, changedAt: Number(answer.values?.changedAt) });
      toast.success('Saved as the draft. It decides nothing until it is published.');
    });
  }

  const wanted = search.trim().toLowerCase();
  const shown = set.routes.filter(
    (route) =>
      !wanted ||
      [route.name, groupWords(route.when, names), ...route.steps.map((step) => stepWords(step, names))]
        .join(' ')
        .toLowerCase()
        .includes(wanted),
  );
  const differs = JSON.stringify(saved.set) !== JSON.stringify(published.set);
  return (
    <SavedByKey className="mb-7" onSave={save}>
      <div className="sticky top-0 z-10 mb-3 flex flex-wrap items-center gap-3 border-b border-line bg-paper py-2">
        <span aria-live="polite" data-state={unsaved ? 'unsaved' : differs ? 'draft' : 'published'}>
          {unsaved ? (
            <span className="text-heather">◇ Not saved</span>
          ) : differs ? (
            <span className="text-heather">◇ Draft{draft ? ` of ${draft.by}` : ''}, not live</span>
          ) : (
            <span className="text-moss">■ As published</span>
          )}
          <span className="text-soft">
            {' '}
            · {published.number === 0 ? 'nothing is published yet' : `revision ${published.number} decides`}
          </span>
        </span>
        <input
          aria-label="Find a route"
          placeholder="Find a route"
          className={`${INPUT} w-44`}
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        {admin && (
          <span className="ml-auto flex gap-2">
            {differs && !unsaved && (
              <ActionButton
                tone="quiet"
                action={async () => {
                  const answer = await throughAsking(() => discardDraftAction());
                  thrownAway.current = saved.changedAt ?? 0;
                  setSaved({ set: published.set, changedAt: undefined });
                  setSet(published.set);
                  router.refresh();
                  return answer;
                }}
                confirm={{
                  title: 'Discard the draft?',
                  consequence: 'What was written in it is gone. What is published goes on.',
                  go: 'Discard it',
                }}
              >
                Discard the draft
              </ActionButton>
            )}
            <Button onClick={save} disabled={!unsaved || saving}>
              {saving ? 'Saving…' : 'Save the draft'}
            </Button>
            {differs && !unsaved && saved.changedAt !== undefined && (
              <Publish
                before={published.set}
                after={saved.set}
                seen={saved.changedAt}
                findings={findings}
                names={names}
              />
            )}
          </span>
        )}
      </div>
      <div className="grid gap-6 lg:grid-cols-[minmax(0,1fr)_340px]">
        <div>
          {findings
            .filter(({ route }) => route === undefined)
            .map((finding) => (
              <FindingLine key={finding.code} finding={finding} />
            ))}
          <ol className="mt-2 grid gap-2" aria-label="Routes in order">
            {shown.map((route) => {
              const place = set.routes.indexOf(route);
              const outcome = explained[place]?.outcome;
              return (
                <RouteCard
                  key={route.id}
                  route={route}
                  place={place}
                  count={set.routes.length}
                  open={open === route.id}
                  lit={outcome === 'taken' || outcome === 'after' ? outcome : undefined}
                  hits={hits[route.id] ?? 0}
                  findings={findings.filter((finding) => finding.route === route.id)}
                  names={names}
                  choices={choices}
                  hours={set.hours}
                  admin={admin}
                  onOpen={() => setOpen(open === route.id ? undefined : route.id)}
                  onChange={(changed) => replace(route.id, changed)}
                  onMove={(to) => move(place, to)}
                  onDropFrom={(from) => move(from, place)}
                  onCopy={() => add({ ...route, id: freshId(), name: `${route.name}, copied` }, place + 1)}
                  onRemove={() => change(set.routes.filter(({ id }) => id !== route.id))}
                />
              );
            })}
          </ol>
          {admin && (
            <div className="mt-3 flex gap-2">
              <Button onClick={() => add(blank('A new route'), lastPlace(set))}>Add a route</Button>
              {!set.routes.some(({ when, off }) => !off && groupWords(when, names) === 'always') && (
                <Button tone="quiet" onClick={() => add(blank('Everything else'))}>
                  Add a route for everything else
                </Button>
              )}
            </div>
          )}
          <h2 className="mt-6 mb-2 text-[15px] font-semibold">Office hours</h2>
          <HoursFields
            hours={set.hours}
            countries={choices.countries}
            zone={choices.zone}
            admin={admin}
            onChange={(hours) => setSet({ ...set, hours })}
          />
        </div>
        <div className="content-start lg:sticky lg:top-16 lg:max-h-[calc(100vh-80px)] lg:self-start lg:overflow-y-auto">
          <DryRun
            arrival={arrival}
            onArrival={setArrival}
            explained={explained}
            live={live}
            set={set}
            names={names}
            choices={choices}
            past={past}
            asked={asked}
          />
        </div>
      </div>
      <div className="mt-7">
        <OtherAutomations automations={automations} wanted={wanted} />
      </div>
    </SavedByKey>
  );
}

/** A new one goes before a last that takes everything: after it nothing is ever reached. */
function lastPlace({ routes }: RouteSet): number {
  const last = routes.at(-1);
  return last && last.when.of.length === 0 && last.when.match === 'all' ? routes.length - 1 : routes.length;
}

/** Examined on the server a moment after the last key: it knows what the installation has. */
function useFindings(set: RouteSet, given: readonly RouteFinding[], givenFor: RouteSet): readonly RouteFinding[] {
  const [found, setFound] = useState({ set: givenFor, findings: given });
  useEffect(() => {
    if (found.set === set) return;
    let late = false;
    const timer = systemClock.after(350, async () => {
      const findings = await throughAsking(() => examineRoutesAction(set));
      if (!late) setFound({ set, findings });
    });
    return () => {
      late = true;
      timer.cancel();
    };
  }, [set, found.set]);
  return found.findings;
}

function made(choices: RouteChoices, at: number): Arrival {
  return {
    text: 'BOOK Tuesday 14:20',
    channel: choices.channels[0]?.[0] ?? '',
    at,
    known: false,
    tags: [],
    attributes: {},
    language: choices.languages.includes('en') ? 'en' : choices.languages[0],
    media: false,
    conversation: 'new',
    open: {},
  };
}

function freshId(): string {
  return newPartId('rte');
}

function blank(name: string): Route {
  return {
    id: freshId(),
    name,
    when: { match: 'all', of: [] },
    steps: [],
    goesOn: false,
    stopsOnReply: false,
    off: false,
  };
}
