/** Whether an app has stopped taking what it usually takes at the first attempt: all events, or those of one kind. */
import { groupBy } from '../../../../core/groupBy';
import type { Examined } from '../../../../core/readiness/readiness';
import type { AppContext } from '../../../context';
import { appSubject, finding, type ReadinessCheck } from '../check';
import { fallsIn, type Grouping } from './falls';

const LOOKED_BACK = 7 * 86_400_000;
const MOST = 20_000;
/** An answer takes seconds. */
const SETTLED = 60_000;
const LOOK_AGAIN = 60_000;

interface Attempted {
  subscription: string;
  type: string;
  at: number;
  taken: number;
}

const GROUPINGS: readonly Grouping<Attempted>[] = [
  { name: 'all', of: () => '', words: () => '' },
  { name: 'type', of: ({ type }) => type, words: (type) => ` of ${type}` },
];

const looked = new WeakMap<AppContext, { at: number; found: Examined[] }>();

export const appAnswers: ReadinessCheck = {
  name: 'app-answers',
  topics: [],
  async examine({ ctx, now }) {
    const before = looked.get(ctx);
    if (before && now >= before.at && now - before.at < LOOK_AGAIN) return before.found;
    const found = await examine(ctx, now);
    looked.set(ctx, { at: now, found });
    return found;
  },
};

async function examine(ctx: AppContext, now: number): Promise<Examined[]> {
  const [rows, subscriptions, apps] = await Promise.all([
    ctx.store.select<Attempted>(
      `SELECT subscription_id AS subscription, event_type AS type, first_attempt_at AS at, state = 'delivered' AND attempts = 1 AS taken
         FROM webhook_deliveries WHERE first_attempt_at BETWEEN :since AND :until ORDER BY id DESC LIMIT ${MOST}`,
      { since: now - LOOKED_BACK, until: now - SETTLED },
    ),
    ctx.store.subscriptions.readable(),
    ctx.store.apps.readable(),
  ]);
  return [...groupBy(rows, ({ subscription }) => subscription)].flatMap(([id, attempted]) => {
    const subscription = subscriptions.find((row) => row.id === id);
    const app = apps.find((row) => row.id === subscription?.app_id);
    // What is paused or ended is told of otherwise.
    if (!app || !subscription || subscription.disabled_at !== null || subscription.paused_at !== null) return [];
    return fallsIn([...attempted].reverse(), GROUPINGS, ({ taken }) => taken === 1).map(
      ({ about, words, of, got, usual, before, since }) => {
        const said = `of the last ${of} events${words} it accepted ${got === 0 ? 'none' : got} at the first attempt; usual are ${usual} %, of the ${before} before`;
        const more = { about: `${id} ${about}`, ...(since === undefined ? {} : { since }) };
        return finding('app-answers-fell', 'attention', appSubject(app), { who: app.name, said }, more);
      },
    );
  });
}
