'use server';

import { redirect } from 'next/navigation';
import {
  archiveTemplate,
  checkTemplate,
  createTemplate,
  retireTemplate,
  saveTemplate,
  submitTemplate,
  type TemplateKind,
} from '../../../../operations/templates';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function createTemplateAction(from: string | undefined, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const [kind, accountId] = field(form, 'for').split(' ') as [TemplateKind, string | undefined];
    const input = { kind, accountId, name: field(form, 'name'), language: field(form, 'language').trim(), from };
    const { id } = await createTemplate(ctx, actor, input);
    redirect(`/compose/templates/${id}`);
  });
}

export async function saveTemplateAction(id: string, content: unknown, seen: number): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { changedAt } = await saveTemplate(ctx, actor, id, content, seen);
    return { status: 'done', values: { changedAt: String(changedAt) } };
  });
}

export async function submitTemplateAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { number } = await submitTemplate(ctx, actor, id);
    return { status: 'done', message: `Version ${number} is submitted` };
  });
}

export async function checkTemplateAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await checkTemplate(ctx, actor, id);
    return { status: 'done', message: 'Asked' };
  });
}

export async function retireTemplateAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await retireTemplate(ctx, actor, id);
    return { status: 'done', message: 'It is out of use at the platform' };
  });
}

export async function archiveTemplateAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await archiveTemplate(ctx, actor, id);
    redirect('/compose/templates');
  });
}
