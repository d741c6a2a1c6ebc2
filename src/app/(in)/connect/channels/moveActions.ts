'use server';

import { revalidatePath } from 'next/cache';
import {
  endMove,
  handOverOtherSide,
  prepareMove,
  rehearseMove,
  swapSides,
  timeCutOver,
} from '../../../../operations/channels';
import type { Actor, AppContext } from '../../../../operations/context';
import { invalidText } from '../../../../operations/context';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

async function done(channelId: string, work: (ctx: AppContext, actor: Actor) => Promise<string>): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const message = await work(ctx, actor);
    revalidatePath(`/connect/channels/${channelId}`);
    return { status: 'done', message };
  });
}

export async function prepareMoveAction(channelId: string, form: FormData): Promise<FormState> {
  return done(channelId, async (ctx, actor) => {
    await prepareMove(ctx, actor, channelId, field(form, 'account'));
    return 'Both sides are listened to; nothing else has changed.';
  });
}

export async function handOverOtherAction(channelId: string, moveId: string): Promise<FormState> {
  return done(channelId, async (ctx, actor) => {
    await handOverOtherSide(ctx, actor, moveId);
    return 'The provider has saved the address.';
  });
}

export async function rehearseMoveAction(channelId: string, moveId: string, form: FormData): Promise<FormState> {
  return done(channelId, (ctx, actor) => rehearseMove(ctx, actor, moveId, field(form, 'to')));
}

export async function swapSidesAction(channelId: string, moveId: string): Promise<FormState> {
  return done(channelId, async (ctx, actor) => {
    await swapSides(ctx, actor, moveId);
    return 'The other side sends from now on. Prove its hops.';
  });
}

export async function timeCutOverAction(channelId: string, moveId: string, form: FormData): Promise<FormState> {
  return done(channelId, async (ctx, actor) => {
    const written = field(form, 'at').trim();
    // A time without its zone means another one to everybody.
    const at = /(?:Z|[+-]\d\d:?\d\d)$/i.test(written) ? Date.parse(written) : Number.NaN;
    if (written && Number.isNaN(at))
      throw invalidText('at', 'This is no time with its zone.', 'Such as 2027-02-01T06:00Z or 2027-02-01T07:00+01:00.');
    await timeCutOver(ctx, actor, moveId, written ? at : null);
    return written ? 'It moves at that time.' : 'It moves when somebody says so.';
  });
}

export async function endMoveAction(channelId: string, moveId: string): Promise<FormState> {
  return done(channelId, async (ctx, actor) => {
    await endMove(ctx, actor, moveId);
    return 'The move is over.';
  });
}
