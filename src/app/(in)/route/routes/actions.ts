'use server';

import type { Arrival } from '../../../../core/routing/arrival';
import type { RouteFinding } from '../../../../core/routing/overlap';
import { readRouteSet } from '../../../../core/routing/readSet';
import type { ReplaySummary } from '../../../../core/routing/replay';
import { runGuardingTests, testsAgainstDraft } from '../../../../operations/deliveryTests';
import { discardDraft, publishDraft, returnToRevision, saveDraft } from '../../../../operations/routes';
import { beginReplay, examineSet, getReplay, pastArrival } from '../../../../operations/routing';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function saveDraftAction(content: unknown, seen: number | undefined): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { changedAt } = await saveDraft(ctx, actor, content, seen);
    return { status: 'done', values: { changedAt: String(changedAt) } };
  });
}

export async function discardDraftAction(): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await discardDraft(ctx, actor);
    return { status: 'done', message: 'The draft is gone; what is published goes on' };
  });
}

export async function publishAction(seen: number, note: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { number } = await publishDraft(ctx, actor, { note, seen });
    const guarding = await runGuardingTests(ctx, actor);
    const tests =
      guarding === 0
        ? ''
        : `; ${guarding === 1 ? 'a delivery test proves' : `${guarding} delivery tests prove`} it now`;
    return { status: 'done', message: `Revision ${number} decides from now on${tests}` };
  });
}

export async function returnAction(number: number): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { number: fresh } = await returnToRevision(ctx, actor, number);
    return { status: 'done', message: `Revision ${number} decides again, as revision ${fresh}` };
  });
}

/** Delivery tests that guard publishing and that this set would break. */
export async function testsAgainstAction(content: unknown): Promise<{ id: string; name: string; would: string }[]> {
  const { ctx, actor } = await signedIn();
  const read = readRouteSet(content);
  return read.ok ? testsAgainstDraft(ctx, actor, read.set) : [];
}

/** Findings about a set as it is written; none where it cannot be read. */
export async function examineRoutesAction(content: unknown): Promise<RouteFinding[]> {
  const { ctx, actor } = await signedIn();
  const read = readRouteSet(content);
  return read.ok ? examineSet(ctx, actor, read.set) : [];
}

export async function pastArrivalAction(id: string): Promise<Arrival | undefined> {
  const { ctx, actor } = await signedIn();
  return pastArrival(ctx, actor, id);
}

export async function beginReplayAction(content: unknown): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await beginReplay(ctx, actor, content);
    return { status: 'done', values: { id } };
  });
}

export interface ReplayState {
  done: number;
  messages: number;
  summary: ReplaySummary | null;
}

export async function replayAction(id: string): Promise<ReplayState> {
  const { ctx, actor } = await signedIn();
  const { done, messages, summary } = await getReplay(ctx, actor, id);
  return { done, messages, summary };
}
