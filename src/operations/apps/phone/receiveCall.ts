/** A call, posted by a telephone system: judged, stored with what it sets in motion, and answered. */
import { clientOf } from '../../../core/addresses/client';
import { zoneOfCountry } from '../../../core/addresses/zones';
import { readPost } from '../../../core/hooks/post';
import { answerable, CALL_WORDS, type Call, examineAnswer, readCall } from '../../../core/phone/calls';
import type { Step } from '../../../core/steps/steps';
import { mergeText } from '../../../core/text/merge';
import { newId } from '../../../store/ids';
import type { PhoneCallRow, PhoneSystemRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { type AppContext, noteChanges } from '../../context';
import { readOrganisation } from '../../organisation';
import { recordFacts } from '../../proofs';
import { beginRuns } from '../../runs';
import type { HookPost } from '../hooks';

export interface CallAnswer {
  status: number;
  id?: string;
  state?: PhoneCallRow['state'];
  reason: string;
}

const DAY = 24 * 3_600_000;

export async function takeCall(ctx: AppContext, post: HookPost): Promise<CallAnswer> {
  const cut = post.address.lastIndexOf('-');
  const system = await ctx.store.phoneSystems.one({
    token: post.address.slice(cut + 1),
    slug: post.address.slice(0, cut),
  });
  if (!system) return { status: 404, reason: 'No telephone system posts to this address.' };
  const at = ctx.now();
  const row: PhoneCallRow = {
    id: newId('cll', at),
    system_id: system.id,
    call_id: null,
    received_at: at,
    event: null,
    caller: null,
    called: null,
    body: (post.body ?? Buffer.alloc(0)).toString('utf8').slice(0, 4000),
    answer_status: 422,
    state: 'refused',
    reason: null,
    run_ids: [],
  };
  const read = callIn(system, post);
  if (!read.ok && !post.asTest) {
    const kept = ctx.refused.keep(system.id, clientOf(post.remoteAddress ?? ''), row.body.length);
    if (kept === 'not') return { status: read.status, state: row.state, reason: read.reason };
    if (kept === 'last') row.body = '';
  }
  await ctx.store.write(async (unit) => {
    if (read.ok) await act(unit, system, read.call, row, at, post.asTest);
    else Object.assign(row, { answer_status: read.status, reason: read.reason });
    await unit.phoneCalls.insert([row]);
    if (row.state !== 'refused' && !post.asTest)
      await recordFacts(
        unit,
        [{ subject: system.app_id, fact: { kind: 'called-in', began: at, at, ref: row.id } }],
        at,
      );
    await noteChanges(unit, at, [
      ['app', system.app_id],
      ['run', system.id],
    ]);
  });
  if (row.run_ids.length > 0) ctx.engineWakeUp.ring('runs');
  return { status: row.answer_status, id: row.id, state: row.state, reason: row.reason ?? 'Taken.' };
}

type CallRead = { ok: true; call: Call } | { ok: false; status: number; reason: string };

function callIn(system: PhoneSystemRow, post: HookPost): CallRead {
  if (system.disabled_at !== null)
    return { ok: false, status: 410, reason: `Phone events of “${system.name}” are switched off.` };
  if (post.method !== 'POST') return { ok: false, status: 405, reason: `${post.method} is not taken here; use POST.` };
  if (!post.body) return { ok: false, status: 413, reason: 'The post is too large.' };
  const read = readPost(post.headers['content-type'], post.body.toString('utf8'));
  if (!read.ok) return { ok: false, status: 422, reason: `The post cannot be read: ${read.reason}.` };
  const call = readCall(read.record);
  return call.ok ? call : { ok: false, status: 422, reason: `${call.finding.problem} ${call.finding.remedy}` };
}

/** Decides what is done about the call and begins it; the row then says what and why. */
async function act(
  unit: Unit,
  system: PhoneSystemRow,
  call: Call,
  row: PhoneCallRow,
  at: number,
  asTest = false,
): Promise<void> {
  Object.assign(row, {
    event: call.event,
    caller: call.caller,
    called: call.called,
    call_id: call.callId ?? null,
    answer_status: 202,
    state: 'quiet',
  });
  if (call.callId && (await unit.phoneCalls.one({ system_id: system.id, call_id: call.callId, event: call.event }))) {
    row.reason = 'It was told before.';
    return;
  }
  if (!system.events.includes(call.event)) {
    row.reason = `Nothing is done about calls that are “${call.event}”.`;
    return;
  }
  const own = (await unit.channels.all()).map(({ address }) => address);
  const verdict = answerable(call.caller, {
    country: system.country ?? undefined,
    own,
    answeredAt: await answeredAt(unit, system, call.caller, at),
    once: system.once_hours * 3_600_000,
    now: at,
  });
  const caller = verdict.yes ? verdict.to : call.caller;
  const organisation = await readOrganisation(unit);
  const record = {
    call: {
      caller: caller || 'a hidden number',
      called: call.called || 'our number',
      what: CALL_WORDS[call.event],
      time: clockTime(at, system.zone ?? zoneOfCountry(system.country) ?? organisation.zone ?? 'UTC'),
    },
  };
  const steps: Step[] = [];
  const send = (to: string, text: string): Step => ({
    kind: 'send',
    to,
    text,
    sender: { by: 'channel', channel: system.channel_id },
    tags: ['phone'],
  });
  if (system.alert) {
    const alert = mergeText(system.alert, record).text;
    steps.push(...system.alert_phones.map((phone) => send(phone, alert)));
    if (system.alert_mails.length > 0)
      steps.push({
        kind: 'notify',
        to: system.alert_mails,
        subject: `${record.call.caller} ${record.call.what}`.slice(0, 120),
        text: alert,
      });
  }
  const alerts = steps.length;
  if (system.answer && verdict.yes) {
    const answer = mergeText(system.answer, record).text;
    const tooLong = examineAnswer(answer);
    if (tooLong) row.reason = `${tooLong.problem} ${tooLong.remedy}`;
    else steps.push(send(verdict.to, answer));
  } else if (system.answer && !verdict.yes) row.reason = `Not answered: ${verdict.why}`;
  row.caller = caller;
  row.state = steps.length > alerts ? 'answered' : alerts > 0 ? 'alerted' : 'quiet';
  row.run_ids = await beginRuns(
    unit,
    steps.map((step) => ({
      appId: system.app_id,
      source: 'phone' as const,
      sourceId: system.id,
      subjectId: row.id,
      steps: [step],
      asTest,
    })),
    at,
  );
}

async function answeredAt(unit: Unit, system: PhoneSystemRow, caller: string, at: number): Promise<number | undefined> {
  const number = answerable(caller, { country: system.country ?? undefined, own: [], once: 0, now: at });
  const [last] = await unit.select<{ at: number | null }>(
    `SELECT max(received_at) AS at FROM phone_calls WHERE system_id = :system AND caller = :caller AND state = 'answered' AND received_at > :since`,
    { system: system.id, caller: number.yes ? number.to : caller, since: at - 31 * DAY },
  );
  return last?.at ?? undefined;
}

/** Such as 14:05, where the people are. */
function clockTime(at: number, timeZone: string): string {
  return new Intl.DateTimeFormat('en-GB', { timeZone, hour: '2-digit', minute: '2-digit' }).format(at);
}
