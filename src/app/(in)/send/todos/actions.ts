'use server';

import { revalidatePath } from 'next/cache';
import { addTodo, finishTodo, finishTodos } from '../../../../operations/conversations';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function addTodoAction(contactId: string | undefined, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await addTodo(ctx, actor, {
      title: field(form, 'title'),
      contactId,
      assignedTo: field(form, 'assignedTo') || undefined,
    });
    revalidatePath('/send/todos');
    return { status: 'done', message: 'Added to the to-dos' };
  });
}

export async function finishTodoAction(id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await finishTodo(ctx, actor, id);
    revalidatePath('/send/todos');
    return { status: 'done', message: 'Done' };
  });
}

export async function finishTodosAction(ids: string[]): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const finished = await finishTodos(ctx, actor, ids);
    revalidatePath('/send/todos');
    return { status: 'done', message: `${finished} of ${ids.length} marked as done` };
  });
}
