/** Faults of business chat, its templates, a trunk and a mail gateway. */

import { createApp } from '../../src/operations/apps/apps';
import { changeHook, createHook } from '../../src/operations/apps/hooks/hooks';
import { handOverForMe } from '../../src/operations/channels/channels';
import { SYSTEM } from '../../src/operations/context/actor';
import { createSender } from '../../src/operations/outbound/sendMessage';
import { submitTemplate } from '../../src/operations/templates/templateSubmissions';
import { createTemplate, getTemplate, saveTemplate } from '../../src/operations/templates/templates';
import { connectMail } from '../harness/mail';
import { INES, TOMAS } from '../harness/mossgate';
import { connectTrunk, untilBound } from '../harness/ostrel';
import { startInstallation } from '../harness/processes';
import { passTime, settle } from '../harness/rest';
import { all, publishRoutes, route } from '../harness/routes';
import { connectTarrow } from '../harness/tarrow';
import { until } from '../harness/until';
import type { Case } from './case';
import type { House } from './run';

const ODILE = '+33639980417';

export async function chatHouse(): Promise<House> {
  const installation = await startInstallation();
  const { ctx, bench, world } = installation;
  const chat = await connectTarrow(installation);
  await bench.change('tarrow/reviewer', { reviewMs: 150, perHour: 500 });
  const trunk = await connectTrunk(installation);
  await untilBound(installation, trunk.accountId);
  const mail = await connectMail(installation);
  const app = await createApp(ctx, SYSTEM, { name: 'Duty planner', description: '' });
  const send = createSender(ctx);
  await publishRoutes(ctx, [route('To the desk', all(), [])]);
  let words = 0;

  const out = async (channel: string, to = INES, text = `Stoppage notice ${++words}`) => {
    await send(SYSTEM, { to, from: channel, text }).catch(() => undefined);
    await settle(installation);
  };
  const write = async (from = INES) => {
    await bench.type(from, chat.channel.address, `Is the quay free ${++words}`, 'chat').catch(() => undefined);
    await settle(installation);
  };
  const business = (settings: object) => bench.change(`tarrow/businesses/${chat.businessId}`, settings);
  const remote = () => bench.read<(typeof world.tarrow)[number]>(`/tarrow/businesses/${chat.businessId}`);
  const well = (await remote()) as (typeof world.tarrow)[number];
  const line = (settings: object) =>
    business({ lines: well.lines.map((each, index) => (index === 0 ? { ...each, ...settings } : each)) });
  const onChat = { about: { channel: chat.channel.id } };
  const sends = { ...onChat, traffic: () => out(chat.channel.id) };
  const hears = { ...onChat, traffic: () => write() };
  const switched = (service: string, fault: string, rest: Omit<Case, 'breakIt' | 'repair'>): Case => ({
    ...rest,
    breakIt: () => bench.faults({ [service]: { [fault]: true } }),
    repair: () => bench.faults({ [service]: { [fault]: false } }),
  });

  const login = (settings: object) => bench.change('ostrel/logins/mossgate', settings);
  const atCarrier = world.ostrel[0] as (typeof world.ostrel)[number];
  const onTrunk = { about: { channel: trunk.channel.id } };
  const overTrunk = { ...onTrunk, traffic: () => out(trunk.channel.id) };
  const rebind = async (settings: object, becomes: 'bound' | 'refused') => {
    await login(settings);
    await bench.post('/ostrel/cut');
    const is = async () => (await ctx.store.trunkStates.one({ account_id: trunk.accountId }))?.state === becomes;
    await passTime(installation, until(`the trunk is ${becomes}`, is));
  };

  const onMail = { about: { channel: mail.id } };

  /** A hook that sends a template, both made for one case. */
  const withTemplate = (
    name: string,
    prepare: (id: string) => Promise<unknown>,
    rest: Omit<Case, 'about' | 'breakIt' | 'traffic' | 'repair' | 'name'>,
  ): Case => {
    let hookUrl = '';
    return {
      ...rest,
      name,
      about: { app: app.id },
      async breakIt() {
        const id = await template(name.replace(/\W+/g, '-').toLowerCase().slice(0, 40));
        const hook = await createHook(ctx, SYSTEM, { appId: app.id, name });
        hookUrl = hook.url;
        await fetch(hookUrl, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: '{"lock":"North","phone":"07700 900123"}',
        });
        await changeHook(ctx, SYSTEM, hook.id, {
          name,
          text: '',
          phoneField: 'phone',
          country: 'GB',
          sender: { by: 'channel', channel: chat.channel.id },
          template: {
            id,
            mapping: { lock: { from: 'field', field: 'lock' }, time: { from: 'constant', value: '14:30' } },
          } as never,
        });
        await prepare(id);
      },
      async traffic() {
        await fetch(hookUrl, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: '{"lock":"North","phone":"07700 900123"}',
        });
        await settle(installation);
      },
      async repair() {
        await ctx.store.write((unit) =>
          unit.hooks.change({ app_id: app.id, disabled_at: null }, { disabled_at: ctx.now() - 40 * 86_400_000 }),
        );
        await ctx.store.write((unit) => unit.runs.remove({ app_id: app.id }));
      },
    };
  };

  async function template(name: string): Promise<string> {
    const { id } = await createTemplate(ctx, SYSTEM, {
      kind: 'platform',
      accountId: chat.accountId,
      name,
      language: 'en',
    });
    const { row } = await getTemplate(ctx, SYSTEM, id);
    const body =
      'Your passage through {{ lock }} is booked and opens for you at {{ time }} today, see you at the gate.';
    await saveTemplate(
      ctx,
      SYSTEM,
      id,
      {
        name,
        category: 'transactional',
        variants: [{ language: 'en', body, buttons: [], samples: { lock: 'North lock', time: '14:30' } }],
      },
      row.changedAt,
    );
    return id;
  }
  const approved = async (id: string) => {
    await submitTemplate(ctx, SYSTEM, id);
    await until('it is approved', async () => (await getTemplate(ctx, SYSTEM, id)).standing.state === 'approved');
  };
  const patternOf = async (id: string) => {
    const { row } = await getTemplate(ctx, SYSTEM, id);
    const { patterns } = await bench.read<{ patterns: { id: string; title: string }[] }>('/tarrow/patterns');
    return patterns.find(({ title }) => title === row.name)?.id ?? '';
  };

  const cases: Case[] = [
    switched('tarrow', 'tokenEnded', {
      ...sends,
      name: 'the token has ended',
      symptom: 'worked-before',
      causes: ['credential-expired'],
    }),
    {
      ...sends,
      name: 'the token may no longer send',
      symptom: 'worked-before',
      breakIt: () => business({ token: { ...well.token, may: ['settings'] } }),
      causes: ['credential-lacks-permission'],
      repair: () => business({ token: well.token }),
    },
    switched('tarrow', 'developmentAgain', {
      ...onChat,
      name: 'the connection is in development mode',
      symptom: 'only-some',
      traffic: async () => {
        await out(chat.channel.id, INES);
        await out(chat.channel.id, TOMAS);
      },
      causes: ['mode-development'],
    }),
    switched('tarrow', 'paymentGone', {
      ...sends,
      name: 'there is no way to pay',
      symptom: 'nothing-arrives',
      causes: ['payment-missing'],
    }),
    switched('tarrow', 'windowsShut', {
      ...sends,
      name: 'the reply window is closed',
      symptom: 'worked-before',
      causes: ['window-closed'],
    }),
    {
      ...sends,
      name: 'the number is on the network in another way',
      symptom: 'worked-before',
      breakIt: () => line({ standing: 'elsewhere' }),
      causes: ['number-taken'],
      repair: () => line({}),
    },
    {
      ...sends,
      name: 'the number is to be proven by code again',
      symptom: 'nothing-arrives',
      breakIt: () => line({ standing: 'wants-code' }),
      causes: ['number-code-needed'],
      repair: () => line({}),
    },
    {
      ...hears,
      name: 'test mode was left on',
      symptom: 'replies-missing',
      breakIt: () => line({ trial: { ...well.lines[0]?.trial, open: true } }),
      causes: ['test-mode-on'],
      repair: () => line({}),
    },
    switched('tarrow', 'eventsDropped', {
      ...hears,
      name: 'verified, and no events are subscribed',
      symptom: 'replies-missing',
      causes: ['events-not-subscribed'],
    }),
    {
      ...hears,
      name: 'the platform has forgotten that the address was verified',
      symptom: 'replies-missing',
      breakIt: async () => business({ callback: { ...(await remote()).callback, confirmed: false } }),
      causes: ['callback-unverified'],
      repair: () => handOverForMe(ctx, SYSTEM, chat.channel.id),
    },
    switched('tarrow', 'signsWithAnotherKey', {
      ...hears,
      name: 'the seal is made with another key',
      symptom: 'replies-missing',
      causes: ['signature-wrong'],
    }),
    switched('tarrow', 'down', {
      ...sends,
      name: 'the platform cannot be reached',
      symptom: 'nothing-arrives',
      causes: ['provider-unreachable'],
    }),
    switched('tarrow', 'answers500', {
      ...sends,
      name: 'the platform has a fault of its own',
      symptom: 'nothing-arrives',
      causes: ['provider-error'],
    }),
    switched('tarrow', 'losesEvents', {
      ...hears,
      name: 'the platform keeps messages back',
      symptom: 'replies-missing',
      causes: ['provider-silent'],
      place: ['provider', 'door'],
      knows: { 'provider-log-has-it': 'yes', 'wrote-here': 'yes', 'shown-sent': 'yes' },
    }),
    withTemplate('saved and never submitted', async () => undefined, {
      symptom: 'app-cannot-send',
      causes: ['template-not-submitted'],
    }),
    withTemplate(
      'still in review',
      async (id) => {
        await bench.change('tarrow/reviewer', { reviewMs: 60_000 });
        await submitTemplate(ctx, SYSTEM, id);
        await bench.change('tarrow/reviewer', { reviewMs: 150 });
      },
      { symptom: 'app-cannot-send', causes: ['template-not-approved'] },
    ),
    withTemplate(
      'paused by the platform',
      async (id) => {
        await approved(id);
        await bench.post(`/tarrow/patterns/${await patternOf(id)}/halt`);
        await settle(installation);
      },
      { symptom: 'app-cannot-send', causes: ['template-paused'] },
    ),
    withTemplate(
      'removed at the platform',
      async (id) => {
        await approved(id);
        await fetch(
          `http://127.0.0.1:${world.ports.tarrow}/api/7/businesses/${chat.businessId}/patterns/${await patternOf(id)}`,
          {
            method: 'DELETE',
            headers: { authorization: `Bearer ${well.token.value}` },
          },
        );
      },
      { symptom: 'app-cannot-send', causes: ['template-unknown', 'template-not-approved', 'template-gone'] },
    ),
    {
      ...overTrunk,
      name: 'the trunk’s password was changed',
      symptom: 'worked-before',
      breakIt: () => rebind({ password: 'changed1' }, 'refused'),
      causes: ['credential-secret-wrong', 'credential-refused'],
      repair: () => rebind({ password: atCarrier.password }, 'bound'),
    },
    switched('ostrel', 'down', {
      ...overTrunk,
      name: 'the carrier is down',
      symptom: 'nothing-arrives',
      causes: ['provider-unreachable', 'trunk-down'],
    }),
    {
      ...overTrunk,
      name: 'the carrier made the login two binds',
      symptom: 'worked-before',
      breakIt: () => rebind({ binds: 'separate' }, 'refused'),
      causes: ['trunk-bind-wrong'],
      repair: () => rebind({ binds: 'transceiver' }, 'bound'),
    },
    switched('ostrel', 'throttles', {
      ...overTrunk,
      name: 'the carrier throttles every text',
      symptom: 'nothing-arrives',
      causes: ['throttled'],
    }),
    {
      ...overTrunk,
      name: 'the login lost its number',
      symptom: 'worked-before',
      breakIt: () => login({ numbers: [] }),
      causes: ['sender-not-owned'],
      repair: () => login({ numbers: atCarrier.numbers }),
    },
    {
      ...onTrunk,
      name: 'the carrier no longer takes long texts',
      symptom: 'only-some',
      breakIt: () => login({ longText: [] }),
      traffic: async () => {
        await out(trunk.channel.id);
        await out(trunk.channel.id, INES, `${'A long notice of a stoppage. '.repeat(9)}${++words}`);
      },
      causes: ['trunk-long-text-refused'],
      repair: () => login({ longText: atCarrier.longText }),
    },
    {
      ...onTrunk,
      name: 'receipts name ids in another base',
      symptom: 'nothing-arrives',
      breakIt: () => login({ ids: { answers: 'hex', receipts: 'decimal' } }),
      traffic: async () => {
        await out(trunk.channel.id, INES);
        await out(trunk.channel.id, INES);
      },
      causes: ['receipt-id-base'],
      repair: () => login({ ids: atCarrier.ids }),
    },
    {
      ...onTrunk,
      name: 'the carrier reads another alphabet',
      symptom: 'arrives-wrong',
      breakIt: () => login({ alphabet: 'latin-1' }),
      traffic: async () => {
        await bench.type(INES, trunk.channel.address, 'Är slussen öppen på lördag, Åke? Två båtar à 12 m');
        await settle(installation);
      },
      causes: ['trunk-alphabet'],
      knows: { 'letters-wrong': 'yes', 'values-wrong': 'no' },
      repair: () => login({ alphabet: atCarrier.alphabet }),
    },
    switched('fennick', 'down', {
      ...onMail,
      name: 'the mail service is down',
      symptom: 'nothing-arrives',
      traffic: () => out(mail.id),
      causes: ['provider-unreachable'],
    }),
    switched('fennick', 'bouncesEverything', {
      ...onMail,
      name: 'the carrier’s gateway returns every mail',
      symptom: 'nothing-arrives',
      traffic: () => out(mail.id),
      causes: ['mail-bounced'],
    }),
    switched('fennick', 'lookupDown', {
      name: 'the carrier of a new person cannot be looked up',
      symptom: 'only-some',
      about: { channel: mail.id, phone: ODILE },
      traffic: () => out(mail.id, ODILE),
      causes: ['carrier-unknown', 'provider-error'],
    }),
    {
      ...onMail,
      name: 'the mail account’s password was changed',
      symptom: 'worked-before',
      breakIt: () => bench.change('fennick/accounts/mossgate', { password: 'changed' }),
      traffic: () => out(mail.id),
      causes: ['credential-refused', 'credential-secret-wrong'],
      repair: () => bench.change('fennick/accounts/mossgate', { password: world.fennick.accounts[0]?.password }),
    },
  ];

  return {
    installation,
    cases,
    async wellAgain() {
      await bench.type(INES, chat.channel.address, `All well ${++words}`, 'chat');
      await bench.type(TOMAS, chat.channel.address, `All well ${++words}`, 'chat');
      await until(
        'the last that was written is here',
        async () => (await ctx.store.messages.count({ text: `All well ${words}` })) > 0,
      );
      await untilBound(installation, trunk.accountId);
      for (const channel of [chat.channel.id, trunk.channel.id, mail.id]) {
        const text = `All well again ${++words}`;
        await until('it is taken', async () =>
          send(SYSTEM, { to: INES, from: channel, text }).then(
            () => true,
            () => false,
          ),
        );
        await until(
          `it goes out on ${channel === mail.id ? 'mail' : channel === chat.channel.id ? 'chat' : 'the trunk'}`,
          async () =>
            ['sent', 'delivered', 'read'].includes(
              (await ctx.store.messages.all({ text, direction: 'out' }))[0]?.state ?? '',
            ),
        );
      }
    },
  };
}
