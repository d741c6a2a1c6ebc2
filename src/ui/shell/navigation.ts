/** The stages of the work, in order, with their pages. Only what exists is listed. */
export interface NavigationPage {
  label: string;
  href: string;
  adminOnly?: boolean;
  /** Which count of what needs attention belongs to it. */
  counts?: Count;
}

export interface NavigationStage {
  name: string;
  pages: NavigationPage[];
}

export type Count = 'unread' | 'todos' | 'errors' | 'templates' | 'aside';

export const NAVIGATION: NavigationStage[] = [
  { name: 'Overview', pages: [{ label: 'Overview', href: '/' }] },
  {
    name: 'Connect',
    pages: [
      { label: 'Providers', href: '/connect/providers' },
      { label: 'Numbers', href: '/connect/numbers' },
      { label: 'Channels', href: '/connect/channels' },
      { label: 'Profiles', href: '/connect/profiles' },
      { label: 'Public address', href: '/connect/address' },
    ],
  },
  {
    name: 'Apps',
    pages: [
      { label: 'Apps', href: '/apps' },
      { label: 'API', href: '/apps/api' },
    ],
  },
  {
    name: 'Compose',
    pages: [
      { label: 'Templates', href: '/compose/templates', counts: 'templates' },
      { label: 'Contacts', href: '/compose/contacts' },
    ],
  },
  {
    name: 'Route',
    pages: [
      { label: 'Conversations', href: '/route/conversations', counts: 'unread' },
      { label: 'Routes', href: '/route/routes' },
    ],
  },
  {
    name: 'Send',
    pages: [
      { label: 'New message', href: '/send/message' },
      { label: 'Broadcasts', href: '/send/broadcasts' },
      { label: 'To-dos', href: '/send/todos', counts: 'todos' },
      { label: 'Limits', href: '/send/limits' },
    ],
  },
  {
    name: 'Prove',
    pages: [
      { label: 'Readiness', href: '/prove/readiness', counts: 'errors' },
      { label: 'Diagnosis', href: '/prove/diagnosis' },
      { label: 'Delivery tests', href: '/prove/tests' },
      { label: 'Changes on trial', href: '/prove/trials', adminOnly: true },
      { label: 'Bench', href: '/prove/bench' },
      { label: 'Drills', href: '/prove/drills' },
    ],
  },
  {
    name: 'Watch',
    pages: [
      { label: 'Messages', href: '/watch/messages' },
      { label: 'Traffic', href: '/watch/flow' },
      { label: 'Alerts', href: '/watch/alerts' },
      { label: 'Set aside', href: '/watch/set-aside', counts: 'aside' },
      { label: 'Audit', href: '/watch/audit', adminOnly: true },
    ],
  },
  {
    name: 'Settings',
    pages: [
      { label: 'People', href: '/people', adminOnly: true },
      { label: 'Mail', href: '/mail', adminOnly: true },
      { label: 'Installation', href: '/installation', adminOnly: true },
    ],
  },
];

/** What an agent needs on a phone. */
export const ON_A_PHONE = ['/route/conversations', '/send/todos', '/watch/messages'];

/** The stages with the pages that somebody may see; a stage without any is left out. */
export function stagesFor(admin: boolean, hidden: readonly string[]): NavigationStage[] {
  return NAVIGATION.map(({ name, pages }) => ({
    name,
    pages: pages.filter(({ adminOnly, href }) => (admin || !adminOnly) && !hidden.includes(href)),
  })).filter(({ pages }) => pages.length > 0);
}

/** The page of the navigation that an address belongs to: the one that begins it and says most. */
export function entryOf(path: string): string | undefined {
  return NAVIGATION.flatMap(({ pages }) => pages.map(({ href }) => href))
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
  w: '/compose/templates',
  b: '/prove/bench',
  d: '/prove/diagnosis',
  e: '/prove/tests',
  m: '/watch/messages',
};
