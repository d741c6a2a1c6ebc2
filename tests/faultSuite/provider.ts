/** Faults of an SMS provider over HTTP, both ways. */
import { setAccountDisabled } from '../../src/operations/accounts/accounts';
import { handOverForMe, replaceInboundUrl } from '../../src/operations/channels/channels';
import { SYSTEM } from '../../src/operations/context/actor';
import { createSender } from '../../src/operations/outbound/sendMessage';
import { SEEN_SETTING } from '../../src/operations/readiness/readinessMonitor';
import { callApi, connectMossgate, INES, TOMAS } from '../harness/mossgate';
import { killHard, startInstallation } from '../harness/processes';
import { settle } from '../harness/rest';
import { until } from '../harness/until';
import type { Case } from './case';
import type { House } from './run';

/** A replaced address is taken for the present one at most so long, in milliseconds. */
const OLD_ADDRESS_TAKEN = 2500;
const ODILE = '+33639980417';

export async function providerHouse(): Promise<House> {
  const installation = await startInstallation();
  const { ctx, bench, world } = installation;
  const mossgate = await connectMossgate(installation);
  const remote = world.accounts[0] as (typeof world.accounts)[number];
  const channel = mossgate.channel.id;
  const { address } = mossgate.channel;
  const about = { channel };
  const send = createSender(ctx);
  const account = (settings: object) => bench.account(remote.id, settings as Record<string, unknown>);
  const faults = (settings: Record<string, boolean | number>) => bench.faults({ brackwater: settings });
  const numbers = () =>
    bench.read<{ numbers: { number: string; inbound: { method: string; primary: string; fallback: string } }[] }>(
      `/brackwater/accounts/${remote.id}`,
    );
  let words = 0;
  const out = async (to = INES) => {
    await send(SYSTEM, { to, from: channel, text: `Stoppage notice ${++words}` }).catch(() => undefined);
    await settle(installation);
  };
  const write = async (from = INES) => {
    await bench.type(from, address, `Is the lock open ${++words}`).catch(() => undefined);
    await settle(installation);
  };
  const inbound = async (settings: object) => {
    const all = (await numbers()).numbers;
    await account({
      numbers: all.map((each) =>
        each.number === address ? { ...each, inbound: { ...each.inbound, ...settings } } : each,
      ),
    });
  };
  let kept = (await numbers()).numbers;
  const restore = () => account({ numbers: kept });

  const sends: Pick<Case, 'about' | 'traffic'> = { about, traffic: () => out() };
  const hears: Pick<Case, 'about' | 'traffic'> = { about, traffic: () => write() };
  const switched = (fault: string, rest: Omit<Case, 'breakIt' | 'repair'>): Case => ({
    ...rest,
    breakIt: () => faults({ [fault]: true }),
    repair: () => faults({ [fault]: false }),
  });

  const cases: Case[] = [
    {
      name: 'the engine is not running',
      symptom: 'nothing-arrives',
      about,
      breakIt: async () => {
        await killHard(installation.engine);
        // It was last seen a minute ago.
        await ctx.store.write((unit) =>
          unit.execute('UPDATE settings SET value = value - 60000 WHERE name = :name', { name: SEEN_SETTING }),
        );
      },
      traffic: () => out(),
      causes: ['engine-silent'],
      repair: () => installation.startEngine(),
    },
    {
      ...sends,
      name: 'the secret was replaced at the provider',
      symptom: 'worked-before',
      breakIt: () => account({ secret: 'bws_replaced00000000000000000000' }),
      causes: ['credential-secret-wrong', 'credential-refused'],
      repair: () => account({ secret: remote.secret }),
    },
    switched('secretEnded', {
      ...sends,
      name: 'the secret has ended',
      symptom: 'worked-before',
      causes: ['credential-expired'],
    }),
    {
      ...sends,
      name: 'the account was closed',
      symptom: 'nothing-arrives',
      breakIt: () => account({ id: 'BWACLOSED' }),
      causes: ['credential-id-unknown'],
      repair: () => bench.account('BWACLOSED', { id: remote.id }),
    },
    switched('creditGone', {
      ...sends,
      name: 'the credit is spent',
      symptom: 'worked-before',
      causes: ['credit-gone'],
    }),
    {
      ...sends,
      name: 'the credit is spent, seen by whoever waits for a text',
      symptom: 'nothing-arrives',
      breakIt: () => account({ credit: 0 }),
      causes: ['credit-gone'],
      repair: () => account({ credit: 182_400_000 }),
    },
    switched('regionsOff', {
      name: 'a country is off',
      symptom: 'only-some',
      about,
      traffic: async () => {
        await out(INES);
        await out(TOMAS);
      },
      causes: ['country-off'],
    }),
    switched('trialAgain', {
      name: 'the account is on trial',
      symptom: 'only-some',
      about,
      traffic: () => out(TOMAS),
      causes: ['trial-unverified', 'account-on-trial'],
    }),
    {
      name: 'the registration for one country was withdrawn',
      symptom: 'only-some',
      about,
      breakIt: () =>
        account({
          registrations: [{ country: 'FR', brand: 'granted', use: 'declined', reason: 'opt-out is missing' }],
        }),
      traffic: async () => {
        await out(INES);
        await out(ODILE);
      },
      causes: ['registration-missing'],
      repair: () => account({ registrations: [{ country: 'FR', brand: 'granted', use: 'granted' }] }),
    },
    {
      ...sends,
      name: 'the number was moved away from the account',
      symptom: 'worked-before',
      breakIt: () => account({ numbers: kept.filter(({ number }) => number !== address) }),
      causes: ['number-gone', 'sender-not-owned'],
      repair: restore,
    },
    switched('down', {
      ...sends,
      name: 'the provider cannot be reached',
      symptom: 'nothing-arrives',
      causes: ['provider-unreachable'],
    }),
    switched('answers500', {
      ...sends,
      name: 'the provider has a fault of its own',
      symptom: 'nothing-arrives',
      causes: ['provider-error'],
    }),
    switched('throttlesAll', {
      ...sends,
      name: 'the provider throttles everything',
      symptom: 'nothing-arrives',
      causes: ['throttled'],
    }),
    switched('hangs', {
      name: 'the provider takes the call and never answers',
      symptom: 'nothing-arrives',
      about,
      traffic: async () => {
        await out();
        await until('it is given up', () => ctx.store.events.count({ cause: 'provider-timeout' }));
      },
      causes: ['provider-timeout'],
    }),
    {
      ...sends,
      name: 'the account is off in Windgap',
      symptom: 'nothing-arrives',
      breakIt: () => setAccountDisabled(ctx, SYSTEM, mossgate.accountId, true),
      causes: ['account-disabled'],
      repair: () => setAccountDisabled(ctx, SYSTEM, mossgate.accountId, false),
    },
    {
      ...sends,
      name: 'the account is off in Windgap, after one phone had been off',
      symptom: 'nothing-arrives',
      breakIt: async () => {
        await bench.setHandset(TOMAS, { power: 'off' });
        await out(TOMAS);
        await bench.setHandset(TOMAS, { power: 'on' });
        await setAccountDisabled(ctx, SYSTEM, mossgate.accountId, true);
      },
      traffic: async () => undefined,
      causes: ['account-disabled'],
      repair: () => setAccountDisabled(ctx, SYSTEM, mossgate.accountId, false),
    },
    {
      name: 'one phone is switched off',
      symptom: 'only-some',
      about,
      breakIt: () => bench.setHandset(TOMAS, { power: 'off' }),
      traffic: async () => {
        await out(INES);
        await out(TOMAS);
      },
      causes: ['handset-unreachable'],
      repair: () => bench.setHandset(TOMAS, { power: 'on' }),
    },
    {
      name: 'nobody has the number any more',
      symptom: 'only-some',
      about: { channel, phone: '+447700900777' },
      breakIt: async () => undefined,
      traffic: () => out('+447700900777'),
      causes: ['number-not-in-service'],
      repair: async () => undefined,
    },
    {
      name: 'the person said STOP',
      symptom: 'only-some',
      about: { channel, phone: TOMAS },
      breakIt: async () => {
        await bench.type(TOMAS, address, 'STOP');
        await until('it is entered', async () => (await ctx.store.consentEntries.count({ what: 'withdrawn' })) > 0);
      },
      traffic: () => out(TOMAS),
      causes: ['opted-out'],
      repair: async () => {
        await bench.type(TOMAS, address, 'START');
        await until('it is taken back', async () => (await ctx.store.consentEntries.count({ what: 'given' })) > 0);
      },
    },
    {
      name: 'the phone has it and filters it',
      symptom: 'nothing-arrives',
      about: { channel, phone: INES },
      breakIt: async () => undefined,
      traffic: () => out(INES),
      causes: ['phone-hides'],
      place: ['phone', 'person'],
      knows: { 'phone-gets-others': 'yes' },
      repair: async () => undefined,
    },
    switched('carriesTwice', {
      name: 'the network makes a copy',
      symptom: 'arrives-twice',
      about: { channel, phone: INES },
      traffic: () => out(INES),
      causes: ['network-repeats'],
    }),
    {
      name: 'the app asks twice without a key of idempotency',
      symptom: 'arrives-twice',
      about: { channel, phone: TOMAS },
      breakIt: async () => undefined,
      traffic: async () => {
        for (let time = 0; time < 2; time++)
          await callApi(installation, mossgate.apiKey, 'POST', '/messages', {
            to: TOMAS,
            from: channel,
            text: 'Passage booked for nine',
          });
        await settle(installation);
      },
      causes: ['asked-twice'],
      repair: async () => undefined,
    },
    {
      ...hears,
      name: 'the provider has no address for the number',
      symptom: 'replies-missing',
      breakIt: () => inbound({ primary: '', fallback: '' }),
      causes: ['address-missing'],
      repair: restore,
    },
    {
      ...hears,
      name: 'somebody gave the number another address',
      symptom: 'replies-missing',
      breakIt: () => inbound({ primary: 'https://elsewhere.example/in', fallback: '' }),
      causes: ['address-not-ours'],
      repair: restore,
    },
    {
      ...hears,
      name: 'the inbound URL was replaced here and not handed over',
      symptom: 'worked-before',
      breakIt: async () => {
        await replaceInboundUrl(ctx, SYSTEM, channel);
        await bench.moveClock(OLD_ADDRESS_TAKEN);
      },
      causes: ['address-not-ours'],
      repair: async () => {
        await handOverForMe(ctx, SYSTEM, channel);
        kept = (await numbers()).numbers;
      },
    },
    {
      ...hears,
      name: 'the method was set to GET',
      symptom: 'replies-missing',
      breakIt: () => inbound({ method: 'GET' }),
      causes: ['inbound-method'],
      repair: restore,
    },
    {
      name: 'two numbers have changed places',
      symptom: 'replies-missing',
      about,
      breakIt: async () => {
        const all = (await numbers()).numbers;
        const own = all.find(({ number }) => number === address);
        await account({
          numbers: all.map((each) =>
            each.number === address
              ? { ...each, inbound: { method: 'POST', primary: '', fallback: '' } }
              : each.number === '+447700900811'
                ? { ...each, inbound: own?.inbound }
                : each,
          ),
        });
      },
      traffic: () => write(),
      causes: ['address-on-another-number'],
      repair: restore,
    },
    switched('signsWithAnotherSecret', {
      ...hears,
      name: 'posts are signed with another secret',
      symptom: 'replies-missing',
      causes: ['signature-wrong'],
    }),
    switched('garblesPosts', {
      ...hears,
      name: 'posts cannot be read',
      symptom: 'replies-missing',
      causes: ['inbound-unreadable'],
    }),
    switched('losesIncoming', {
      ...hears,
      name: 'the provider has the text and does not post it',
      symptom: 'replies-missing',
      causes: ['provider-silent'],
      place: ['provider', 'door'],
      knows: { 'provider-log-has-it': 'yes', 'wrote-here': 'yes', 'shown-sent': 'yes' },
    }),
    switched('losesIncoming', {
      ...hears,
      name: 'the number leads to another company now',
      symptom: 'replies-missing',
      causes: ['number-moved'],
      knows: { 'provider-log-has-it': 'no', 'wrote-here': 'yes', 'shown-sent': 'yes' },
    }),
    {
      name: 'they write to the old number',
      symptom: 'replies-missing',
      about,
      breakIt: async () => undefined,
      causes: ['wrote-elsewhere'],
      knows: { 'wrote-here': 'no', 'shown-sent': 'yes', 'provider-log-has-it': 'no' },
      repair: async () => undefined,
    },
    {
      name: 'their own network does not take the text',
      symptom: 'replies-missing',
      about,
      breakIt: async () => undefined,
      causes: ['not-sent-by-phone'],
      knows: { 'wrote-here': 'yes', 'shown-sent': 'no', 'provider-log-has-it': 'no' },
      repair: async () => undefined,
    },
    switched('losesTexts', {
      name: 'the provider takes texts and does not carry them',
      symptom: 'nothing-arrives',
      about,
      traffic: () => out(),
      causes: ['undelivered-unknown', 'carrier-refused'],
      knows: { 'phone-gets-others': 'yes' },
      honest: true,
    }),
  ];

  return {
    installation,
    cases,
    async wellAgain() {
      await out();
      await until('it arrives again', async () => {
        const [last] = await ctx.store.messages.all(
          { channel_id: channel, direction: 'out' },
          { order: [['id', 'DESC']], limit: 1 },
        );
        return last?.state === 'delivered';
      });
      const said = `LOCK Tern ${++words}`;
      await bench.type(INES, address, said);
      await until('it comes in again', async () => (await ctx.store.messages.count({ text: said })) > 0);
      await until(
        'the app is told',
        async () => (await ctx.store.deliveries.count({ state: ['due', 'leased'] })) === 0,
      );
    },
  };
}
