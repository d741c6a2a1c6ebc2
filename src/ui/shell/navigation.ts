/** The rail: the order of the work. Only what exists is listed. */
export interface NavigationGroup {
  name: string;
  items: { label: string; href: string; adminOnly?: boolean }[];
}

export const NAVIGATION: NavigationGroup[] = [
  { name: 'Whole', items: [{ label: 'Overview', href: '/' }] },
  {
    name: 'Connect',
    items: [
      { label: 'Providers', href: '/connect/providers' },
      { label: 'Numbers', href: '/connect/numbers' },
      { label: 'Channels', href: '/connect/channels' },
      { label: 'Profiles', href: '/connect/profiles' },
    ],
  },
  {
    name: 'Apps',
    items: [
      { label: 'Apps', href: '/apps' },
      { label: 'API', href: '/apps/api' },
    ],
  },
  {
    name: 'Compose',
    items: [
      { label: 'Templates', href: '/compose/templates' },
      { label: 'Contacts', href: '/compose/contacts' },
    ],
  },
  {
    name: 'Route',
    items: [
      { label: 'Routes', href: '/route/routes' },
      { label: 'Conversations', href: '/route/conversations' },
    ],
  },
  { name: 'Send', items: [{ label: 'To-dos', href: '/send/todos' }] },
  {
    name: 'Prove',
    items: [
      { label: 'Readiness', href: '/prove/readiness' },
      { label: 'Diagnosis', href: '/prove/diagnosis' },
      { label: 'Delivery tests', href: '/prove/tests' },
      { label: 'Bench', href: '/prove/bench' },
      { label: 'Drills', href: '/prove/drills' },
    ],
  },
  {
    name: 'Watch',
    items: [
      { label: 'Messages', href: '/watch/messages' },
      { label: 'Traffic', href: '/watch/flow' },
      { label: 'Audit', href: '/watch/audit', adminOnly: true },
    ],
  },
  {
    name: 'Settings',
    items: [
      { label: 'People', href: '/people', adminOnly: true },
      { label: 'Mail', href: '/mail', adminOnly: true },
    ],
  },
];

/** The entry a page belongs to: the one whose address begins the page's and says most. */
export function entryOf(path: string): string | undefined {
  return NAVIGATION.flatMap(({ items }) => items.map(({ href }) => href))
    .filter((href) => (href === '/' ? path === '/' : path === href || path.startsWith(`${href}/`)))
    .sort((a, b) => b.length - a.length)[0];
}

/** Keys pressed one after the other that go to a page. */
export const GO_KEYS: Record<string, string> = {
  o: '/',
  p: '/connect/providers',
  n: '/connect/numbers',
  c: '/connect/channels',
  a: '/apps',
  t: '/route/conversations',
  r: '/route/routes',
  ctx: '/compose/templates',
  b: '/prove/bench',
  d: '/prove/diagnosis',
  e: '/prove/tests',
  m: '/watch/messages',
};
