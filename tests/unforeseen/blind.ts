/** Written when the shares were fitted and the diagnosis was frozen, and run once as it is. */
import { TOMAS } from '../harness/mossgate';
import type { Unforeseen } from './case';
import { type House, INES, ODILE, PERRIN } from './house';
import { type Conduct, json, ofTextsAlone, page, takes } from './middle';

type Text = { to: string; text: string };

const ofTexts = (house: House, conduct: (text: Text, ...rest: Parameters<Conduct>) => ReturnType<Conduct>) =>
  house.api.become(ofTextsAlone((request, on) => conduct(JSON.parse(request.body) as Text, request, on)));
const app = (house: House) => ({ app: house.mossgate.appId });
const after = (house: House, ms = 60_000) => house.installation.bench.moveClock(ms);
const saysTheyWrote = { 'provider-log-has-it': 'yes', 'wrote-here': 'yes', 'shown-sent': 'yes' } as const;
const plain = (status: number, body: string, headers: Record<string, string> = {}) => ({
  status,
  headers: { 'content-type': 'text/plain', ...headers },
  body,
});

export const BLIND: readonly Unforeseen[] = [
  {
    name: 'the provider says “OK” in plain words',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, async () => plain(200, 'OK')),
    traffic: async (house) => {
      await house.send();
      await after(house);
    },
    where: ['windgap>provider'],
    causes: ['provider-error', 'outcome-unknown', 'answered-by-other'],
  },
  {
    name: 'the provider answers with an empty list',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, async () => ({ ...json(202, {}), body: '[]' })),
    traffic: async (house) => {
      await house.send();
      await after(house);
    },
    where: ['windgap>provider', 'provider>phone'],
    causes: ['provider-error', 'outcome-unknown'],
  },
  {
    name: 'the provider refuses a prefix in plain words',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(house, async ({ to }, _, on) => (to.startsWith('+46') ? plain(400, 'Bad destination prefix') : on())),
    traffic: async ({ send }) => {
      await send(INES);
      await send(TOMAS);
    },
    where: ['windgap>provider'],
    causes: ['request-refused'],
  },
  {
    name: 'the provider lists errors in a shape of its own',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, async () => json(422, { errors: [{ title: 'Campaign not on file' }] })),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['request-refused'],
  },
  {
    name: 'the provider is closed for a day and says for how long',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, async () => plain(503, 'Closed', { 'retry-after': '86400' })),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['provider-error', 'answered-by-other', 'throttled'],
  },
  {
    name: 'a gateway answers that nothing has changed',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, async () => ({ status: 304, headers: { etag: '"a"' }, body: '' })),
    traffic: async (house) => {
      await house.send();
      await after(house);
    },
    where: ['windgap>provider'],
    causes: ['request-refused', 'answered-by-other', 'provider-error'],
  },
  {
    name: 'texts to one country are refused inside a yes',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(house, async ({ to }, _, on) =>
        to === ODILE ? json(200, { problem: { code: 'carrier-list', text: 'Not on the carrier’s list' } }) : on(),
      ),
    traffic: async ({ send }) => {
      await send(INES);
      await send(ODILE);
    },
    where: ['windgap>provider'],
    causes: ['request-refused'],
  },
  {
    name: 'a proxy lets one request in two through',
    symptom: 'only-some',
    begin: (house) => {
      let count = 0;
      ofTexts(house, async (_, __, on) => (++count % 2 === 0 ? page(502, 'Bad gateway', 'edge') : on()));
    },
    traffic: async (house) => {
      for (const to of [INES, TOMAS, ODILE, PERRIN]) await house.send(to);
    },
    where: ['windgap>provider'],
    causes: ['answered-by-other', 'provider-error'],
  },
  {
    name: 'the provider forgets the ids it gives',
    symptom: 'nothing-arrives',
    begin: (house) => {
      let count = 0;
      ofTexts(house, async () => takes(`bwt_forgotten0${++count}`));
    },
    traffic: async (house) => {
      await house.send();
      await house.send(TOMAS);
      await after(house, 900_000);
    },
    where: ['provider>phone'],
  },
  {
    name: 'long texts are refused as too large by something between',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(house, async ({ text }, _, on) => (text.length > 60 ? page(413, 'Too large', 'edge') : on())),
    traffic: async ({ send }) => {
      await send(TOMAS);
      await send(INES, 'The lock at Heron Staircase is closed from Monday to Wednesday for work on the upper gates.');
    },
    where: ['windgap>provider'],
    causes: ['answered-by-other', 'request-refused'],
  },
  {
    name: 'somebody asks for a payment before anything goes on',
    symptom: 'worked-before',
    begin: ({ api }) => api.become(async () => page(402, 'Your line is on hold', 'portal')),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['answered-by-other', 'request-refused'],
  },
  {
    name: 'whatever stands before our door answers with nothing',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => ({ status: 204, headers: {}, body: '' })),
    traffic: ({ write }) => write(),
    knows: saysTheyWrote,
    where: ['provider>door'],
    causes: ['door-answered-by-other', 'provider-silent'],
  },
  {
    name: 'a guard before our door counts posts and stops them',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => page(429, 'Too many requests', 'guard')),
    traffic: ({ write }) => write(),
    knows: saysTheyWrote,
    where: ['provider>door'],
    causes: ['door-answered-by-other', 'provider-silent'],
  },
  {
    name: 'a password is asked for before our door',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => plain(401, '', { 'www-authenticate': 'Basic realm="staff"' })),
    traffic: ({ write }) => write(),
    knows: saysTheyWrote,
    where: ['provider>door'],
    causes: ['door-answered-by-other', 'provider-silent'],
  },
  {
    name: 'a guard before our door stops one word',
    symptom: 'replies-missing',
    begin: ({ door }) =>
      door.become(async (request, on) =>
        request.body.includes('select') ? page(403, 'Attack detected', 'guard') : on(),
      ),
    traffic: async ({ write }) => {
      await write('Good morning');
      await write('Please select a berth for me');
    },
    which: 'none',
    knows: saysTheyWrote,
    where: ['provider>door', '>door'],
    causes: ['door-answered-by-other', 'provider-silent'],
  },
  {
    name: 'a proxy before our door writes the JSON anew',
    symptom: 'replies-missing',
    begin: ({ door }) =>
      door.become((request, on) =>
        request.method === 'POST' && request.path.startsWith('/in/') && request.body.startsWith('{')
          ? on({ body: JSON.stringify(JSON.parse(request.body), null, 2) })
          : on(),
      ),
    traffic: ({ write }) => write(),
    knows: saysTheyWrote,
    where: ['provider>door', 'door>windgap'],
    causes: ['signature-wrong', 'door-body-altered'],
  },
  {
    name: 'a proxy before our door sets the provider’s clock back',
    symptom: 'replies-missing',
    begin: ({ door }) =>
      door.become((request, on) =>
        on({
          headers: request.headers['x-brackwater-time']
            ? { ...request.headers, 'x-brackwater-time': String(Number(request.headers['x-brackwater-time']) - 7200) }
            : request.headers,
        }),
      ),
    traffic: ({ write }) => write(),
    knows: saysTheyWrote,
    where: ['provider>door', 'door>windgap'],
    causes: ['signature-wrong', 'signature-stale'],
  },
  {
    name: 'only receipts are let to our door, texts are not found',
    symptom: 'replies-missing',
    begin: ({ door }) =>
      door.become(async (request, on) => (request.body.includes('"text-in"') ? page(404, 'Not here', 'edge') : on())),
    traffic: async (house) => {
      await house.send();
      await house.write();
    },
    knows: saysTheyWrote,
    where: ['provider>door', '>door'],
    causes: ['door-answered-by-other', 'provider-silent'],
  },
  {
    name: 'the app knows no such event',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(400, { error: 'unknown event type' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused'],
  },
  {
    name: 'the app takes no posts at this address',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => plain(405, 'Method not allowed', { allow: 'GET' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused', 'app-address-unknown', 'app-answers-page'],
  },
  {
    name: 'the app reads another kind of body',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(415, { error: 'send application/cloudevents+json' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused'],
  },
  {
    name: 'a proxy before the app wants to be signed in at',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => page(407, 'Proxy authentication required', 'edge')),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-answers-page', 'app-refused'],
  },
  {
    name: 'the app has moved for good',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) =>
      hook.become(async () => ({ status: 308, headers: { location: 'https://new.mossgate.example/hooks' }, body: '' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-redirects'],
  },
  {
    name: 'the app promises to look at it and never does',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(202, { queued: true })),
    traffic: ({ write }) => write(),
    where: ['app>screen'],
    causes: ['app-hides'],
  },
  {
    name: 'the app names a sender that is not there',
    symptom: 'app-cannot-send',
    about: app,
    begin: () => undefined,
    traffic: (house) => house.order({ to: INES, from: 'Front desk', text: 'Hello' }),
    where: ['>windgap', 'asker>windgap'],
    causes: ['call-refused'],
  },
  {
    name: 'the app wraps its JSON in a text',
    symptom: 'app-cannot-send',
    about: app,
    begin: ({ call }) => call.become((request, on) => on({ body: JSON.stringify(request.body) })),
    traffic: ({ order }) => order(),
    where: ['>windgap', 'asker>windgap'],
    causes: ['call-refused'],
  },
  {
    name: 'the app sends its own placeholder',
    symptom: 'app-cannot-send',
    about: app,
    begin: () => undefined,
    traffic: (house) => house.order({ to: INES, text: 'Dear {{ first_name }}, your berth is ready' }),
    where: ['>windgap', 'asker>windgap'],
    causes: ['call-refused'],
  },
  {
    name: 'a gateway before our API has nobody behind it',
    symptom: 'app-cannot-send',
    about: app,
    begin: ({ call }) => call.become(async () => page(502, 'Bad gateway', 'edge')),
    traffic: ({ order }) => order(),
    which: 'none',
    where: ['asker>windgap'],
    causes: ['never-asked'],
  },
  {
    name: 'a guard before our API stops the app by its address',
    symptom: 'app-cannot-send',
    about: app,
    begin: ({ call }) => call.become(async () => page(403, 'Your address is not on the list', 'guard')),
    traffic: ({ order }) => order(),
    which: 'none',
    where: ['asker>windgap'],
    causes: ['never-asked'],
  },
  {
    name: 'two at once: a guard before the door, and the app reads another kind of body',
    symptom: 'replies-missing',
    begin: ({ door, hook }) => {
      hook.become(async () => json(415, { error: 'send application/cloudevents+json' }));
      door.become(async () => page(403, 'Attack detected', 'guard'));
    },
    traffic: ({ write }) => write(),
    knows: saysTheyWrote,
    where: ['provider>door'],
    causes: ['door-answered-by-other', 'provider-silent'],
  },
  {
    name: 'two at once: one country is refused in plain words, and another range vanishes',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(house, async ({ to }, _, on) =>
        to.startsWith('+33') ? plain(400, 'Bad destination prefix') : to === PERRIN ? takes('bwt_gone00000001') : on(),
      ),
    traffic: async (house) => {
      await house.send(INES);
      await house.send(PERRIN);
      await house.send(ODILE);
      await after(house);
    },
    where: ['windgap>provider', 'provider>phone'],
    causes: ['request-refused'],
  },
  {
    name: 'well: the provider stumbled once and took it at the second try',
    symptom: 'nothing-arrives',
    begin: (house) => {
      let count = 0;
      ofTexts(house, async (_, __, on) => (++count === 1 ? plain(500, 'oops') : on()));
    },
    traffic: async (house) => {
      await house.send();
      await after(house, 300_000);
      await house.send();
    },
    where: ['well'],
  },
  {
    name: 'well: one post was turned away at our door and came again',
    symptom: 'replies-missing',
    begin: ({ door }) => {
      let count = 0;
      door.become(async (request, on) =>
        request.body.includes('"text-in"') && ++count === 1 ? page(502, 'Restarting', 'edge') : on(),
      );
    },
    traffic: async (house) => {
      await house.write();
      await after(house, 120_000);
      await house.write();
    },
    knows: saysTheyWrote,
    where: ['well'],
  },
  {
    name: 'well: the app refused one event and takes the next',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => {
      let count = 0;
      hook.become(async (_, on) => (++count === 1 ? json(500, { error: 'deadlock' }) : on()));
    },
    traffic: async (house) => {
      await house.write();
      await after(house, 600_000);
      await house.write();
    },
    where: ['well'],
  },
  {
    name: 'well: a long text comes in one piece',
    symptom: 'arrives-wrong',
    begin: () => undefined,
    traffic: ({ send }) => send(INES, 'The lock is closed. '.repeat(20).trim()),
    knows: { 'letters-wrong': 'no', 'values-wrong': 'no', 'in-pieces': 'no' } as never,
    where: ['well'],
  },
  {
    name: 'well: four people were written to, and four got it',
    symptom: 'only-some',
    begin: () => undefined,
    traffic: async ({ send }) => {
      for (const to of [INES, TOMAS, ODILE, PERRIN]) await send(to);
    },
    where: ['well'],
  },
  {
    name: 'well: the app was told to slow down and everything went out',
    symptom: 'app-cannot-send',
    about: app,
    begin: ({ call }) => {
      let count = 0;
      call.become(async (_, on) => (++count === 1 ? plain(429, 'Slow down', { 'retry-after': '1' }) : on()));
    },
    traffic: async (house) => {
      await house.order();
      await house.order();
    },
    where: ['well'],
  },
  {
    name: 'well: a reply came while the page was closed',
    symptom: 'replies-missing',
    begin: () => undefined,
    traffic: ({ write }) => write('Anybody there?'),
    knows: saysTheyWrote,
    where: ['well'],
  },
];
