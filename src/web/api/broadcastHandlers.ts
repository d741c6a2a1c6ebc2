/** What the operations about broadcasts do. */
import { publishedRemedy } from '../../core/remedy';
import {
  askForPlan,
  type BroadcastPageView,
  cancelBroadcast,
  getBroadcastPage,
  holdBroadcast,
  listBroadcasts,
  listRecipients,
  orderBroadcast,
  resumeBroadcast,
  startBroadcast,
} from '../../operations/broadcasts';
import type { AppContext } from '../../operations/context';
import type { AppActor } from './answer';
import { BROADCAST_OPERATIONS as API } from './broadcasts';
import { on } from './handle';
import { moment } from './moment';

const read = async (ctx: AppContext, actor: AppActor, id: string) =>
  broadcastData(await getBroadcastPage(ctx, actor, id));

const versionOf = async (ctx: AppContext, actor: AppActor, id: string) =>
  (await getBroadcastPage(ctx, actor, id)).broadcast.version;

export const BROADCAST_HANDLERS = [
  on(API.createBroadcast, async ({ ctx, actor, body, request }) => {
    const { when, ...rest } = body;
    const order = {
      ...rest,
      when: when?.at === 'instant' ? { at: 'instant' as const, instant: Date.parse(when.instant) } : when,
    };
    const { id, replayed } = await orderBroadcast(
      ctx,
      actor,
      order,
      request.headers.get('idempotency-key') ?? undefined,
    );
    const headers: Record<string, string> = { location: `/api/v1/broadcasts/${id}` };
    if (replayed) headers['windgap-replayed'] = 'true';
    return Response.json(await read(ctx, actor, id), { status: 202, headers });
  }),
  on(API.listBroadcasts, async ({ ctx, actor }) => ({
    broadcasts: (await listBroadcasts(ctx, actor)).map(({ broadcast: { id, name, state } }) => ({ id, name, state })),
  })),
  on(API.getBroadcast, ({ ctx, actor, id }) => read(ctx, actor, id)),
  on(API.planBroadcast, async ({ ctx, actor, id }) => {
    await askForPlan(ctx, actor, id, await versionOf(ctx, actor, id));
    return read(ctx, actor, id);
  }),
  on(API.startBroadcast, async ({ ctx, actor, id, body }) => {
    await startBroadcast(ctx, actor, id, { version: await versionOf(ctx, actor, id), reason: body.reason });
    return read(ctx, actor, id);
  }),
  on(API.holdBroadcast, async ({ ctx, actor, id }) => {
    await holdBroadcast(ctx, actor, id);
    return read(ctx, actor, id);
  }),
  on(API.resumeBroadcast, async ({ ctx, actor, id }) => {
    await resumeBroadcast(ctx, actor, id, await versionOf(ctx, actor, id));
    return read(ctx, actor, id);
  }),
  on(API.cancelBroadcast, async ({ ctx, actor, id }) => {
    await cancelBroadcast(ctx, actor, id);
    return read(ctx, actor, id);
  }),
  on(API.listRecipients, async ({ ctx, actor, id, query }) => {
    const page = await listRecipients(ctx, actor, id, { show: query.show }, { after: query.cursor, most: query.limit });
    return {
      recipients: page.recipients.map((each) => ({
        line: each.seq,
        contactId: each.contactId ?? null,
        address: each.value ?? null,
        state: each.state,
        reason: each.reason ? [each.reason.title, each.reason.said].filter(Boolean).join(': ') : null,
        messageId: each.messageId ?? null,
        dueAt: moment(each.dueAt),
        repliedAt: moment(each.repliedAt),
        pressed: each.pressed ?? null,
      })),
      next: page.next ?? null,
    };
  }),
];

function broadcastData({ broadcast, plan, progress, leftOut, held }: BroadcastPageView) {
  const { people: _, pressed, ...rest } = progress;
  return {
    id: broadcast.id,
    name: broadcast.name,
    state: broadcast.state,
    createdAt: moment(broadcast.createdAt),
    startedAt: moment(broadcast.startedAt),
    endedAt: moment(broadcast.endedAt),
    planProblem: broadcast.planProblem,
    plan: plan
      ? {
          madeAt: moment(plan.at),
          people: plan.people,
          going: plan.going,
          leftOut: leftOut.map(({ code, n, title, remedy }) => ({
            code,
            people: n,
            title,
            ...publishedRemedy(remedy),
          })),
          channels: plan.channels,
          countries: plan.countries,
          parts: plan.parts,
          cost: Object.entries(plan.cost.micros).map(([currency, micros]) => ({
            amount: (micros / 1e6).toFixed(6),
            currency,
          })),
          unpriced: plan.cost.unpriced,
          first: moment(plan.first),
          last: moment(plan.last),
          tooLate: plan.tooLate,
          creditSuffices: plan.credit.every(({ enough }) => enough),
        }
      : null,
    progress: { ...rest, pressed: Object.fromEntries(pressed.map(({ label, n }) => [label, n])) },
    held:
      held && broadcast.state === 'held'
        ? { code: held.code, problem: held.problem, ...publishedRemedy(held.remedy), at: moment(held.at) }
        : null,
  };
}
