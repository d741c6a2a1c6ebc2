'use server';

import { redirect } from 'next/navigation';
import { CONSENT_WAYS, type ConsentWay } from '../../../../core/consent/ways';
import type { ColumnUse, ImportPlan } from '../../../../core/contacts/importing';
import {
  addContact,
  cancelImport,
  changeContact,
  countAudience,
  enterConsent,
  keepApart,
  mergeContacts,
  planImport,
  readGroup,
  removeAudience,
  runImport,
  saveAudience,
  tagContacts,
  undoImport,
  undoMerge,
} from '../../../../operations/contacts';
import type { Asks, FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function addContactAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await addContact(ctx, actor, {
      name: field(form, 'name'),
      address: field(form, 'address'),
      country: field(form, 'country'),
    });
    redirect(`/compose/contacts/${id}`);
  });
}

export async function changeContactAction(id: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const attributes = field(form, 'attributes')
      .split('\n')
      .flatMap((line) => {
        const cut = line.indexOf(':');
        return cut > 0 ? [[line.slice(0, cut), line.slice(cut + 1)]] : [];
      });
    await changeContact(ctx, actor, id, {
      name: field(form, 'name'),
      language: field(form, 'language'),
      zone: field(form, 'zone'),
      tags: field(form, 'tags').split(','),
      attributes: Object.fromEntries(attributes) as Record<string, string>,
    });
    return { status: 'done', message: 'Saved' };
  });
}

export async function addTagAction(ids: string[], form: FormData): Promise<FormState> {
  return tag(ids, form, true);
}

export async function removeTagAction(ids: string[], form: FormData): Promise<FormState> {
  return tag(ids, form, false);
}

function tag(ids: string[], form: FormData, has: boolean): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const changed = await tagContacts(ctx, actor, { ids, tag: field(form, 'tag'), has });
    return { status: 'done', message: `${changed} of ${ids.length} changed` };
  });
}

export async function enterConsentAction(contactId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const what = field(form, 'what') === 'given' ? 'given' : 'withdrawn';
    await enterConsent(ctx, actor, { contactId, way: wayIn(form), what, wording: field(form, 'wording') });
    return { status: 'done', message: 'Recorded in the consent ledger' };
  });
}

function wayIn(form: FormData): ConsentWay {
  return CONSENT_WAYS.find((way) => way === field(form, 'way')) ?? 'text';
}

export async function countAudienceAction(
  conditions: unknown,
): Promise<{ count: number } | { problem: string } | Asks> {
  let count = 0;
  const answer = await answerForm(async () => {
    const { ctx, actor } = await signedIn();
    count = await countAudience(ctx, actor, readGroup(conditions));
    return { status: 'done' };
  });
  if (answer.status === 'ask') return answer;
  return answer.status === 'refused' ? { problem: answer.message } : { count };
}

export async function saveAudienceAction(conditions: unknown, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await saveAudience(ctx, actor, { name: field(form, 'name'), conditions });
    redirect(`/compose/contacts?audience=${id}`);
  });
}

export async function removeAudienceAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeAudience(ctx, actor, id);
    redirect('/compose/contacts');
  });
}

export async function planImportAction(id: string, columns: string[], form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await planImport(ctx, actor, id, planIn(form, columns));
    return { status: 'done', message: 'Examining anew' };
  });
}

function planIn(form: FormData, columns: readonly string[]): ImportPlan {
  const ways = CONSENT_WAYS.filter((way) => form.getAll('ways').includes(way));
  const source = field(form, 'source').trim();
  return {
    columns: Object.fromEntries(columns.map((header, index) => [header, useIn(form, header, index)])),
    country: field(form, 'country') || null,
    tags: field(form, 'tags')
      .split(',')
      .map((tag) => tag.trim())
      .filter(Boolean),
    consent: ways.length > 0 || source ? { ways, source } : null,
  };
}

function useIn(form: FormData, header: string, index: number): ColumnUse {
  const use = field(form, `column-${index}`);
  return use === 'attribute' ? { attribute: header.trim().toLowerCase() } : (use as ColumnUse) || 'ignore';
}

export async function runImportAction(id: string, columns: string[], form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await runImport(ctx, actor, id, planIn(form, columns));
    return { status: 'done', message: 'Importing in the background' };
  });
}

export async function cancelImportAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await cancelImport(ctx, actor, id);
    return { status: 'done', message: 'Ended' };
  });
}

export async function undoImportAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { removed, kept } = await undoImport(ctx, actor, id);
    return {
      status: 'done',
      message: `${removed} contacts removed${kept > 0 ? `; ${kept} stay, as they have written or were written to` : ''}`,
    };
  });
}

export async function mergeAction(keptId: string, goneId: string, why: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await mergeContacts(ctx, actor, { keptId, goneId, why });
    redirect(`/compose/contacts/${keptId}`);
  });
}

export async function keepApartAction(one: string, other: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await keepApart(ctx, actor, [one, other]);
    return { status: 'done', message: 'They are not suggested again' };
  });
}

export async function undoMergeAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { goneId } = await undoMerge(ctx, actor, id);
    redirect(`/compose/contacts/${goneId}`);
  });
}
