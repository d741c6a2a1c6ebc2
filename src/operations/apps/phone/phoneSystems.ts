/** Telephone systems that post what becomes of calls: set up here, with what is done about them. */
import { normaliseAddress } from '../../../core/addresses/address';
import { CALL_EVENTS, type CallEvent, examineAnswer } from '../../../core/phone/calls';
import { isZone } from '../../../core/schedule/clock';
import type { PostedRecord } from '../../../core/text/fields';
import { mergeText } from '../../../core/text/merge';
import { newId } from '../../../store/ids';
import type { PhoneCallRow, PhoneSystemRow, RunRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  asView,
  asViews,
  found,
  hasRole,
  invalid,
  invalidText,
  newToken,
  requireReached,
  requireRole,
  type View,
  withoutTokens,
} from '../../context';
import { readMailAddresses } from '../../people';
import { beginProofs, groupProofs, type HopProof } from '../../proofs';
import { noteAutomation } from '../../runs';

const PHONE_HOPS = ['call-in'] as const;

export function callsUrl(ctx: AppContext, system: Pick<PhoneSystemRow, 'slug' | 'token'>): string {
  return `${ctx.config.publicUrl}/calls/${system.slug}-${system.token}`;
}

export interface PhoneSystemInput {
  name: string;
  events: string[];
  answer: string;
  alert: string;
  /** Numbers in any form, separated by commas or lines. */
  alertPhones: string;
  alertMails: string;
  country?: string;
  /** IANA; without one that of the country. */
  zone?: string;
  channel: string;
  onceHours: number;
}

/** What a call looks like to the texts. */
export const EXAMPLE_CALL: PostedRecord = {
  call: { caller: '+447700900123', called: '+442079460114', what: 'called and was not answered', time: '14:05' },
};

export async function addPhoneSystem(
  ctx: AppContext,
  actor: Actor,
  appId: string,
  input: PhoneSystemInput,
): Promise<{ id: string; url: string }> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'app', appId);
  const at = ctx.now();
  const id = newId('pho', at);
  const address = newToken(input.name, 'calls');
  const cut = address.lastIndexOf('-');
  const place = { slug: address.slice(0, cut), token: address.slice(cut + 1) };
  await ctx.store.write(async (unit) => {
    const app = found(await unit.apps.one({ id: appId }), 'app');
    const wanted = await readInput(unit, input);
    await unit.phoneSystems.insert([
      { id, app_id: app.id, ...place, ...wanted, created_at: at, changed_at: at, disabled_at: null },
    ]);
    await beginProofs(unit, id, PHONE_HOPS, at);
    await noteAutomation(
      unit,
      actor,
      at,
      { id, app_id: app.id },
      { action: 'phone.added', summary: `Calls of ${wanted.name} are answered or told` },
    );
  });
  return { id, url: callsUrl(ctx, place) };
}

export async function changePhoneSystem(
  ctx: AppContext,
  actor: Actor,
  id: string,
  input: PhoneSystemInput,
): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.phoneSystems.one({ id }), 'telephone system');
    await requireReached(unit, actor, 'app', before.app_id);
    const wanted = await readInput(unit, input);
    await unit.phoneSystems.change({ id }, { ...wanted, changed_at: at });
    await noteAutomation(unit, actor, at, before, {
      action: 'phone.changed',
      summary: `Changed what is done about calls of ${wanted.name}`,
      touches: PHONE_HOPS,
      note: 'it was changed',
    });
  });
}

export async function switchPhoneSystem(ctx: AppContext, actor: Actor, id: string, on: boolean): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.phoneSystems.one({ id }), 'telephone system');
    await requireReached(unit, actor, 'app', before.app_id);
    await unit.phoneSystems.change({ id }, { disabled_at: on ? null : at });
    const word = on ? 'on' : 'off';
    await noteAutomation(unit, actor, at, before, {
      action: `phone.${word}`,
      summary: `Switched phone events of “${before.name}” ${word}`,
      touches: PHONE_HOPS,
      note: `it was switched ${word}`,
    });
  });
}

