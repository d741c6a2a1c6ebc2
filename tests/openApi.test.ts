/** Three providers nobody has seen, connected from what they publish alone: their documents, and samples where a document is silent. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { draftProfile } from '../src/connectors/openapi/draft';
import { connectProvider } from '../src/operations/accounts/accounts';
import { getChannel, handOverForMe, openChannel } from '../src/operations/channels/channels';
import { SYSTEM } from '../src/operations/context/actor';
import { createSender } from '../src/operations/outbound/sendMessage';
import { draftFromDocument, examineProfileText, saveProfile } from '../src/operations/profiles';
import { INES } from './harness/mossgate';
import { type Installation, startInstallation } from './harness/processes';
import { until } from './harness/until';
import {
  documentOf,
  LARKRISE,
  PELLOW,
  type Provider,
  SEDGE,
  SEDGE_SAMPLES,
  startLarkrise,
  startPellow,
  startSedge,
} from './openApi/providers';

let house: Installation;
beforeAll(async () => {
  house = await startInstallation();
});
afterAll(() => house.stop());

interface Case {
  document: string;
  start: () => Promise<Provider>;
  credentials: Record<string, string>;
  samples?: { of: string; text: string }[];
  secret?: string;
  /** What somebody says who has read the documentation; everything else is as proposed. */
  answers?: Record<string, string>;
  /** Its texts are sent where it was told by hand. */
  byHand?: boolean;
  /** What is read of the account. */
  balance: { micros: number; currency: string };
}

const CASES: Record<string, Case> = {
  'larkrise-text': {
    document: documentOf('larkrise.yaml'),
    start: startLarkrise,
    credentials: { key: LARKRISE.key, accountId: LARKRISE.account, webhookSecret: LARKRISE.secret },
    balance: { micros: 182_400_000, currency: 'EUR' },
  },
  pellow: {
    document: documentOf('pellow.json'),
    start: startPellow,
    credentials: { token: PELLOW.token, webhookSecret: PELLOW.word },
    answers: { 'code.10': 'credential-refused', 'code.21': 'address-malformed' },
    byHand: true,
    balance: { micros: 42_500_000, currency: 'GBP' },
  },
  sedge: {
    document: documentOf('sedge.yaml').replace('Numbr:', 'Number:'),
    start: startSedge,
    credentials: { user: SEDGE.user, password: SEDGE.password, webhookSecret: SEDGE.password },
    samples: [
      { of: 'post', text: SEDGE_SAMPLES.text },
      { of: 'post', text: SEDGE_SAMPLES.report },
    ],
    secret: SEDGE.password,
    answers: { 'state.3': 'delivered' },
    byHand: true,
    balance: { micros: 12_500_000, currency: 'GBP' },
  },
};

describe.each(Object.entries(CASES))(
  '%s',
  (id, { document, start, answers = {}, samples = [], secret = '', ...rest }) => {
    test('is connected from its document, both ways, with its receipts', async () => {
      const { ctx } = house;
      const provider = await start();
      try {
        const draft = await draftFromDocument(ctx, SYSTEM, { document, samples, answers, secret });
        expect(draft.findings).toEqual([]);
        expect(await examineProfileText(SYSTEM, draft.text)).toEqual([]);
        expect(await saveProfile(ctx, SYSTEM, draft.text)).toEqual({ id });
        const credentials = { address: provider.address, ...rest.credentials };
        const wrong = Object.fromEntries(
          Object.entries(credentials).map(([name, value]) => [name, name === 'address' ? value : `${value}0`]),
        );
        const connect = (given: Record<string, string>) =>
          connectProvider(ctx, SYSTEM, { name: id, connector: id, credentials: given });
        await expect(connect(wrong)).rejects.toThrow();
        const account = await connect(credentials);
        expect((await ctx.store.accounts.one({ id: account.id }))?.facts.balance).toEqual(rest.balance);
        const number = await ctx.store.numbers.one({ account_id: account.id });
        const channel = await openChannel(ctx, SYSTEM, { name: `${id} desk`, numberId: number?.id ?? '' });
        if (rest.byHand) {
          provider.hook = (await getChannel(ctx, SYSTEM, channel.id)).inboundUrl;
        } else await handOverForMe(ctx, SYSTEM, channel.id);

        expect(await provider.personWrites(INES, `Is ${id} open? ✓`)).toBe(202);
        const came = await until('the text is in', () => ctx.store.messages.one({ text: `Is ${id} open? ✓` }));
        expect(came).toMatchObject({ channel_id: channel.id, direction: 'in' });
        const { message } = await createSender(ctx)(SYSTEM, { to: INES, from: channel.id, text: 'It is, until nine.' });
        await until('it is taken', () => ctx.store.messages.one({ id: message.id, state: 'sent' }));
        expect(provider.sent).toEqual([
          {
            to: expect.stringContaining(INES.slice(1)),
            from: expect.stringContaining(number?.address.slice(1) ?? '?'),
            text: 'It is, until nine.',
          },
        ]);
        expect(await provider.arrived()).toBe(202);
        await until('it is delivered', () => ctx.store.messages.one({ id: message.id, state: 'delivered' }));
      } finally {
        await provider.stop();
      }
    });
  },
);

test('a mistake in a document is named at its line, with what is likely meant; the rest of it is used', async () => {
  const document = documentOf('sedge.yaml');
  const draft = await draftProfile({ document, samples: [], answers: {}, secret: '' });
  expect(draft.mistakes).toHaveLength(1);
  const [mistake] = draft.mistakes;
  expect(document.slice(0, mistake?.place?.from).split('\n')).toHaveLength(
    document.split('\n').findIndex((line) => line.includes('schemas/Number"')) + 1,
  );
  expect(mistake?.problem).toContain('Numbr');
  expect(draft.text).toContain('/submit.json');
  expect(draft.questions.find(({ key }) => key === 'call.numbers')).toMatchObject({ value: '', must: true });
});

test('a profile whose own example is read otherwise is not saved', async () => {
  const { document, samples = [], secret = '', answers = {} } = CASES.sedge as Case;
  const { text } = await draftProfile({ document, samples, answers, secret });
  const wrong = text.replace('from: $.Originator', 'from: $.Recipient').replace('id: sedge', 'id: sedge-two');
  const [finding] = await examineProfileText(SYSTEM, wrong);
  expect(finding).toMatchObject({ code: 'example-fails' });
  expect(finding?.problem).toMatch(/^Example 1: \[0\]\.from is read as "\+447700900883", not as "\+447700900305"/);
  expect(wrong.slice(finding?.place?.from)).toMatch(/^posts: Type=sms/);
  await expect(saveProfile(house.ctx, SYSTEM, wrong)).rejects.toThrow(/1 mistake/);
});
