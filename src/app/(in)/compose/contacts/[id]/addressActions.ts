'use server';

import { redirect } from 'next/navigation';
import type { Identity } from '../../../../../core/identities/identityKinds';
import {
  addAddress,
  believeAddress,
  type MoveHow,
  mergeContacts,
  moveIdentity,
  undoMove,
} from '../../../../../operations/contacts';
import type { FormState } from '../../../../../ui/forms/formState';
import { answerForm, field } from '../../../../_server/forms';
import { signedIn } from '../../../../_server/session';

export async function addAddressAction(contactId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await addAddress(ctx, actor, contactId, { address: field(form, 'address'), country: field(form, 'country') });
    return { status: 'done', message: 'Added' };
  });
}

export async function believeAction(identity: Identity): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await believeAddress(ctx, actor, identity);
    return { status: 'done', message: 'Noted' };
  });
}

export async function moveAction(
  from: string,
  move: { identity: Identity; how: MoveHow; toId?: string },
  form: FormData,
): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await moveIdentity(ctx, actor, { ...move, why: field(form, 'why') });
    redirect(`/compose/contacts/${from}`);
  });
}

export async function undoMoveAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await undoMove(ctx, actor, id);
    return { status: 'done', message: 'Undone' };
  });
}

export async function mergeAction(keptId: string, goneId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await mergeContacts(ctx, actor, { keptId, goneId, why: field(form, 'why') || 'by hand' });
    redirect(`/compose/contacts/${keptId}`);
  });
}
