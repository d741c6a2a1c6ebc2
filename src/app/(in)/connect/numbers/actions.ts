'use server';

import { isPurpose } from '../../../../core/connect/purposes';
import {
  claimNumber,
  confirmCode,
  releaseNumber,
  searchNumbers,
  setPurpose,
  startCode,
} from '../../../../operations/accounts';
import type { Asks, FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function purposeAction(numberId: string, purpose: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setPurpose(ctx, actor, numberId, isPurpose(purpose) ? purpose : null);
    return { status: 'done' };
  });
}

export async function releaseAction(numberId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await releaseNumber(ctx, actor, numberId);
    return { status: 'done', message: 'The number is released' };
  });
}

export async function startNumberAction(accountId: string, remoteId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await startCode(ctx, actor, accountId, { kind: 'number', id: remoteId });
    return { status: 'done' };
  });
}

export async function confirmNumberAction(accountId: string, remoteId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await confirmCode(ctx, actor, accountId, { kind: 'number', id: remoteId }, field(form, 'code'));
    return { status: 'done', message: 'The number is proven' };
  });
}

export type SearchAnswer =
  | ({ ok: true } & Awaited<ReturnType<typeof searchNumbers>>)
  | { ok: false; message: string; remedy?: string };

export async function searchAction(input: {
  accountId: string;
  country: string;
  areaCode: string;
  digits: string;
}): Promise<SearchAnswer | Asks> {
  let found: Awaited<ReturnType<typeof searchNumbers>> = { offers: [], demands: undefined };
  const answer = await answerForm(async () => {
    const { ctx, actor } = await signedIn();
    found = await searchNumbers(ctx, actor, input);
    return { status: 'done' };
  });
  if (answer.status === 'ask') return answer;
  if (answer.status === 'refused')
    return { ok: false, message: answer.message, remedy: answer.findings[0]?.finding.remedy };
  return { ok: true, ...found };
}

export async function claimAction(
  input: { accountId: string; offerId: string; address: string },
  form: FormData,
): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const purpose = field(form, 'purpose');
    await claimNumber(ctx, actor, { ...input, purpose: isPurpose(purpose) ? purpose : undefined });
    return { status: 'done', message: `${input.address} is yours. Make it a channel on the account’s page.` };
  });
}
