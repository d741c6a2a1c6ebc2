'use server';

import { revalidatePath } from 'next/cache';
import { redirect } from 'next/navigation';
import type { RemedyAction } from '../../../../core/connect/examine';
import { cause } from '../../../../core/delivery/causes';
import {
  addTrunkNumbers,
  checkAccount,
  confirmCode,
  connectProvider,
  endTestMode,
  register,
  replaceCredentials,
  setAccountDisabled,
  startCode,
  subscribeToEvents,
} from '../../../../operations/accounts';
import { handOverForMe, loadChannel, openChannel, reserveAddress } from '../../../../operations/channels';
import { savePrices } from '../../../../operations/limits';
import { lookForRecord, makeMailKey, removeMailKey } from '../../../../operations/mailSigning';
import { setTrunkSettings } from '../../../../operations/trunks';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';

export async function connectAction(connector: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await connectProvider(ctx, actor, {
      connector,
      name: field(form, 'name'),
      credentials: textFields(form),
      ...(form.has('encryption')
        ? { encryption: { encryption: field(form, 'encryption'), believed: field(form, 'believed').trim() } }
        : {}),
    });
    redirect(`/connect/providers/${id}`);
  });
}

export async function pricesAction(accountId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { lines } = await savePrices(ctx, actor, accountId, field(form, 'table'));
    revalidatePath(`/connect/providers/${accountId}`);
    return { status: 'done', message: lines > 0 ? `${lines} prices` : 'The profile’s prices count' };
  });
}

export async function replaceCredentialsAction(accountId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await replaceCredentials(ctx, actor, accountId, textFields(form), Number(field(form, 'overlapHours')) || 0);
    return { status: 'done', message: 'The provider accepts the new credentials' };
  });
}

export async function checkAccountAction(accountId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const result = await checkAccount(ctx, actor, accountId);
    if (result.cause) {
      const { title, remedy } = cause(result.cause);
      return {
        status: 'refused',
        message: title,
        findings: [{ field: 'form', finding: { code: result.cause, severity: 'error', problem: title, remedy } }],
      };
    }
    return { status: 'done', message: 'The provider accepts the credentials' };
  });
}

/** The button beside a finding. `subject` is the account or channel it is about. */
export async function remedyAction(action: RemedyAction, subject: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    if (action === 'set-address') await handOverForMe(ctx, actor, subject);
    else if (action === 'subscribe') await subscribeToEvents(ctx, actor, subject);
    else if (action === 'enable-account') await setAccountDisabled(ctx, actor, subject, false);
    else if (action === 'end-test-mode') await endTestMode(ctx, actor, (await loadChannel(ctx, subject)).number.id);
    else await checkAccount(ctx, actor, subject);
    return { status: 'done', message: 'Done, and read back from the provider' };
  });
}

export async function reserveAction(connectorId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await reserveAddress(ctx, actor, connectorId);
    revalidatePath('/connect/providers/new');
    return { status: 'done', message: 'Reserved' };
  });
}

export async function disableAction(accountId: string, disabled: boolean): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setAccountDisabled(ctx, actor, accountId, disabled);
    return { status: 'done', message: disabled ? 'The account is switched off' : 'The account is on again' };
  });
}

export async function openChannelAction(numberId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await openChannel(ctx, actor, { numberId, name: field(form, 'name') });
    redirect(`/connect/channels/${id}`);
  });
}

export async function startPhoneAction(accountId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await startCode(ctx, actor, accountId, { kind: 'phone', id: field(form, 'phone') });
    return { status: 'done', values: { phone: id } };
  });
}

export async function confirmPhoneAction(accountId: string, phone: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await confirmCode(ctx, actor, accountId, { kind: 'phone', id: phone }, field(form, 'code'));
    return { status: 'done', message: 'The phone is verified' };
  });
}

export async function registerAction(
  accountId: string,
  country: string,
  step: 'brand' | 'use',
  form: FormData,
): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await register(ctx, actor, accountId, {
      country,
      step,
      name: field(form, 'name'),
      details: field(form, 'details'),
    });
    return { status: 'done', message: 'Handed in. The provider’s reviewer decides; this page shows the state.' };
  });
}

export async function trunkSettingsAction(accountId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const number = (name: string) => Number(field(form, name).replace(',', '.'));
    const { matched } = await setTrunkSettings(ctx, actor, accountId, {
      bind: field(form, 'bind'),
      defaultAlphabet: field(form, 'defaultAlphabet'),
      longText: field(form, 'longText'),
      receiptIds: field(form, 'receiptIds'),
      pace: number('pace'),
      window: number('window'),
      keepAliveSeconds: number('keepAliveSeconds'),
      answerSeconds: number('answerSeconds'),
      encryption: field(form, 'encryption'),
      believed: field(form, 'believed').trim(),
    });
    const more = matched > 0 ? ` ${matched} receipts that came before are matched now.` : '';
    return { status: 'done', message: `Saved; the trunk binds again with them.${more}` };
  });
}

export async function addNumbersAction(accountId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { added, lines } = await addTrunkNumbers(ctx, actor, accountId, {
      text: field(form, 'numbers'),
      names: field(form, 'names'),
      country: field(form, 'country'),
    });
    const wrong = lines.filter((line) => line.finding);
    if (wrong.length === 0) return { status: 'done', message: `${added} added` };
    return {
      status: 'refused',
      message: `${added} added; ${wrong.length} ${wrong.length === 1 ? 'line needs' : 'lines need'} another look.`,
      findings: wrong.flatMap(({ line, text, finding }) =>
        finding
          ? [{ field: `line ${line}`, finding: { ...finding, problem: `Line ${line}, “${text}”: ${finding.problem}` } }]
          : [],
      ),
    };
  });
}

function textFields(form: FormData): Record<string, string> {
  return Object.fromEntries([...form].filter((entry): entry is [string, string] => typeof entry[1] === 'string'));
}

export async function makeMailKeyAction(accountId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await makeMailKey(ctx, actor, accountId);
    return { status: 'done', message: 'The key is made; its record has to be published now' };
  });
}

export async function lookForRecordAction(accountId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { state, said } = await lookForRecord(ctx, actor, accountId);
    if (state === 'published') return { status: 'done', message: 'The record stands: mail is signed from now on' };
    const { remedy } = cause('mail-record-wrong');
    const problem = said ? `The record is not right: ${said}` : 'There is no record at that name';
    return {
      status: 'refused',
      message: problem,
      findings: [{ field: 'form', finding: { code: 'mail-record-wrong', severity: 'error', problem, remedy } }],
    };
  });
}

export async function removeMailKeyAction(accountId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeMailKey(ctx, actor, accountId);
    return { status: 'done', message: 'The key is removed; mail is signed no more' };
  });
}
