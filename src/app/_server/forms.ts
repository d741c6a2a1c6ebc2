/** What server actions answer to forms: done, or what is wrong at which field, with nothing lost. */
import 'server-only';
import { isRedirectError } from 'next/dist/client/components/redirect-error';
import { isOperationError } from '../../operations/context';
import type { FormState } from '../../ui/forms/formState';
import { asThisBrowserDoes } from './onTrial/trialMode';
import { noteRefused } from './refusals';

/**
 * Runs an action; an operation's refusal becomes a form state, anything unexpected is thrown on. What it changes of the
 * set-up is on trial where this browser makes its changes so.
 */
export async function answerForm(work: () => Promise<FormState | undefined>): Promise<FormState> {
  return answerAtOnce(async () => {
    let until: number | undefined;
    const answer = (await asThisBrowserDoes(work, (at) => {
      until = at;
    })) ?? { status: 'done' as const };
    if (until === undefined || answer.status !== 'done') return answer;
    return {
      ...answer,
      message: `${(answer.message ?? 'Done').replace(/\.$/, '')}. On trial: it is reverted unless it is proven in time`,
    };
  });
}

/** The same, for what is no change of the set-up itself: never on trial. */
export async function answerAtOnce(work: () => Promise<FormState | undefined>): Promise<FormState> {
  try {
    return (await work()) ?? { status: 'done' };
  } catch (error) {
    if (isRedirectError(error)) throw error;
    if (isOperationError(error)) {
      if (error.kind === 'unconfirmed') return { status: 'ask', why: 'confirm' };
      if (error.kind === 'signed-out') return { status: 'ask', why: 'signed-out' };
      await noteRefused(error);
      return { status: 'refused', message: error.message, findings: [...error.findings] };
    }
    throw error;
  }
}

/** A text field of a form; the empty text when it is missing. */
export function field(form: FormData, name: string): string {
  const value = form.get(name);
  // Nothing people write holds it, and what looks things up cannot be asked for it.
  return typeof value === 'string' ? value.replaceAll('\u0000', '') : '';
}
