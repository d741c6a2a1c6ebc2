'use server';

import { enterByCode } from '../../operations/people';
import type { FormState } from '../../ui/forms/formState';
import { admit } from '../_server/admit';
import { answerForm, field } from '../_server/forms';
import { windgap } from '../_server/windgap';

export async function enterAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const person = await enterByCode(await windgap(), field(form, 'code').slice(0, 100), field(form, 'password'));
    return admit(person, '/');
  });
}