async function readInput(unit: Unit, input: PhoneSystemInput) {
  const name = input.name.trim();
  if (!name) throw invalidText('name', 'The telephone system has no name.', 'Say which one it is.');
  const events = CALL_EVENTS.filter((event) => input.events.includes(event)) as CallEvent[];
  if (events.length === 0) throw invalidText('events', 'No event is chosen.', 'Tick at least one.');
  const [answer, alert] = [input.answer.trim(), input.alert.trim()];
  const alertPhones = readPhones(input.alertPhones, input.country);
  const alertMails = readMailAddresses('alertMails', input.alertMails);
  const told = alertPhones.length + alertMails.length > 0;
  if (!answer && !(alert && told))
    throw invalidText(
      'answer',
      'Nothing would be done about a call.',
      'Write an answer to the caller, or an alert and who gets it.',
    );
  if (alert && !told)
    throw invalidText('alertPhones', 'Nobody would get the alert.', 'Give a phone or an e-mail address.');
  for (const [field, text] of [
    ['answer', answer],
    ['alert', alert],
  ] as const) {
    const { text: example, findings } = mergeText(text, EXAMPLE_CALL);
    if (findings[0]) throw invalid(field, findings[0]);
    const tooLong = text ? examineAnswer(example) : undefined;
    if (tooLong) throw invalid(field, tooLong);
  }
  const zone = input.zone?.trim() || null;
  if (zone && !isZone(zone)) throw invalidText('zone', `There is no time zone ${zone}.`, 'Such as Europe/London.');
  if (!(await unit.channels.one({ id: input.channel })))
    throw invalidText('channel', 'The number to send from is not chosen.', 'Choose a channel.');
  if (!Number.isInteger(input.onceHours) || input.onceHours < 1)
    throw invalidText('onceHours', 'A caller is answered at most once an hour.', 'Choose how often.');
  return {
    name,
    events,
    answer,
    alert,
    alert_phones: alertPhones,
    alert_mails: alertMails,
    country: input.country || null,
    zone,
    channel_id: input.channel,
    once_hours: input.onceHours,
  };
}

function readPhones(text: string, country: string | undefined): string[] {
  return text
    .split(/[,;\n]+/)
    .filter((one) => one.trim())
    .map((one) => {
      const number = normaliseAddress(one, { defaultCountry: country || undefined });
      if (!number.ok) throw invalid('alertPhones', number.finding);
      return number.address.value;
    });
}

export interface PhoneSystemView {
  system: View<Omit<PhoneSystemRow, 'token'>>;
  url: string;
  proofs: HopProof[];
  calls: { call: View<PhoneCallRow>; runs: View<Pick<RunRow, 'id' | 'state' | 'results' | 'due_at'>>[] }[];
}

const CALLS_SHOWN = 20;

export async function listPhoneSystems(ctx: AppContext, actor: Actor, appId: string): Promise<PhoneSystemView[]> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'app', appId);
  const mayKnow = hasRole(actor, 'administrator');
  const systems = await ctx.store.phoneSystems.all({ app_id: appId }, { order: [['id', 'ASC']] });
  const proofs = groupProofs(await ctx.store.proofs.all({ subject_id: systems.map(({ id }) => id) }), ctx.now());
  return Promise.all(
    systems.map(async ({ token, ...system }) => {
      const calls = await ctx.store.phoneCalls.all(
        { system_id: system.id },
        { order: [['id', 'DESC']], limit: CALLS_SHOWN },
      );
      const runs = await ctx.store.runs.allBy(
        'id',
        calls.flatMap(({ run_ids }) => run_ids),
      );
      return {
        system: asView(system),
        url: mayKnow
          ? callsUrl(ctx, { slug: system.slug, token })
          : withoutTokens(callsUrl(ctx, { slug: system.slug, token })),
        proofs: proofs.get(system.id) ?? [],
        calls: calls.map((call) => ({
          call: asView(call),
          runs: asViews(runs.filter(({ id }) => call.run_ids.includes(id))),
        })),
      };
    }),
  );
}
