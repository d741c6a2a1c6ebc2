/** Half of the faults: those that may be looked at while the diagnosis is built. */
import { createApiKey } from '../../src/operations/apps/apiKeys';
import { SYSTEM } from '../../src/operations/context/actor';
import { signedHeaders, TOMAS, textIn } from '../harness/mossgate';
import type { Unforeseen } from './case';
import { type House, INES, ODILE, PERRIN } from './house';
import { type Conduct, json, ofTextsAlone, page, takes } from './middle';

const ofTexts = (house: House, conduct: Conduct) => house.api.become(ofTextsAlone(conduct));
const app = (house: House) => ({ app: house.mossgate.appId });
const ines = () => ({ phone: INES });

const BETWEEN_US_AND_PROVIDER = ['windgap>provider'] as const;

/** The provider says that a text arrived that did not: nothing at all is posted, and a receipt is made up. */
async function claimsArrival(house: House, pick: (text: string) => boolean) {
  ofTexts(house, async (request, on) => {
    const { to, text, reference, report_to } = JSON.parse(request.body) as Record<string, string>;
    if (!pick(`${to} ${text}`)) return on();
    const id = `bwt_${Math.random().toString(36).slice(2, 14)}`;
    const body = JSON.stringify({
      events: [
        { kind: 'report', id, reference, state: 'arrived', at: new Date(house.installation.ctx.now()).toISOString() },
      ],
    });
    setImmediate(
      () =>
        void fetch(report_to ?? '', {
          method: 'POST',
          headers: signedHeaders(house.mossgate.secret, body, house.installation.ctx.now()),
          body,
        }).catch(() => undefined),
    );
    return json(201, { text: { id, price: { amount: 0.038, currency: 'GBP' } }, repeated: false });
  });
}

/** Takes a text and does nothing with it. */
const swallows =
  (pick: (body: { to: string; text: string }) => boolean): Conduct =>
  (request, on) => {
    const body = JSON.parse(request.body) as { to: string; text: string };
    const id = `bwt_${Math.random().toString(36).slice(2, 14)}`;
    return pick(body) ? Promise.resolve(takes(id)) : on();
  };

const after = async (house: House, ms = 60_000) => house.installation.bench.moveClock(ms);

