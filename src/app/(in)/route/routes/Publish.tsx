'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useState, useTransition } from 'react';
import { toast } from 'sonner';
import { systemClock } from '../../../../clock/clock';
import { list, type RouteNames } from '../../../../core/routing/names';
import type { RouteFinding } from '../../../../core/routing/overlap';
import type { RouteSet } from '../../../../core/routing/route';
import { groupWords, stepWords } from '../../../../core/routing/wording';
import { FindingLine } from '../../../../ui/domain/Findings';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { Button } from '../../../../ui/primitives/Button';
import { Dialog } from '../../../../ui/primitives/Dialog';
import { Link } from '../../../../ui/primitives/Link';
import { beginReplayAction, publishAction, type ReplayState, replayAction, testsAgainstAction } from './actions';
import { INPUT } from './fields';

interface Props {
  before: RouteSet;
  after: RouteSet;
  seen: number;
  findings: readonly RouteFinding[];
  names: RouteNames;
}

/** What would change, on paper and for the messages of the past; then it may be published. */
export function Publish({ before, after, seen, findings, names }: Props) {
  const router = useRouter();
  const [open, setOpen] = useState(false);
  const [note, setNote] = useState('');
  const [publishing, startPublishing] = useTransition();
  const errors = findings.filter(({ severity }) => severity === 'error');
  const replay = useReplay(open ? after : undefined);
  const against = useTestsAgainst(open ? after : undefined);
  const doubtful = errors.length > 0 || against.length > 0;

  function publish() {
    startPublishing(async () => {
      const answer = await throughAsking(() => publishAction(seen, note));
      if (answer.status === 'refused') return void toast.error(answer.message);
      setOpen(false);
      toast.success(answer.status === 'done' ? answer.message : 'Published');
      router.refresh();
    });
  }

  return (
    <>
      <Button tone="primary" onClick={() => setOpen(true)}>
        Publish…
      </Button>
      <Dialog open={open} onOpenChange={setOpen} title="Publish the draft?" wide>
        <div className="grid gap-x-6 gap-y-4 md:grid-cols-2">
          <section>
            <h3 className="mb-1 font-semibold">What is different</h3>
            <Differences before={before} after={after} names={names} />
            {errors.length > 0 && (
              <div className="mt-3">
                <p className="text-clay">It has {errors.length === 1 ? 'a fault' : `${errors.length} faults`}:</p>
                {errors.map((finding) => (
                  <FindingLine key={`${finding.code} ${finding.problem}`} finding={finding} />
                ))}
              </div>
            )}
            {against.length > 0 && (
              <div className="mt-3" data-guarded={against.length}>
                <p className="text-clay">
                  {against.length === 1 ? 'A required delivery test' : `${against.length} required delivery tests`}{' '}
                  would fail:
                </p>
                {against.map(({ id, name, would }) => (
                  <p key={id} className="text-[13px]">
                    ◧ <Link href={`/prove/tests/${id}`}>{name}</Link>: its text would be handled by {would}
                  </p>
                ))}
              </div>
            )}
          </section>
          <section aria-live="polite" data-replay={replay?.summary ? 'done' : 'running'}>
            <h3 className="mb-1 font-semibold">Replay of past messages</h3>
            <ReplaySummary state={replay} />
          </section>
        </div>
        <div className="mt-4 flex flex-wrap items-center justify-end gap-3 border-t border-line pt-3">
          <input
            aria-label="Note"
            placeholder="Note"
            className={`${INPUT} w-72`}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          <Button onClick={() => setOpen(false)}>Not yet</Button>
          <Button tone={doubtful ? 'danger' : 'primary'} disabled={publishing} onClick={publish}>
            {publishing ? 'Publishing…' : doubtful ? 'Publish anyway' : 'Publish'}
          </Button>
        </div>
      </Dialog>
    </>
  );
}

/** Delivery tests that guard publishing and that the set would break. */
function useTestsAgainst(set: RouteSet | undefined): { id: string; name: string; would: string }[] {
  const [against, setAgainst] = useState<{ id: string; name: string; would: string }[]>([]);
  useEffect(() => {
    let ended = false;
    if (!set) return setAgainst([]);
    void testsAgainstAction(set).then((found) => ended || setAgainst(found));
    return () => {
      ended = true;
    };
  }, [set]);
  return against;
}

