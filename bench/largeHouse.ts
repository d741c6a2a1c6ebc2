/** A large house written straight into the store: 60 channels on 20 accounts, 20 apps, 300 routes, 200 templates, 100 hooks. */

import type { Route, RouteSet } from '../src/core/routing/route';
import { newId } from '../src/store/ids';
import type { TemplateVersionRow } from '../src/store/schema/rows';
import { connectMossgate } from '../tests/harness/mossgate';
import type { Installation } from '../tests/harness/processes';

export const LARGE = { channels: 60, accounts: 20, apps: 20, routes: 300, templates: 200, hooks: 100 };

/** Routes as people write them: a few words of their own each, half of them for some channels. */
function ordinarySet(channels: readonly { id: string }[], apps: readonly { id: string }[]): RouteSet {
  const routes = Array.from(
    { length: LARGE.routes },
    (_, index): Route => ({
      id: `rte_${index}`,
      name: `Route ${index}`,
      when: {
        match: 'all',
        of: [
          {
            on: 'keyword',
            way: index % 3 === 0 ? 'contains' : 'begins',
            words: [`word${index}`, `term${index % 250}`],
          },
          ...(index % 2 === 0
            ? [
                {
                  on: 'channel' as const,
                  ids: [channels[index % channels.length]?.id ?? '', channels[(index + 7) % channels.length]?.id ?? ''],
                },
              ]
            : []),
        ],
      },
      steps: [{ do: 'tell', app: apps[index % apps.length]?.id ?? '' }],
      goesOn: false,
      stopsOnReply: false,
      off: false,
    }),
  );
  return { routes, hours: [] };
}

export async function makeLarge(installation: Installation): Promise<void> {
  const { ctx } = installation;
  const mossgate = await connectMossgate(installation);
  const account = await ctx.store.accounts.one({ id: mossgate.accountId });
  const number = await ctx.store.numbers.one({ id: mossgate.channel.number_id });
  if (!account || !number) throw new Error('The pattern of the house is missing');
  const at = ctx.now();
  const accounts = Array.from({ length: LARGE.accounts - 1 }, (_, index) => ({
    ...account,
    id: newId('acc', at),
    name: `Account ${index + 2}`,
  }));
  const homes = [account, ...accounts];
  const numbers = Array.from({ length: LARGE.channels - 1 }, (_, index) => ({
    ...number,
    id: newId('num', at),
    account_id: homes[index % homes.length]?.id ?? account.id,
    submitting: null,
    remote_id: `n-${index}`,
    address: `+4477009${String(10_000 + index)}`,
    inbound_url: null,
  }));
  const channels = numbers.map((row, index) => ({
    ...mossgate.channel,
    id: newId('chn', at),
    name: `Channel ${String(index + 2).padStart(2, '0')}`,
    account_id: row.account_id,
    number_id: row.id,
    address: row.address,
    inbound_token: newId('chn', at),
  }));
  const apps = Array.from({ length: LARGE.apps - 1 }, (_, index) => ({
    id: newId('app', at),
    name: `App ${String(index + 2).padStart(2, '0')}`,
    description: '',
    created_at: at,
    team: null,
  }));
  const variants = [
    {
      language: 'en',
      body: 'Your passage through {{ lock }} opens at {{ time }}.',
      buttons: [],
      samples: { lock: 'Tern', time: '9:00' },
    },
  ];
  const templates = Array.from({ length: LARGE.templates }, (_, index) => ({
    id: newId('tpl', at),
    kind: 'platform' as const,
    account_id: account.id,
    name: `passage-${index}`,
    category: 'transactional' as const,
    variants,
    submitting: null,
    remote_id: `p-${index}`,
    created_at: at,
    changed_at: at,
    changed_by: 'Bench',
    archived_at: null,
  }));
  const versions = templates.map(
    ({ id, name }, index): TemplateVersionRow => ({
      id: newId('tpv', at),
      template_id: id,
      number: 1,
      content: { name, category: 'transactional', variants } as TemplateVersionRow['content'],
      state: index % 10 === 0 ? 'paused' : 'approved',
      remote_id: `p-${index}`,
      edition: '1',
      filed_as: null,
      reasons: [],
      submitted_at: at,
      submitted_by: 'Bench',
      decided_at: at,
      usual_minutes: null,
      checked_at: at,
      next_check_at: null,
      findings: [],
      likelihood: 0,
    }),
  );
  const hooks = Array.from({ length: LARGE.hooks }, (_, index) => ({
    id: newId('hok', at),
    app_id: apps[index % apps.length]?.id ?? '',
    name: `Hook ${index}`,
    slug: `hook-${index}`,
    token: newId('hok', at),
    text: '',
    audience_id: null,
    phone_field: 'phone',
    country: 'GB',
    sender: { by: 'channel' as const, channel: mossgate.channel.id },
    media_field: null,
    tags: [],
    template: { id: templates[index]?.id ?? '', mapping: {} },
    guard: 'address' as const,
    sealed_secret: null,
    created_at: at,
    changed_at: at,
    disabled_at: null,
    disabled_why: null,
  }));
  const proofs = channels.flatMap(({ id }, index) =>
    (['credential', 'outbound', 'receipt', 'inbound'] as const).map((hop) => ({
      subject_id: id,
      hop,
      state: index % 7 === 3 && hop === 'inbound' ? ('unproven' as const) : ('proven' as const),
      since: at,
      changed_at: at - 1000,
      evidence_at: at,
      evidence_ref: null,
      cause: null,
      note: null,
    })),
  );
  const [published] = await ctx.store.routeRevisions.all(undefined, { order: [['number', 'DESC']], limit: 1 });
  await ctx.store.write(async (unit) => {
    await unit.accounts.insert(accounts);
    await unit.numbers.insert(numbers);
    await unit.channels.insert(channels);
    await unit.apps.insert(apps);
    await unit.templates.insert(templates);
    await unit.templateVersions.insert(versions);
    await unit.hooks.insert(hooks);
    await unit.proofs.insert(proofs);
    await unit.routeRevisions.insert([
      {
        number: (published?.number ?? 0) + 1,
        content: ordinarySet(channels, apps),
        published_at: at,
        by: 'Bench',
        note: '',
      },
    ]);
  });
}
