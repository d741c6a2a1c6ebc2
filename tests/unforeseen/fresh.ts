/** Written when the asking of providers, the public address and the comparing of posts were done, and run once as it is. */
import { TOMAS } from '../harness/mossgate';
import type { Unforeseen } from './case';
import { type House, INES } from './house';
import { type Conduct, json, ofTextsAlone, page, takes } from './middle';

const ofTexts = (house: House, conduct: Conduct) => house.api.become(ofTextsAlone(conduct));
const app = (house: House) => ({ app: house.mossgate.appId });
const after = (house: House, ms = 60_000) => house.installation.bench.moveClock(ms);
const saysTheyWrote = { 'provider-log-has-it': 'yes', 'wrote-here': 'yes', 'shown-sent': 'yes' } as const;
const plain = (status: number, body: string, type: string) => ({ status, headers: { 'content-type': type }, body });

export const FRESH: readonly Unforeseen[] = [
  {
    name: 'the provider answers in XML',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, async () => plain(200, '<answer><ok/></answer>', 'application/xml')),
    traffic: async (house) => {
      await house.send();
      await after(house);
    },
    where: ['windgap>provider'],
    causes: ['provider-error', 'outcome-unknown', 'answered-by-other'],
  },
  {
    name: 'the provider accepts with an empty answer',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, async () => plain(202, '', 'application/json')),
    traffic: async (house) => {
      await house.send();
      await after(house);
    },
    where: ['windgap>provider'],
    causes: ['provider-error', 'outcome-unknown'],
  },
  {
    name: 'an edge refuses for legal reasons',
    symptom: 'nothing-arrives',
    begin: (house) => ofTexts(house, async () => page(451, 'Unavailable for legal reasons', 'edge')),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['answered-by-other'],
  },
  {
    name: 'the provider sends nothing at this hour, in a code of its own',
    symptom: 'nothing-arrives',
    begin: (house) =>
      ofTexts(house, async () =>
        json(403, { problem: { code: 'night', text: 'No texts to this country before eight' } }),
      ),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['request-refused'],
  },
  {
    name: 'texts to one person vanish behind the provider',
    symptom: 'only-some',
    begin: (house) =>
      ofTexts(house, async (request, on) =>
        (JSON.parse(request.body) as { to: string }).to === TOMAS ? takes('bwt_onlyone00001') : on(),
      ),
    traffic: async (house) => {
      await house.send(INES);
      await house.send(TOMAS);
      await after(house);
    },
    where: ['provider>phone'],
  },
  {
    name: 'an error inside 200 that nobody listed',
    symptom: 'nothing-arrives',
    begin: (house) =>
      ofTexts(house, async () =>
        json(200, { problem: { code: 'desk-closed', text: 'The desk is closed for stock-taking' } }),
      ),
    traffic: ({ send }) => send(),
    where: ['windgap>provider'],
    causes: ['request-refused'],
  },
  {
    name: 'a proxy before our door wants a certificate of the caller',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => page(400, 'No required certificate was sent')),
    traffic: ({ write }) => write(),
    knows: saysTheyWrote,
    where: ['provider>door'],
    causes: ['door-answered-by-other', 'provider-silent'],
  },
  {
    name: 'a cache before our door says yes to everything',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become(async () => json(200, {})),
    traffic: ({ write }) => write(),
    knows: saysTheyWrote,
    where: ['provider>door'],
    causes: ['door-answered-by-other', 'provider-silent'],
  },
  {
    name: 'a proxy before our door puts a mark before the body',
    symptom: 'replies-missing',
    begin: ({ door }) => door.become((request, on) => on({ body: `\ufeff${request.body}` })),
    traffic: ({ write }) => write(),
    knows: saysTheyWrote,
    where: ['provider>door', 'door>windgap'],
    causes: ['signature-wrong', 'door-body-altered'],
  },
  {
    name: 'the app sends whoever calls on to sign in',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) =>
      hook.become(async () => ({ status: 302, headers: { location: 'https://login.example/' }, body: '' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-redirects'],
  },
  {
    name: 'the app says that it knows the event already',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => json(409, { error: 'duplicate event' })),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused'],
  },
  {
    name: 'the app wants another protocol',
    symptom: 'app-silent',
    about: app,
    begin: ({ hook }) => hook.become(async () => page(426, 'Upgrade required')),
    traffic: ({ write }) => write(),
    where: ['windgap>app'],
    causes: ['app-refused', 'app-answers-page'],
  },
  {
    name: 'a cache answers the app in our place',
    symptom: 'app-cannot-send',
    about: app,
    begin: ({ call }) => call.become(async () => json(200, { id: 'msg_of_another_day' })),
    traffic: ({ order }) => order(),
    which: 'none',
    where: ['asker>windgap'],
    causes: ['never-asked'],
  },
  {
    name: 'whatever stands before our API hangs up',
    symptom: 'app-cannot-send',
    about: app,
    begin: ({ call }) => call.become(async () => 'hang up'),
    traffic: ({ order }) => order(),
    which: 'none',
    where: ['asker>windgap'],
    causes: ['never-asked'],
  },
  {
    name: 'two at once: the provider is closed for the night, and the app knows every event',
    symptom: 'nothing-arrives',
    begin: (house) => {
      ofTexts(house, async () => json(403, { problem: { code: 'night', text: 'No texts at this hour' } }));
      house.hook.become(async () => json(409, { error: 'duplicate event' }));
    },
    traffic: async (house) => {
      await house.write();
      await house.send();
    },
    where: ['windgap>provider'],
    causes: ['request-refused'],
  },
  {
    name: 'well: the page of the account is closed, and texts go',
    symptom: 'nothing-arrives',
    begin: ({ api }) =>
      api.become(async (request, on) =>
        request.method === 'GET' && request.path.endsWith('/account') ? page(503, 'Back soon') : on(),
      ),
    traffic: ({ send }) => send(),
    where: ['well'],
  },
  {
    name: 'well: somebody wrote twice, and both are in',
    symptom: 'replies-missing',
    begin: () => undefined,
    traffic: async ({ write }) => {
      await write('First');
      await write('Second');
    },
    where: ['well'],
    knows: saysTheyWrote,
  },
  {
    name: 'well: the app writes its key in small letters, and it goes out',
    symptom: 'app-cannot-send',
    about: app,
    begin: () => undefined,
    traffic: async (house) => {
      await house.order(undefined, { authorization: `bearer ${house.mossgate.apiKey}` });
    },
    where: ['well'],
  },
  {
    name: 'well: signs beyond every alphabet arrive as they are',
    symptom: 'arrives-wrong',
    begin: () => undefined,
    traffic: ({ send }) => send(INES, 'Låset är öppet 🚤 — ☂'),
    where: ['well'],
    knows: { 'letters-wrong': 'no', 'values-wrong': 'no' },
  },
];
