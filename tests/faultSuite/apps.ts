/** Faults between Windgap and business applications, and of routes. */

import { renameSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { join } from 'node:path';
import type { Route, RouteStep } from '../../src/core/routing/route';
import { createApiKey, revokeApiKey } from '../../src/operations/apps/apiKeys';
import { createApp } from '../../src/operations/apps/apps';
import { addFeed, syncNow } from '../../src/operations/apps/feeds/feeds';
import type { HookInput } from '../../src/operations/apps/hooks/hookMessage';
import { changeHook, createHook, guardHook, switchHook } from '../../src/operations/apps/hooks/hooks';
import { addPhoneSystem, switchPhoneSystem } from '../../src/operations/apps/phone/phoneSystems';
import { connectRecords } from '../../src/operations/apps/records/records';
import { changeSheet, watchSheet } from '../../src/operations/apps/sheets/sheets';
import {
  changeSubscription,
  pauseSubscription,
  resumeSubscription,
} from '../../src/operations/apps/webhooks/subscriptions';
import { SYSTEM } from '../../src/operations/context/actor';
import { callApi, connectMossgate, INES, TOMAS } from '../harness/mossgate';
import { startInstallation } from '../harness/processes';
import { connectTowpath } from '../harness/records';
import { settle } from '../harness/rest';
import { all, begins, draftRoutes, publishRoutes, route } from '../harness/routes';
import { until } from '../harness/until';
import type { Case } from './case';
import type { House } from './run';

export async function appsHouse(): Promise<House> {
  const installation = await startInstallation();
  const { ctx, bench, world } = installation;
  const mossgate = await connectMossgate(installation);
  const { address, id: channel } = mossgate.channel;
  const lockbook = { app: mossgate.appId };
  const records = await connectTowpath(installation);
  const weir = await connectWeir();
  const quiet = await createApp(ctx, SYSTEM, { name: 'Mooring planner', description: '' });
  await createHook(ctx, SYSTEM, { appId: quiet.id, name: 'Mooring renewed' });
  let words = 0;

  const tell: RouteStep = { do: 'tell', app: mossgate.appId };
  const locks = route('Locks', all(begins('lock')), [tell]);
  const rest = route('Everything else', all(), [tell]);
  const publish = (routes: Route[]) => publishRoutes(ctx, routes);
  const usual = () => publish([locks, rest]);
  await usual();

  const write = async (text = `Is the slip free ${++words}`, from = INES) => {
    await bench.type(from, address, text).catch(() => undefined);
    await settle(installation);
  };
  const post = async (url: string, record: object | string, headers: Record<string, string> = {}) => {
    await fetch(url, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body: typeof record === 'string' ? record : JSON.stringify(record),
    });
    await settle(installation);
  };
  const RECORD = { lock: 'North', guest: { name: 'Ines', mobile: '07700 900123' } };
  const hook = async (name: string, input: Partial<HookInput> = {}) => {
    const made = await createHook(ctx, SYSTEM, { appId: mossgate.appId, name });
    await changeHook(ctx, SYSTEM, made.id, {
      name,
      text: 'Passage at {{ lock }} is confirmed, {{ guest.name }}.',
      phoneField: 'guest.mobile',
      country: 'GB',
      sender: { by: 'channel', channel },
      ...input,
    });
    await post(made.url, RECORD);
    return made;
  };

  const resume = async () => {
    const row = await ctx.store.subscriptions.one({ id: mossgate.subscriptionId });
    if (row?.paused_at === null) await pauseSubscription(ctx, SYSTEM, mossgate.subscriptionId);
    await resumeSubscription(ctx, SYSTEM, mossgate.subscriptionId);
  };
  const app = (
    fault: string,
    name: string,
    symptom: Case['symptom'],
    causes: string[],
    afterwards: () => Promise<unknown> = async () => undefined,
  ): Case => ({
    name,
    symptom,
    about: lockbook,
    breakIt: () => bench.faults({ lockbook: { [fault]: true } }),
    traffic: () => write().then(afterwards),
    causes,
    repair: async () => {
      await bench.faults({ lockbook: { [fault]: false } });
      await resume();
    },
  });

  /** A hook of its own, broken after it worked; it is put away afterwards. */
  const onHook = (
    name: string,
    spoil: (made: { id: string; url: string }) => Promise<(() => Promise<unknown>) | undefined>,
    more: Pick<Case, 'symptom' | 'causes'> & Partial<Case>,
    input: Partial<HookInput> = {},
  ): Case => {
    let traffic: (() => Promise<unknown>) | undefined;
    let made = { id: '', url: '' };
    return {
      name,
      about: lockbook,
      async breakIt() {
        made = await hook(`Hook ${++words}`, input);
        traffic = await spoil(made);
      },
      async traffic() {
        await traffic?.();
      },
      async repair() {
        await ctx.store.write(async (unit) => {
          await unit.hookPosts.remove({ hook_id: made.id });
          await unit.runs.remove({ source_id: made.id });
          await unit.proofs.remove({ subject_id: made.id });
          await unit.hooks.remove({ id: made.id });
        });
      },
      ...more,
    };
  };

  let spareKey = { id: '', key: '' };
  const calls = () =>
    callApi(installation, spareKey.key, 'POST', '/messages', {
      to: INES,
      from: channel,
      text: `Booked ${++words}`,
    }).then(() => settle(installation));
  const newKey = async () => {
    spareKey = await createApiKey(ctx, SYSTEM, { appId: mossgate.appId, name: `Server ${++words}` });
    await calls();
  };

  const cases: Case[] = [
    app('down', 'the app is down', 'app-silent', ['app-unreachable']),
    app('answers500', 'the app answers with an error', 'app-silent', ['app-error']),
    app('neverAnswers', 'the app does not answer in time', 'app-silent', ['app-timeout'], () =>
      until('it is given up', () => ctx.store.deliveries.count({ cause: 'app-timeout' })),
    ),
    app('anotherSecret', 'the app has an old signing secret', 'worked-before', ['app-signature-refused']),
    app('answers404', 'the app has moved its address', 'app-silent', ['app-address-unknown']),
    app('redirects', 'the app sends webhooks on', 'replies-missing', ['app-redirects']),
    app('answersPage', 'the app wants people to sign in', 'app-silent', ['app-answers-page']),
    app('answers410', 'the app wants no more', 'app-silent', ['app-gone', 'webhook-paused']),
    {
      ...app('forgets', 'the app takes events and shows nothing', 'app-silent', ['app-hides']),
      place: ['app', 'screen'],
    },
    {
      name: 'the subscription was paused',
      symptom: 'app-silent',
      about: lockbook,
      breakIt: () => pauseSubscription(ctx, SYSTEM, mossgate.subscriptionId),
      traffic: () => write(),
      causes: ['webhook-paused'],
      repair: () => resumeSubscription(ctx, SYSTEM, mossgate.subscriptionId),
    },
    {
      name: 'the subscription no longer has messages that come in',
      symptom: 'app-silent',
      about: lockbook,
      breakIt: () => changeSubscription(ctx, SYSTEM, mossgate.subscriptionId, { events: ['windgap.message.state'] }),
      traffic: () => write(),
      causes: ['event-not-subscribed'],
      repair: () =>
        changeSubscription(ctx, SYSTEM, mossgate.subscriptionId, {
          events: ['windgap.message.received', 'windgap.message.state'],
        }),
    },
    {
      name: 'no route tells the app',
      symptom: 'app-silent',
      about: lockbook,
      breakIt: () => publish([route('Locks', all(begins('lock')), []), route('Everything else', all(), [])]),
      traffic: () => write(),
      causes: ['app-not-routed'],
      repair: usual,
    },
    {
      name: 'nothing takes the message',
      symptom: 'replies-missing',
      about: { channel },
      breakIt: () => publish([locks]),
      traffic: () => write(),
      causes: ['no-route'],
      repair: usual,
    },
    {
      name: 'the new step is a draft',
      symptom: 'app-silent',
      about: lockbook,
      breakIt: async () => {
        await publish([route('Locks', all(begins('lock')), []), route('Everything else', all(), [])]);
        await draftRoutes(ctx, [locks, rest]);
      },
      traffic: () => write('LOCK Tern'),
      causes: ['draft-unpublished', 'app-not-routed'],
      repair: usual,
    },
    {
      name: 'the route that told the app is off',
      symptom: 'app-silent',
      about: lockbook,
      breakIt: () => publish([{ ...locks, off: true }, { ...rest, off: true }, route('Desk only', all(), [])]),
      traffic: () => write('LOCK Tern'),
      causes: ['route-switched-off', 'app-not-routed'],
      repair: usual,
    },
    {
      name: 'an earlier route takes everything',
      symptom: 'app-silent',
      about: lockbook,
      breakIt: () => publish([route('Thanks', all(), [{ do: 'tag', tag: 'wrote', remove: false }]), locks]),
      traffic: () => write('LOCK Tern'),
      causes: ['route-shadowed'],
      repair: usual,
    },
    {
      name: 'two machines answer each other',
      symptom: 'replies-missing',
      about: { channel, phone: TOMAS },
      breakIt: async () => {
        await publish([route('Echo', all(), [{ do: 'reply', text: 'We got it.' }])]);
        await bench.setHandset(TOMAS, { answersWith: 'I am away until Monday' });
      },
      traffic: () => write('Hello', TOMAS),
      causes: ['auto-reply-loop'],
      repair: async () => {
        await bench.setHandset(TOMAS, { answersWith: '' });
        await usual();
      },
    },
    {
      name: 'the desk cannot be asked how many tickets are open',
      symptom: 'app-silent',
      about: { channel },
      breakIt: async () => {
        await publish([
          route('Known trouble', all({ on: 'open', app: weir, record: 'ticket', count: 'several' }), [tell]),
          rest,
        ]);
        await bench.faults({ weir: { down: true } });
      },
      traffic: () => write(),
      causes: ['look-up-failed', 'app-unreachable'],
      repair: async () => {
        await bench.faults({ weir: { down: false } });
        await usual();
      },
    },
    {
      name: 'the key of the app has expired',
      symptom: 'app-cannot-send',
      about: lockbook,
      breakIt: async () => {
        await newKey();
        await ctx.store.write((unit) => unit.apiKeys.change({ id: spareKey.id }, { expires_at: ctx.now() - 1000 }));
      },
      traffic: calls,
      causes: ['key-expired'],
      repair: () => ctx.store.write((unit) => unit.apiKeys.remove({ id: spareKey.id })),
    },
    {
      name: 'the key of the app was revoked',
      symptom: 'app-cannot-send',
      about: lockbook,
      breakIt: async () => {
        await newKey();
        await revokeApiKey(ctx, SYSTEM, spareKey.id);
        await until(
          'it stops working',
          async () => (await callApi(installation, spareKey.key, 'GET', '/messages')).status === 401,
        );
      },
      traffic: calls,
      causes: ['key-revoked'],
      repair: () => ctx.store.write((unit) => unit.apiKeys.remove({ id: spareKey.id })),
    },
    onHook(
      'the send hook is off',
      async ({ id, url }) => {
        await switchHook(ctx, SYSTEM, id, false);
        return () => post(url, RECORD);
      },
      { symptom: 'app-cannot-send', causes: ['hook-off', 'automation-off'] },
    ),
    onHook(
      'a field was renamed in the app',
      async ({ url }) =>
        () =>
          post(url, { lock: 'North', guest: { name: 'Ines', phone: '07700 900123' } }),
      { symptom: 'worked-before', causes: ['hook-record-refused'] },
    ),
    onHook(
      'the app lacks the token of the hook',
      async ({ id, url }) => {
        await guardHook(ctx, SYSTEM, id, 'token');
        return () => post(url, RECORD);
      },
      { symptom: 'app-cannot-send', causes: ['hook-guard-refused'] },
    ),
    onHook(
      'the address was put together of two',
      async ({ url }) =>
        () =>
          post(url.replace(/hooks\/[^-]+-/, 'hooks/moorings-'), RECORD),
      { symptom: 'app-cannot-send', causes: ['hook-name-mismatch'] },
    ),
    onHook(
      'what is posted cannot be read',
      async ({ url }) =>
        () =>
          post(url, '{"lock": "North", '),
      { symptom: 'app-cannot-send', causes: ['hook-unreadable'] },
    ),
    onHook(
      'a name is missing in what is posted',
      async ({ url }) =>
        async () => {
          await post(url, { lock: '', guest: { name: '', mobile: '07700 900123' } });
        },
      {
        symptom: 'arrives-wrong',
        causes: ['values-missing', 'hook-record-refused'],
        knows: { 'letters-wrong': 'no', 'values-wrong': 'yes' },
      },
      { text: 'Passage at {{ lock | default: "your lock" }} is confirmed, {{ guest.name | default: "skipper" }}.' },
    ),
    {
      name: 'two automations send the same',
      symptom: 'arrives-twice',
      about: { channel, phone: INES },
      breakIt: async () => undefined,
      traffic: async () => {
        const [one, two] = [await hook(`Confirm ${++words}`), await hook(`Confirm again ${++words}`)];
        await post(one.url, RECORD);
        await post(two.url, RECORD);
        await ctx.store.write((unit) => unit.hooks.remove({ id: [one.id, two.id] }));
      },
      causes: ['asked-twice'],
      repair: async () => undefined,
    },
    {
      name: 'the app never posts',
      symptom: 'app-cannot-send',
      about: { app: quiet.id, channel },
      breakIt: async () => undefined,
      causes: ['never-asked'],
      place: ['', 'windgap'],
      repair: async () => undefined,
    },
    sheetCase('the sheet was moved away', (file) => renameSync(file, `${file}.old`), ['sheet-not-read']),
    feedCase(),
    {
      name: 'the token of the records has ended',
      symptom: 'app-silent',
      about: { app: records.app },
      breakIt: () => bench.faults({ towpath: { tokenEnded: true } }),
      traffic: () => write(),
      causes: ['app-credential-refused', 'credential-expired', 'credential-refused'],
      repair: () => bench.faults({ towpath: { tokenEnded: false } }),
    },
    {
      name: 'the records are down',
      symptom: 'app-silent',
      about: { app: records.app },
      breakIt: () => bench.faults({ towpath: { down: true } }),
      traffic: () => write(),
      causes: ['app-unreachable'],
      repair: () => bench.faults({ towpath: { down: false } }),
    },
    {
      name: 'a field of the record is filled with nothing',
      symptom: 'app-silent',
      about: { app: records.app },
      breakIt: () =>
        ctx.store.write(async (unit) => {
          const action = await unit.recordActions.one({ id: records.action });
          await unit.recordActions.change({ id: records.action }, { fields: { ...action?.fields, mobile: '' } });
        }),
      traffic: () => write(),
      causes: ['record-field-empty', 'record-refused', 'automation-failed'],
      repair: () =>
        ctx.store.write(async (unit) => {
          await unit.recordActions.change({ id: records.action }, { fields: records.fields });
        }),
    },
    phoneCase(),
  ];

  function sheetCase(name: string, spoil: (file: string) => void, causes: string[]): Case {
    const file = join(ctx.config.sheetsFolder, 'stoppages.csv');
    let id = '';
    return {
      name,
      symptom: 'app-cannot-send',
      about: lockbook,
      async breakIt() {
        writeFileSync(file, 'Skipper,Mobile,Lock\r\nInes,07700 900123,East\r\n');
        ({ id } = await watchSheet(ctx, SYSTEM, mossgate.appId, {
          name: 'Stoppages',
          source: 'stoppages.csv',
          begin: 'new',
        }));
        await until('it was read', async () => (await ctx.store.sheets.one({ id }))?.scanned_at);
        await changeSheet(ctx, SYSTEM, id, {
          name: 'Stoppages',
          text: '{{ Lock }} is closed.',
          phoneField: 'Mobile',
          country: 'GB',
          sender: { by: 'channel', channel },
        });
        spoil(file);
        await until('it is missed', async () => (await ctx.store.sheets.one({ id }))?.problem);
      },
      causes,
      repair: () =>
        ctx.store.write(async (unit) => {
          await unit.sheets.remove({ id });
          await unit.proofs.remove({ subject_id: id });
        }),
    };
  }

  function feedCase(): Case {
    let id = '';
    const server = createServer((_request, response) => response.writeHead(404).end());
    return {
      name: 'the calendar has a new address',
      symptom: 'app-cannot-send',
      about: lockbook,
      async breakIt() {
        await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
        const { port } = server.address() as { port: number };
        ({ id } = await addFeed(ctx, SYSTEM, mossgate.appId, {
          name: 'Duty',
          url: `http://127.0.0.1:${port}/duty.ics`,
          periodMinutes: 15,
          zone: 'Europe/London',
          country: 'GB',
          dayTime: '09:00',
          offsets: [60],
          text: 'Duty at {{ event.title }}',
          sender: { by: 'channel', channel },
          notify: '',
        }));
        await syncNow(ctx, SYSTEM, id);
        await settle(installation);
      },
      causes: ['feed-not-read'],
      repair: async () => {
        server.close();
        await ctx.store.write(async (unit) => {
          await unit.feeds.remove({ id });
          await unit.proofs.remove({ subject_id: id });
        });
      },
    };
  }

  function phoneCase(): Case {
    let made = { id: '', url: '' };
    const call = () =>
      post(made.url, { event: 'missed', caller: '+447700900123', called: address, call: String(++words) });
    return {
      name: 'phone events are off',
      symptom: 'app-cannot-send',
      about: lockbook,
      async breakIt() {
        made = await addPhoneSystem(ctx, SYSTEM, mossgate.appId, {
          name: 'Harbour office',
          events: ['missed'],
          answer: 'Sorry we missed you.',
          alert: '',
          alertPhones: '',
          alertMails: '',
          country: 'GB',
          channel,
          onceHours: 1,
        });
        await call();
        await switchPhoneSystem(ctx, SYSTEM, made.id, false);
      },
      traffic: call,
      causes: ['automation-off'],
      repair: () => ctx.store.write((unit) => unit.phoneSystems.remove({ id: made.id })),
    };
  }

  async function connectWeir(): Promise<string> {
    const { id } = await createApp(ctx, SYSTEM, { name: 'Weir Desk', description: '' });
    await connectRecords(ctx, SYSTEM, {
      appId: id,
      connector: 'weirdesk',
      credentials: { address: `http://127.0.0.1:${world.ports.weir}`, desk: world.weir.desk, key: world.weir.key },
    });
    return id;
  }

  return {
    installation,
    cases,
    async wellAgain() {
      const text = `LOCK Tern ${++words}`;
      await bench.type(INES, address, text);
      await until('it is routed', async () => (await ctx.store.messages.count({ text, direction: 'in' })) > 0);
      await until(
        'the app is told',
        async () => (await ctx.store.deliveries.count({ state: ['due', 'leased'] })) === 0,
      );
      await until('the runs of records have ended', async () => {
        await ctx.store.write((unit) => unit.execute("UPDATE runs SET due_at = 0 WHERE state = 'due'"));
        return (await ctx.store.runs.count({ state: 'due' })) === 0;
      });
      await ctx.store.write((unit) => unit.execute('DELETE FROM webhook_deliveries WHERE delivered_at IS NULL'));
    },
  };
}
