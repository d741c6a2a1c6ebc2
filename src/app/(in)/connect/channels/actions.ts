'use server';

import { revalidatePath } from 'next/cache';
import { redirect } from 'next/navigation';
import { COSTLY_KINDS } from '../../../../core/limits/destination';
import {
  handOverForMe,
  markHandedOver,
  noteNameRegistration,
  openWebChat,
  proveInbound,
  replaceInboundUrl,
  saveWebChat,
  setChannelPace,
} from '../../../../operations/channels';
import { reworkInbound, reworkRefused } from '../../../../operations/inbound';
import { saveDestinations } from '../../../../operations/limits';
import { removeFallback, removeGateway, saveFallback, saveGateway } from '../../../../operations/outbound';
import type { FormState } from '../../../../ui/forms/formState';
import { answerForm, field } from '../../../_server/forms';
import { signedIn } from '../../../_server/session';
import { web } from '../../../_server/windgap';

export async function setForMeAction(channelId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await handOverForMe(ctx, actor, channelId);
    return { status: 'done', message: 'The provider has saved the address. Now write to the number to prove it.' };
  });
}

export async function destinationsAction(channelId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const countries = field(form, 'countries')
      .split(/[\n,;]+/)
      .map((line) => line.trim())
      .filter(Boolean);
    const costly = COSTLY_KINDS.filter((kind) => form.get(kind) !== null);
    const given = countries.length + costly.length > 0 ? { countries, costly } : undefined;
    await saveDestinations(ctx, actor, channelId, given);
    revalidatePath(`/connect/channels/${channelId}`);
    return { status: 'done', message: given ? 'Saved' : 'The countries of your own numbers count' };
  });
}

export async function addFallbackAction(channelId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const minutes = field(form, 'minutes').trim().replace(',', '.');
    await saveFallback(ctx, actor, channelId, {
      to: field(form, 'to'),
      countries: field(form, 'countries')
        .split(/[\n,;]+/)
        .map((line) => line.trim())
        .filter(Boolean),
      what: field(form, 'what'),
      minutes: minutes === '' ? undefined : Number(minutes),
      twice: form.get('twice') !== null,
    });
    revalidatePath(`/connect/channels/${channelId}`);
    return { status: 'done', message: 'Saved; it holds for what is ordered from now on' };
  });
}

export async function removeFallbackAction(channelId: string, id: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeFallback(ctx, actor, id);
    revalidatePath(`/connect/channels/${channelId}`);
    return { status: 'done', message: 'Removed' };
  });
}

export async function markHandedOverAction(channelId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await markHandedOver(ctx, actor, channelId);
    return { status: 'done', message: 'Noted. Write to the number to prove it.' };
  });
}

export async function replaceUrlAction(channelId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await replaceInboundUrl(ctx, actor, channelId);
    return { status: 'done', message: 'The old address no longer works' };
  });
}

export async function reworkAction(requestId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await reworkInbound(ctx, actor, requestId);
    return { status: 'done', message: 'It is being processed again' };
  });
}

export async function reworkRefusedAction(channelId: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const count = await reworkRefused(ctx, actor, channelId);
    return {
      status: 'done',
      message: count === 1 ? 'One is being processed' : `${count} are being processed`,
    };
  });
}

export async function paceAction(channelId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await setChannelPace(ctx, actor, channelId, Number(field(form, 'pace').replace(',', '.')));
    return { status: 'done', message: 'The pace is saved' };
  });
}

export async function proveOutboundAction(channelId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { actor } = await signedIn();
    const { send } = await web();
    await send(actor, { to: field(form, 'to'), text: field(form, 'text'), from: channelId, onlyThisWay: true });
    return { status: 'done', message: 'It is on its way; the marks fill when its receipt is in.' };
  });
}

export async function proveInboundAction(channelId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await proveInbound(ctx, actor, channelId, field(form, 'handset'));
    return { status: 'done', message: 'Written; the mark fills when it has arrived.' };
  });
}

export async function saveGatewayAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await saveGateway(ctx, actor, {
      carrier: field(form, 'carrier'),
      country: field(form, 'country'),
      domain: field(form, 'domain'),
      localPart: field(form, 'localPart'),
    });
    return { status: 'done', message: 'The gateway is saved' };
  });
}

export async function removeGatewayAction(carrier: string): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await removeGateway(ctx, actor, carrier);
    return { status: 'done' };
  });
}

export async function openWebChatAction(form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await openWebChat(ctx, actor, { name: field(form, 'name'), settings: chatSettings(form) });
    redirect(`/connect/channels/${id}`);
  });
}

export async function saveWebChatAction(channelId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await saveWebChat(ctx, actor, channelId, chatSettings(form));
    return { status: 'done', message: 'Saved. Pages that are open take it over when they are loaded again.' };
  });
}

function chatSettings(form: FormData): Record<string, unknown> {
  const texts = [
    'title',
    'greeting',
    'returningGreeting',
    'colour',
    'picture',
    'consentText',
    'acknowledgement',
    'answers',
  ];
  return {
    ...Object.fromEntries(texts.map((name) => [name, field(form, name)])),
    origins: field(form, 'origins')
      .split(/\s+/)
      .map((line) => line.replace(/\/$/, ''))
      .filter(Boolean),
    askName: form.get('askName') === 'on',
    askPhone: form.get('askPhone') === 'on',
    replyChannelId: field(form, 'replyChannelId'),
  };
}

export async function nameRegistrationAction(channelId: string, form: FormData): Promise<FormState> {
  return answerForm(async () => {
    const { ctx, actor } = await signedIn();
    await noteNameRegistration(ctx, actor, channelId, {
      country: field(form, 'country'),
      state: field(form, 'state'),
      said: field(form, 'said'),
    });
    return { status: 'done', message: 'Noted' };
  });
}