/** Begins a replay when there is a set, and asks how far it is. */
function useReplay(set: RouteSet | undefined): ReplayState | undefined {
  const [state, setState] = useState<ReplayState>();
  useEffect(() => {
    if (!set) return setState(undefined);
    let ended = false;
    void (async () => {
      const begun = await throughAsking(() => beginReplayAction(set));
      const id = begun.status === 'done' ? begun.values?.id : undefined;
      while (id && !ended) {
        const next = await throughAsking(() => replayAction(id));
        if (ended) return;
        setState(next);
        if (next.summary) return;
        await systemClock.pause(400);
      }
    })();
    return () => {
      ended = true;
    };
  }, [set]);
  return state;
}

function ReplaySummary({ state }: { state: ReplayState | undefined }) {
  if (!state?.summary)
    return (
      <p className="text-soft">
        {state && state.messages > 0
          ? `${state.done.toLocaleString('en')} of ${state.messages.toLocaleString('en')} …`
          : 'Waiting for the engine …'}
      </p>
    );
  const { messages, same, unknown, groups } = state.summary;
  if (messages === 0) return <p className="text-soft">No message has come in yet.</p>;
  return (
    <>
      <p>
        Of the last <strong>{messages.toLocaleString('en')}</strong> messages,{' '}
        <strong>{same.toLocaleString('en')}</strong> would go where they go now
        {unknown > 0 && <>; of {unknown.toLocaleString('en')} it cannot be told, as an app was not asked then</>}.
      </p>
      <ul className="mt-2 grid gap-1.5">
        {groups.slice(0, 12).map((group) => (
          <li key={`${group.before.join()} ${group.after.join()}`} className="text-[13px]" data-moved={group.count}>
            <strong className="tabular-nums">{group.count.toLocaleString('en')}</strong> from {named(group.before)} to{' '}
            {named(group.after)}
            <span className="text-soft">
              , such as{' '}
              {group.examples.slice(0, 3).map((id, index) => (
                <span key={id}>
                  {index > 0 && ', '}
                  <Link href={`/watch/messages/${id}`}>this</Link>
                </span>
              ))}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

const named = (names: readonly string[]) =>
  names.length === 0
    ? 'no route'
    : list(
        names.map((name) => `“${name}”`),
        'and',
      );

function Differences({ before, after, names }: { before: RouteSet; after: RouteSet; names: RouteNames }) {
  const lines = differences(before, after, names);
  if (lines.length === 0) return <p className="text-soft">Nothing.</p>;
  return (
    <ul className="grid gap-1 text-[13px]">
      {lines.map(({ what, words }) => (
        <li key={`${what} ${words}`}>
          <span className={what === 'gone' ? 'text-clay' : what === 'new' ? 'text-moss' : 'text-heather'}>
            {{ new: '+ ', gone: '− ', changed: '◇ ', moved: '↕ ' }[what]}
          </span>
          {words}
        </li>
      ))}
    </ul>
  );
}

function differences(before: RouteSet, after: RouteSet, names: RouteNames) {
  const lines: { what: 'new' | 'gone' | 'changed' | 'moved'; words: string }[] = [];
  const old = new Map(before.routes.map((route, place) => [route.id, { route, place }]));
  const kept = after.routes.filter(({ id }) => old.has(id)).map(({ id }) => id);
  const order = before.routes.filter(({ id }) => kept.includes(id)).map(({ id }) => id);
  for (const [place, route] of after.routes.entries()) {
    const known = old.get(route.id);
    const steps = route.steps.map((step) => stepWords(step, names)).join(', then ') || 'leave it on the shared desk';
    if (!known)
      lines.push({
        what: 'new',
        words: `${place + 1}. ${route.name}: when ${groupWords(route.when, names)}, ${steps}`,
      });
    else if (JSON.stringify(known.route) !== JSON.stringify(route))
      lines.push({
        what: 'changed',
        words: `${route.name}: when ${groupWords(route.when, names)}, ${steps}${route.off ? ' (switched off)' : ''}`,
      });
    if (known && kept.indexOf(route.id) !== order.indexOf(route.id))
      lines.push({ what: 'moved', words: `${route.name} is now number ${place + 1}` });
  }
  for (const { id, name } of before.routes)
    if (!after.routes.some((route) => route.id === id)) lines.push({ what: 'gone', words: name });
  if (JSON.stringify(before.hours) !== JSON.stringify(after.hours))
    lines.push({ what: 'changed', words: 'Office hours' });
  return lines;
}
