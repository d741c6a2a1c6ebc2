'use server';

import { revalidatePath } from 'next/cache';
import { headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { OperationError } from '../../../operations/context';
import {
  actorOf,
  finishEnrolling,
  keepPasskey,
  keepTimeCodes,
  makeRecoveryCodes,
  noteEnrolled,
  passkeyToAdd,
  passkeyToShow,
  showSecondFactor,
  timeCodesToAdd,
  type WaitingSignIn,
  waitingSignIn,
} from '../../../operations/people';
import type { FormState } from '../../../ui/forms/formState';
import type { PasskeyAsked, PasskeyOffered } from '../../../ui/identity/passkeys';
import type { TimeCodesOffered } from '../../../ui/identity/TimeCodes';
import { landingOf } from '../../_server/admit';
import { answerForm, field } from '../../_server/forms';
import { keptStep, openSession } from '../../_server/session';
import { squareCode } from '../../_server/squareCode';
import { windgap } from '../../_server/windgap';

/** Whoever waits here with a right password. */
async function waiting(step: WaitingSignIn['step']): Promise<WaitingSignIn & { token: string }> {
  const token = await keptStep();
  const found = await waitingSignIn(await windgap(), token);
  if (found?.step !== step) throw new OperationError('invalid', 'This took longer than ten minutes. Sign in again.');
  return { ...found, token };
}

async function letIn({ person, way, next }: Awaited<ReturnType<typeof finishEnrolling>>): Promise<never> {
  await openSession(person, { way });
  redirect(landingOf(person, next));
}

async function caller(): Promise<string> {
  return (await headers()).get('x-forwarded-for') ?? 'unknown';
}

export async function codeAction(by: 'code' | 'recovery code', form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const kind = by === 'code' ? 'code' : 'recovery code';
    const shown = { by: kind, code: field(form, 'code').slice(0, 40) } as const;
    return letIn(await showSecondFactor(await windgap(), await keptStep(), shown, await caller()));
  });
}

export async function askSecondPasskeyAction(): Promise<PasskeyAsked> {
  const { person } = await waiting('second');
  return passkeyToShow(await windgap(), person);
}

export async function secondPasskeyAction(token: string, answer: unknown): Promise<FormState> {
  return answerForm(async () => {
    const shown = { by: 'passkey', token: String(token), answer } as const;
    return letIn(await showSecondFactor(await windgap(), await keptStep(), shown, await caller()));
  });
}

export async function offerPasskeyAction(): Promise<PasskeyOffered> {
  const { person } = await waiting('enrol');
  return passkeyToAdd(await windgap(), person);
}

export async function enrolPasskeyAction(token: string, answer: unknown, name: string): Promise<FormState> {
  return answerForm(async () => {
    const ctx = await windgap();
    const { person, token: step } = await waiting('enrol');
    await keepPasskey(ctx, actorOf(person), { token: String(token), answer, name: String(name), here: '' });
    await noteEnrolled(ctx, step);
    revalidatePath('/sign-in/second');
    return { status: 'done' };
  });
}

export async function offerCodesAction(): Promise<TimeCodesOffered> {
  const { person } = await waiting('enrol');
  const { uri, ...offered } = await timeCodesToAdd(await windgap(), person);
  return { ...offered, picture: squareCode(uri) };
}

export async function enrolCodesAction(token: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const ctx = await windgap();
    const { person, token: step } = await waiting('enrol');
    await keepTimeCodes(ctx, actorOf(person), { token: String(token), code: field(form, 'code'), here: '' });
    await noteEnrolled(ctx, step);
    revalidatePath('/sign-in/second');
    return { status: 'done' };
  });
}

export async function firstRecoveryCodesAction(): Promise<FormState> {
  return answerForm(async () => {
    const { person, done } = await waiting('enrol');
    if (!done) throw new OperationError('conflict', 'Set up a second factor first.');
    const codes = await makeRecoveryCodes(await windgap(), actorOf(person));
    return { status: 'done', values: { codes: codes.join('\n') } };
  });
}

export async function goOnAction(): Promise<FormState> {
  return answerForm(async () => letIn(await finishEnrolling(await windgap(), await keptStep())));
}
