/** Templates of the demonstration, each submitted to the simulated platform and judged by its reviewer. */
import type { Template, Variant } from '../src/core/templates/template';
import { connectProvider } from '../src/operations/accounts/accounts';
import { openChannel } from '../src/operations/channels/channels';
import { SYSTEM } from '../src/operations/context/actor';
import type { AppContext } from '../src/operations/context/appContext';
import { checkTemplate } from '../src/operations/templates/templateReviews';
import { submitTemplate } from '../src/operations/templates/templateSubmissions';
import { createTemplate, saveTemplate, type TemplateKind } from '../src/operations/templates/templates';
import type { DemoWorld } from './world';

const samples = {
  skipper: 'Ines Calder',
  lock: 'North lock',
  time: '14:30',
  passage: 'P-2841',
  date: '30 September',
  amount: '£184.00',
};

function variant(language: string, body: string, more: Partial<Variant> = {}): Variant {
  return {
    language,
    body,
    buttons: [],
    samples: Object.fromEntries(
      Object.entries(samples).filter(([name]) => `${body} ${JSON.stringify(more)}`.includes(`{{ ${name} }}`)),
    ),
    ...more,
  };
}

const PASSAGE: Template = {
  name: 'passage-booked',
  category: 'transactional',
  variants: [
    variant(
      'en',
      'Hello {{ skipper }}, your passage through {{ lock }} is booked and the keeper expects you at {{ time }} today.\n\nPlease have your lines ready.',
      {
        header: { kind: 'text', text: 'Passage through {{ lock }}' },
        footer: 'Mossgate Waterways, Northern reach',
        buttons: [
          { kind: 'link', label: 'See the passage', target: 'https://lockbook.example/p/{{ passage }}' },
          { kind: 'call', label: 'Ring the keeper', target: '+44 20 7946 0188' },
        ],
      },
    ),
    variant(
      'sv',
      'Hej {{ skipper }}, din slussning genom {{ lock }} är bokad och slussvakten väntar dig klockan {{ time }} idag.\n\nHa dina linor klara.',
      {
        header: { kind: 'text', text: 'Slussning genom {{ lock }}' },
        footer: 'Mossgate Waterways, norra delen',
        buttons: [
          { kind: 'link', label: 'Visa slussningen', target: 'https://lockbook.example/p/{{ passage }}' },
          { kind: 'call', label: 'Ring slussvakten', target: '+44 20 7946 0188' },
        ],
      },
    ),
  ],
};

const RENEWAL: Template = {
  name: 'mooring-renewal',
  category: 'transactional',
  variants: [
    variant(
      'en',
      'Dear {{ skipper }}, your mooring at the harbour ends soon!! Renew it and win a prize in our exclusive draw, before {{ date }}',
    ),
  ],
};

const STOPPAGE: Template = {
  name: 'Stoppage notice',
  category: 'transactional',
  variants: [
    variant(
      'en',
      'The canal at {{ lock }} is closed from {{ date }} – boats can wait at the harbour without charge. Mossgate Waterways',
    ),
    variant(
      'fr',
      'Le canal à {{ lock }} est fermé à partir du {{ date }}. Les bateaux peuvent attendre au port sans frais. Mossgate Waterways',
    ),
  ],
};

const HOURS: Template = {
  name: 'Office hours',
  category: 'transactional',
  variants: [
    variant(
      'en',
      'The harbour office is open every day from 8 to 18. For anything urgent ring the duty keeper at +44 20 7946 0188.',
    ),
  ],
};

export async function setUpTemplates(ctx: AppContext, world: DemoWorld): Promise<void> {
  const business = world.tarrow[1] as DemoWorld['tarrow'][number];
  const bench = (path: string, init?: RequestInit) =>
    fetch(`http://127.0.0.1:${world.ports.bench}/tarrow/${path}`, init);
  const { id: accountId } = await connectProvider(ctx, SYSTEM, {
    connector: 'tarrow',
    name: 'Tarrow, northern reach',
    credentials: {
      apiAddress: `http://127.0.0.1:${world.ports.tarrow}/api/7`,
      businessId: business.id,
      numberId: business.lines[0]?.id ?? '',
      token: business.token.value,
      signingKey: business.signingKey,
    },
  });
  const number = await ctx.store.numbers.one({ account_id: accountId });
  await openChannel(ctx, SYSTEM, { numberId: number?.id ?? '', name: 'Northern chat' });

  const write = async (kind: TemplateKind, template: Template) => {
    const { id } = await createTemplate(ctx, SYSTEM, { kind, accountId, name: template.name, language: 'en' });
    const row = await ctx.store.templates.one({ id });
    await saveTemplate(ctx, SYSTEM, id, template, row?.changed_at ?? 0);
    return id;
  };
  await bench('reviewer', { method: 'PATCH', body: JSON.stringify({ reviewMs: 100 }) });
  for (const template of [PASSAGE, RENEWAL]) {
    const id = await write('platform', template);
    await submitTemplate(ctx, SYSTEM, id);
    await new Promise((resolve) => setTimeout(resolve, 400));
    await checkTemplate(ctx, SYSTEM, id);
  }
  await write('plain', STOPPAGE);
  await write('reply', HOURS);
}
