/** Written after the other two halves were seen, and run for the first time on a diagnosis that was done. */
import { TOMAS } from '../harness/mossgate';
import type { Unforeseen } from './case';
import { type House, INES, ODILE } from './house';
import { type Conduct, json, page } from './middle';

const ofTexts = (house: House, conduct: Conduct) =>
  house.api.become((request, on) =>
    request.method === 'POST' && request.path.endsWith('/texts') ? conduct(request, on) : on(),
  );
const app = (house: House) => ({ app: house.mossgate.appId });
const after = (house: House, ms = 60_000) => house.installation.bench.moveClock(ms);
const isReport = (body: string) => body.includes('"report"');
const saysTheyWrote = { 'provider-log-has-it': 'yes', 'wrote-here': 'yes', 'shown-sent': 'yes' } as const;

export const LATER: readonly Unforeseen[] = [
  {
    name: 'the provider says yes over HTTP and no in its words',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, async () => json(200, { result: 'error', why: 'monthly quota' })),
    traffic: async (house) => {
      await house.send();
      await after(house);
    },
    where: ['windgap>provider'],
    causes: ['provider-error', 'outcome-unknown'],
  },
  {
    name: 'an edge throttles with a page',
    symptom: 'nothing-arrives',
    begin: ({ api }) => api.become(async () => page(429, 'Too many requests', 'edge')),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['throttled', 'answered-by-other'],
  },
  {
    name: 'a gateway before the provider wants a token of its own',
    symptom: 'worked-before',
    begin: ({ api }) => api.become(async () => json(403, { message: 'Missing authentication token' })),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['answered-by-other'],
  },
  {
    name: 'our requests are cut on the way out',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, (request, on) => on({ body: request.body.slice(0, 40) })),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['request-refused'],
  },
  {
    name: 'the path at the provider has moved',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, (request, on) => on({ path: request.path.replace('/texts', '/messages') })),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['request-refused', 'answered-by-other'],
  },
  {
    name: 'receipts are kept from us, and replies are not',
    symptom: 'nothing-arrives',
    about: () => ({ phone: INES }),
    begin: ({ door }) => door.become(async (request, on) => (isReport(request.body) ? page(403, 'Blocked') : on())),
    traffic: async (house) => {
      await house.send();
      await after(house);
    },
    where: ['provider>phone', 'phone>person'],
  },
  {
    name: 'posts are written anew on their way in',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become((request, on) => on({ body: JSON.stringify(JSON.parse(request.body), null, 2) })),
    traffic: ({ write }) => write(),
    where: ['door>windgap'],
    causes: ['signature-wrong'],
  },
  {
    name: 'another server has our name',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => page(404, 'No such site')),
    traffic: ({ write }) => write(),
    where: ['provider>door', '>door'],
    knows: saysTheyWrote,
  },
  {
    name: 'replies are held back by a slow gateway',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => 'hang up'),
    traffic: ({ write }) => write(),
    where: ['provider>door', '>door', '>provider', 'person>provider'],
  },
  {
    name: 'the app says no in a yes',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(200, { success: false, error: 'tenant suspended' })),
    traffic: ({ write }) => write(),
    where: ['app>screen'],
  },
  {
    name: 'the app is too busy',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(429, { error: 'slow down' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-error', 'app-refused'],
  },
  {
    name: 'the app takes the method for another',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => page(405, 'Method not allowed')),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused'],
  },
  {
    name: 'the app orders to a number with letters in it',
    symptom: 'app-cannot-send',
    about: app,
    begin: () => undefined,
    traffic: ({ order }) => order({ to: '+44 7700 9O0123', text: 'Hello' }),
    where: ['>windgap', 'asker>windgap'],
    causes: ['call-refused', 'address-malformed'],
  },
  {
    name: 'two at once: the app is blocked and the provider too',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook, api }) => {
      hook.become(async () => page(403, 'Blocked'));
      api.become(async () => page(403, 'Blocked'));
    },
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused'],
  },
  {
    name: 'well: throttled for a moment, and through since',
    symptom: 'nothing-arrives',
    begin: (house) => house.faults({ throttlesAll: true }),
    traffic: async (house) => {
      await house.send();
      await house.faults({ throttlesAll: false });
      await after(house, 600_000);
      await house.send(TOMAS);
    },
    where: ['well'],
  },
  {
    name: 'well: every post comes twice and is read once',
    symptom: 'replies-missing',
    begin: (house) => house.faults({ postsTwice: true }),
    traffic: ({ write }) => write(),
    end: (house) => house.faults({ postsTwice: false }),
    where: ['well'],
    knows: { 'wrote-here': 'yes', 'shown-sent': 'yes' },
  },
  {
    name: 'well: the app repeats an order with its key, and one goes out',
    symptom: 'app-cannot-send',
    about: app,
    begin: () => undefined,
    traffic: async (house) => {
      const order = { to: INES, text: 'Booked for nine' };
      await house.order(order, { 'idempotency-key': 'nine' });
      await house.order(order, { 'idempotency-key': 'nine' });
    },
    where: ['well'],
  },
  {
    name: 'well: a text abroad arrives like any',
    symptom: 'nothing-arrives',
    about: () => ({ phone: ODILE }),
    begin: () => undefined,
    traffic: ({ send }) => send(ODILE),
    where: ['well'],
    knows: { 'phone-gets-others': 'yes' },
  },
];