export const VISIBLE: readonly Unforeseen[] = [
  {
    name: 'a portal asks to sign in before anything gets out',
    symptom: 'nothing-arrives',
    begin: ({ api }) => api.become(async () => page(200, 'Guest network: sign in')),
    traffic: ({ send }) => send(),
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['answered-by-other', 'provider-error'],
  },
  {
    name: 'a proxy wants to be signed in at',
    symptom: 'worked-before',
    begin: ({ api }) => api.become(async () => page(407, 'Proxy authentication required', 'squint/5')),
    traffic: ({ send }) => send(),
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['answered-by-other'],
  },
  {
    name: 'a proxy takes the authorization away',
    symptom: 'nothing-arrives',
    begin: ({ api }) => api.become((request, on) => on({ headers: { ...request.headers, authorization: '' } })),
    traffic: ({ send }) => send(),
    where: BETWEEN_US_AND_PROVIDER,
  },
  {
    name: 'a firewall refuses texts by a word in them',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(house, async (request, on) =>
        request.body.includes('password') ? page(403, 'Blocked: policy 17') : on(),
      ),
    traffic: async ({ send }) => {
      await send(TOMAS);
      await send(INES, 'Your password for the gate is 4711');
    },
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['answered-by-other'],
  },
  {
    name: 'a gateway takes no bodies over 400 bytes',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(house, async (request, on) =>
        request.body.length > 400 ? page(413, 'Request entity too large', 'edge') : on(),
      ),
    traffic: async ({ send }) => {
      await send(TOMAS);
      await send(INES, `Stoppage at Tollgate: ${'the lock is closed for repairs. '.repeat(8)}`);
    },
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['answered-by-other'],
  },
  {
    name: 'the address redirects to another host',
    symptom: 'nothing-arrives',
    begin: ({ api }) =>
      api.become(async () => ({ status: 301, headers: { location: 'https://api2.example/v2' }, body: '' })),
    traffic: ({ send }) => send(),
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['answered-by-other'],
  },
  {
    name: 'a balancer has nobody behind it',
    symptom: 'nothing-arrives',
    begin: ({ api }) => api.become(async () => page(502, 'Bad gateway', 'balance')),
    traffic: ({ send }) => send(),
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['provider-error', 'answered-by-other'],
  },
  {
    name: 'the provider refuses with a status and code nobody listed',
    symptom: 'nothing-arrives',
    begin: (house) =>
      ofTexts(house, async () =>
        json(402, { problem: { code: 'destination-limit', text: 'Daily limit for this destination' } }),
      ),
    traffic: ({ send }) => send(),
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['request-refused'],
  },
  {
    name: 'the provider refuses for a review nobody listed',
    symptom: 'nothing-arrives',
    begin: (house) =>
      ofTexts(house, async () =>
        json(403, { problem: { code: 'under-review', text: 'The account is being reviewed' } }),
      ),
    traffic: ({ send }) => send(),
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['request-refused'],
  },
  {
    name: 'the provider says in its receipts what is not so',
    symptom: 'nothing-arrives',
    begin: (house) => claimsArrival(house, () => true),
    traffic: ({ send }) => send(),
    where: ['provider>phone'],
  },
  {
    name: 'the provider drops one country and says nothing',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(
        house,
        swallows(({ to }) => to.startsWith('+33')),
      ),
    traffic: async (house) => {
      await house.send(INES);
      await house.send(ODILE);
      await after(house);
    },
    where: ['provider>phone'],
  },
  {
    name: 'the provider drops long texts and says nothing',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(
        house,
        swallows(({ text }) => text.length > 160),
      ),
    traffic: async (house) => {
      await house.send(TOMAS);
      await house.send(INES, 'A long notice about the lock. '.repeat(7));
      await after(house);
    },
    where: ['provider>phone'],
  },
  {
    name: 'the provider drops what is not in the plain alphabet',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(
        house,
        swallows(({ text }) => /[^\x20-\x7e]/.test(text)),
      ),
    traffic: async (house) => {
      await house.send(TOMAS);
      await house.send(INES, 'Шлюз закрыт до пятницы');
      await after(house);
    },
    where: ['provider>phone'],
  },
  {
    name: 'the receipt of an unknown state',
    symptom: 'nothing-arrives',
    about: () => ({ phone: PERRIN }),
    begin: (house) =>
      ofTexts(house, async (request) => {
        const { reference, report_to } = JSON.parse(request.body) as Record<string, string>;
        const body = JSON.stringify({
          events: [
            {
              kind: 'report',
              id: 'bwt_odd00000001',
              reference,
              state: 'lost',
              code: 'code-4711',
              at: new Date(house.installation.ctx.now()).toISOString(),
            },
          ],
        });
        setImmediate(
          () =>
            void fetch(report_to ?? '', {
              method: 'POST',
              headers: signedHeaders(house.mossgate.secret, body, house.installation.ctx.now()),
              body,
            }).catch(() => undefined),
        );
        return json(201, {
          text: { id: 'bwt_odd00000001', price: { amount: 0.038, currency: 'GBP' } },
          repeated: false,
        });
      }),
    traffic: ({ send }) => send(PERRIN),
    where: ['provider>phone'],
    causes: ['undelivered-unknown'],
  },
  {
    name: 'receipts are lost on the way to us',
    symptom: 'nothing-arrives',
    about: ines,
    begin: ({ door }) => door.become(async () => page(503, 'Maintenance')),
    traffic: async (house) => {
      await house.send();
      await after(house);
    },
    where: ['provider>phone', 'phone>person'],
  },
  {
    name: 'a proxy before our door asks to sign in',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => page(200, 'Sign in to continue')),
    traffic: ({ write }) => write(),
    where: ['provider>door', '>door'],
    knows: { 'provider-log-has-it': 'yes', 'wrote-here': 'yes', 'shown-sent': 'yes' },
  },
  {
    name: 'a maintenance page stands before our door',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => page(503, 'We are improving things')),
    traffic: ({ write }) => write(),
    where: ['provider>door', '>door'],
    knows: { 'provider-log-has-it': 'yes', 'wrote-here': 'yes', 'shown-sent': 'yes' },
  },
  {
    name: 'a proxy before our door takes the signature away',
    symptom: 'replies-missing',
    begin: ({ door }) =>
      door.become((request, on) =>
        on({ headers: Object.fromEntries(Object.entries(request.headers).filter(([name]) => !name.startsWith('x-'))) }),
      ),
    traffic: ({ write }) => write(),
    where: ['door>windgap'],
    causes: ['signature-missing'],
  },
  {
    name: 'a proxy before our door rewrites what passes',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become((request, on) => on({ body: request.body.replaceAll('lock', 'l0ck') })),
    traffic: ({ write }) => write(),
    where: ['door>windgap'],
    causes: ['signature-wrong'],
  },
  {
    name: 'what passes before our door is cut short',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become((request, on) => on({ body: request.body.slice(0, 60) })),
    traffic: ({ write }) => write(),
    where: ['door>windgap'],
    causes: ['signature-wrong', 'inbound-unreadable'],
  },
  {
    name: 'another installation has the number’s posts',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => json(202, { status: 'stored elsewhere' })),
    traffic: ({ write }) => write(),
    where: ['provider>door', '>door'],
    knows: { 'provider-log-has-it': 'yes', 'wrote-here': 'yes', 'shown-sent': 'yes' },
  },
  {
    name: 'the app is behind a firewall that lists addresses',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => page(403, 'Your address is not on the list')),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused'],
  },
  {
    name: 'the app wants a token nobody told of',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(401, { error: 'Missing token' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused'],
  },
  {
    name: 'the app finds a field too long',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(422, { error: 'text: at most 10 characters' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused'],
  },
  {
    name: 'the app does not know the booking',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(404, { error: 'no booking of this person' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused'],
  },
  {
    name: 'something before the app says yes and keeps the event',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(200, { status: 'ok' })),
    traffic: ({ write }) => write(),
    where: ['app>screen'],
  },
  {
    name: 'the app calls with a key that lost its end',
    symptom: 'app-cannot-send',
    about: app,
    begin: () => undefined,
    traffic: (house) => house.order(undefined, { authorization: `Bearer ${house.mossgate.apiKey.slice(0, -6)}` }),
    where: ['>windgap', 'asker>windgap'],
    causes: ['call-key-unknown'],
  },
  {
    name: 'the app’s key may only read',
    symptom: 'app-cannot-send',
    about: app,
    begin: () => undefined,
    traffic: async (house) => {
      const { key } = await createApiKey(house.installation.ctx, SYSTEM, {
        appId: house.mossgate.appId,
        name: 'Reads',
        scopes: ['messages:read'],
      });
      await house.order(undefined, { authorization: `Bearer ${key}` });
    },
    where: ['>windgap', 'asker>windgap'],
    causes: ['call-refused'],
  },
  {
    name: 'the app posts a form where JSON is wanted',
    symptom: 'app-cannot-send',
    about: app,
    begin: ({ call }) =>
      call.become((request, on) =>
        on({
          body: 'to=%2B447700900123&text=Hello',
          headers: { ...request.headers, 'content-type': 'application/x-www-form-urlencoded' },
        }),
      ),
    traffic: ({ order }) => order(),
    where: ['>windgap', 'asker>windgap'],
    causes: ['call-refused'],
  },
  {
    name: 'the app posts to a path of another version',
    symptom: 'app-cannot-send',
    about: app,
    begin: () => undefined,
    traffic: ({ order }) => order(undefined, {}, '/api/v1/sms/send'),
    where: ['>windgap', 'asker>windgap'],
    causes: ['call-refused'],
  },
  {
    name: 'something before our API lets nothing through',
    symptom: 'app-cannot-send',
    about: app,
    begin: ({ call }) => call.become(async () => page(403, 'Blocked')),
    traffic: ({ order }) => order(),
    which: 'none',
    where: ['>windgap', 'asker>windgap'],
    causes: ['never-asked'],
  },
  {
    name: 'an answer that is lost makes a true duplicate',
    symptom: 'arrives-twice',
    about: ines,
    begin: async (house) => {
      await house.faults({ ignoresReferences: true });
      let first = true;
      ofTexts(house, async (_, on) => {
        const answer = await on();
        if (!first) return answer;
        first = false;
        return 'hang up';
      });
    },
    traffic: async (house) => {
      await house.send();
      await after(house, 120_000);
    },
    end: (house) => house.faults({ ignoresReferences: false }),
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['handed-twice', 'network-repeats'],
  },
  {
    name: 'letters are swapped for others that look alike',
    symptom: 'arrives-wrong',
    about: ines,
    begin: (house) => ofTexts(house, (request, on) => on({ body: request.body.replace(/a(?=[^"]*"[,}])/g, 'а') })),
    traffic: ({ send }) => send(INES, 'Passage at a quay'),
    where: ['windgap>provider', 'provider>phone'],
    knows: { 'letters-wrong': 'yes', 'values-wrong': 'no' },
  },
  {
    name: 'two at once: one country refused, and one phone off',
    symptom: 'only-some',
    begin: async (house) => {
      await house.installation.bench.setHandset(TOMAS, { power: 'off' });
      ofTexts(house, async (request, on) =>
        request.body.includes('+33')
          ? json(403, { problem: { code: 'no-agreement', text: 'No agreement with this operator' } })
          : on(),
      );
    },
    traffic: async ({ send }) => {
      await send(INES);
      await send(TOMAS);
      await send(ODILE);
    },
    end: (house) => house.installation.bench.setHandset(TOMAS, { power: 'on' }),
    where: BETWEEN_US_AND_PROVIDER,
    causes: ['request-refused', 'handset-unreachable'],
  },
  {
    name: 'well: one phone was off yesterday, and somebody else complains',
    symptom: 'nothing-arrives',
    begin: (house) => house.installation.bench.setHandset(TOMAS, { power: 'off' }),
    traffic: async (house) => {
      await house.send(TOMAS);
      await house.installation.bench.setHandset(TOMAS, { power: 'on' });
      await house.send(INES);
    },
    where: ['well'],
  },
  {
    name: 'well: the text arrived, and the person did not look',
    symptom: 'nothing-arrives',
    about: ines,
    begin: () => undefined,
    traffic: ({ send }) => send(),
    where: ['well'],
    knows: { 'phone-gets-others': 'yes' },
  },
  {
    name: 'well: the reply is in Conversations, and was looked for elsewhere',
    symptom: 'replies-missing',
    about: ines,
    begin: () => undefined,
    traffic: ({ write }) => write(),
    where: ['well'],
    knows: { 'wrote-here': 'yes', 'shown-sent': 'yes' },
  },
  {
    name: 'well: it was down for a while this morning',
    symptom: 'worked-before',
    begin: ({ api }) => api.become(async () => page(502, 'Bad gateway')),
    traffic: async (house) => {
      await house.send();
      house.api.become();
      await after(house, 3_600_000);
      await house.send();
      await house.write();
    },
    where: ['well'],
  },
  {
    name: 'well: the app took it',
    symptom: 'app-silent',
    about: app,
    begin: () => undefined,
    traffic: ({ write }) => write(),
    where: ['well'],
  },
  {
    name: 'well: somebody is sure that only some get it',
    symptom: 'only-some',
    begin: () => undefined,
    traffic: async ({ send }) => {
      await send(INES);
      await send(TOMAS);
      await send(ODILE);
    },
    where: ['well'],
  },
  {
    name: 'well: strangers post rubbish to the door',
    symptom: 'replies-missing',
    begin: async (house) => {
      const body = textIn('bwt_rubbish', TOMAS, house.mossgate.channel.address, 'win a boat');
      for (let n = 0; n < 3; n++)
        await fetch(house.mossgate.inboundUrl, {
          method: 'POST',
          body,
          headers: { 'content-type': 'application/json' },
        });
    },
    traffic: ({ write }) => write(),
    where: ['well'],
    knows: { 'wrote-here': 'yes', 'shown-sent': 'yes' },
  },
  {
    name: 'well: the provider was slow once',
    symptom: 'worked-before',
    begin: (house) => house.faults({ slowAnswers: 1500 }),
    traffic: async (house) => {
      await house.send();
      await house.faults({ slowAnswers: 0 });
      await house.send();
      await house.write();
    },
    where: ['well'],
  },
];
