/** The bench's control address: handsets, what the stand-ins saw, and the fault switches. */
import { type Context, Hono } from 'hono';
import type { Bollard } from './bollard/bollard';
import type { Brackwater } from './brackwater/brackwater';
import { addEvent, type CalendarSettings } from './calendar/calendar';
import { moveClock, movedBy, now } from './clock';
import type { Corvane } from './corvane/corvane';
import type { Fennick } from './fennick/fennick';
import type { Letter } from './fennick/mailbox';
import type { Lockbook } from './lockbook/lockbook';
import type { MobileNetwork, Way } from './network';
import type { Ostrel } from './ostrel/ostrel';
import type { Population } from './population';
import type { Tarrow } from './tarrow/tarrow';
import type { Towpath } from './towpath/towpath';
import { underWay } from './underWay';
import type { Website } from './website/website';
import type { WeirDesk } from './weir/weir';

export interface World {
  network: MobileNetwork;
  brackwater: Brackwater;
  ostrel: Ostrel;
  tarrow: Tarrow;
  corvane: Corvane;
  fennick: Fennick;
  lockbook: Lockbook;
  towpath: Towpath;
  weir: WeirDesk;
  bollard: Bollard;
  website: Website;
  calendar: CalendarSettings;
  consoles: { name: string; what: string; url: string }[];
}

/** What handsets photograph: a lock gate, 48 by 32. */
const PICTURE = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAADAAAAAgCAIAAADbtmxLAAAAUklEQVR42mM4ee3eoEIMow4addCog8AowcMAiGx05CAMrOxRB406aNRBow4izkFWyXlkIGIcRJ7Jow4addCog0YdNOqgUQeNOmjUQaMOGmQOAgA8WCvkph41rQAAAABJRU5ErkJggg==',
  'base64',
);

const LONGEST_MOVE = 366 * 86_400_000;

const SERVICES = ['brackwater', 'ostrel', 'tarrow', 'corvane', 'fennick', 'lockbook', 'towpath', 'weir'] as const;

export function benchControl(world: World): Hono {
  const { network, brackwater, ostrel, tarrow, corvane, fennick, lockbook } = world;
  const app = new Hono();
  const faults = () => Object.fromEntries(SERVICES.map((service) => [service, world[service].faults]));

  app.get('/', (c) =>
    c.json({
      handsets: [...network.handsets.values()].map((handset) => ({ ...handset, entries: handset.entries.slice(-60) })),
      numbers: addresses(world),
      faults: faults(),
      reviewer: tarrow.patterns.desk,
      consoles: world.consoles,
      clock: { now: now(), movedBy: movedBy() },
    }),
  );

  app.post('/clock', async (c) => {
    const { by } = (await c.req.json()) as { by?: unknown };
    if (typeof by !== 'number' || !(by > 0 && by <= LONGEST_MOVE))
      return c.json({ problem: 'The clock goes forward only, by a year at most.' }, 422);
    moveClock(by);
    return c.json({ now: now(), movedBy: movedBy() });
  });

  app.get('/under-way', (c) => c.json({ count: underWay() + ostrel.owed() }));

  app.post('/handsets/:number/texts', async (c) => {
    const { to, text, way, picture } = (await c.req.json()) as {
      to: string;
      text: string;
      way?: Way;
      picture?: boolean;
    };
    const file = picture ? { address: new URL('/files/lock-gate.png', c.req.url).href, type: 'image/png' } : undefined;
    const handset = network.handsets.get(c.req.param('number'));
    if (!handset) return c.json({ problem: 'no such handset' }, 404);
    if (handset.power === 'off') return c.json({ problem: 'This handset is switched off.' }, 409);
    if (!network.type(handset.number, to, text, way, file)) return c.json({ problem: 'Nobody has this number.' }, 409);
    return c.json({ typed: true }, 202);
  });

  app.get('/received', (c) => {
    const since = c.req.query('since') ?? '';
    const numbers = (c.req.query('numbers') ?? '').split(',');
    const seen = numbers.flatMap((number) => {
      const handset = network.handsets.get(number);
      return handset
        ? [[number, handset.entries.filter(({ direction, at }) => direction === 'received' && at >= since)]]
        : [];
    });
    return c.json(Object.fromEntries(seen));
  });

  app.get('/files/lock-gate.png', (c) => c.body(PICTURE, 200, { 'content-type': 'image/png' }));

  app.post('/handsets', async (c) => {
    const { number, owner, country } = await c.req.json<Record<'number' | 'owner' | 'country', string>>();
    if (!/^\+\d{7,15}$/.test(number ?? '')) return c.json({ problem: 'A handset has a number in E.164.' }, 422);
    if (!network.handsets.has(number)) network.add({ number, owner, country, power: 'on', delayMs: 20 });
    return c.json(network.handsets.get(number), 201);
  });
  app.post('/populations', async (c) => {
    network.populations.push(await c.req.json<Population>());
    return c.body(null, 201);
  });
  app.patch('/handsets/:number', async (c) => {
    const handset = network.handsets.get(c.req.param('number'));
    if (!handset) return c.json({ problem: 'no such handset' }, 404);
    const wanted = (await c.req.json()) as {
      power?: 'on' | 'off';
      delayMs?: number;
      answersWith?: string;
      away?: string;
    };
    if (wanted.power) handset.power = wanted.power;
    if (wanted.delayMs !== undefined) handset.delayMs = wanted.delayMs;
    if (wanted.away !== undefined) handset.away = wanted.away || undefined;
    if (wanted.answersWith !== undefined) handset.answersWith = wanted.answersWith || undefined;
    return c.json(handset);
  });

  app.patch('/faults', async (c) => {
    const wanted = (await c.req.json()) as Partial<Record<(typeof SERVICES)[number], object>>;
    for (const service of SERVICES) Object.assign(world[service].faults, wanted[service]);
    if (ostrel.faults.down) ostrel.cut();
    return c.json(faults());
  });

  // Whole records and settings, for tests and benchmarks.
  app.get('/brackwater/texts', (c) => c.json(brackwater.texts));
  app.get('/brackwater/given-up', (c) => c.json(brackwater.callbacks.givenUp));
  app.get('/ostrel/texts', (c) => c.json(ostrel.accepted));
  app.get('/corvane/messages', (c) => c.json(corvane.messages));
  app.get('/tarrow/messages', (c) => c.json(tarrow.messages));
  app.post('/ostrel/cut', (c) => {
    ostrel.cut();
    return c.body(null, 204);
  });
  app.post('/tarrow/forget/:person', (c) => {
    tarrow.forget(c.req.param('person'));
    return c.body(null, 204);
  });
  app.get('/tarrow/patterns', (c) => c.json({ desk: tarrow.patterns.desk, patterns: tarrow.patterns.all }));
  app.patch('/tarrow/reviewer', async (c) => patch(c, tarrow.patterns.desk));
  app.post('/tarrow/patterns/:id/halt', (c) => c.json({ halted: tarrow.patterns.halt(c.req.param('id')) }));
  app.get('/lockbook', (c) => c.json({ settings: lockbook.settings, events: lockbook.events, calls: lockbook.calls }));
  app.patch('/lockbook', async (c) => c.json(Object.assign(lockbook.settings, await c.req.json())));
  app.post('/calendar/events', async (c) => {
    const { title, notes, at } = await c.req.json<{ title: string; notes: string; at: string }>();
    return c.json(addEvent(world.calendar, title, notes, new Date(at)), 201);
  });
  app.patch('/bollard/faults', async (c) => c.json(Object.assign(world.bollard.faults, await c.req.json())));
  app.patch('/bollard/people/:id', async (c) => {
    const person = world.bollard.settings.people.find(({ id }) => id === c.req.param('id'));
    return person ? c.json(Object.assign(person, await c.req.json())) : c.json({ problem: 'no such person' }, 404);
  });
  app.patch('/bollard', async (c) => c.json(Object.assign(world.bollard.settings, await c.req.json())));
  app.post('/bollard/rotate', async (c) => {
    await world.bollard.rotate();
    return c.body(null, 204);
  });
  app.post('/fennick/records', async (c) => {
    const { name, texts } = (await c.req.json()) as { name: string; texts: string[] };
    fennick.zone.records.set(name.toLowerCase(), texts);
    return c.json({});
  });
  app.get('/fennick/mails', (c) => c.json(fennick.mails));
  app.post('/fennick/letters', async (c) => {
    const letter = await c.req.json<
      Omit<Letter, 'files'> & { files?: { name: string; type: string; content: string }[] }
    >();
    const account = fennick.accounts.find(({ address, posts }) => posts === 'whole' && address === letter.to);
    if (!account) return c.json({ problem: 'Nobody has this address.' }, 409);
    const files = letter.files?.map((file) => ({ ...file, content: Buffer.from(file.content, 'base64') }));
    await fennick.deliver(account, { ...letter, files });
    return c.json({ written: true }, 202);
  });
  app.get('/towpath', (c) => c.json(world.towpath.settings));
  app.patch('/towpath', async (c) => patch(c, world.towpath.settings));
  app.get('/weir', (c) => c.json(world.weir.settings));
  app.patch('/website', async (c) => c.json(Object.assign(world.website, await c.req.json())));
  app.get('/brackwater/accounts/:id', (c) => c.json(brackwater.account(c.req.param('id'))));
  app.get('/tarrow/businesses/:id', (c) => c.json(tarrow.businesses.find(({ id }) => id === c.req.param('id'))));
  app.get('/ostrel/logins/:id', (c) => c.json(ostrel.logins.find(({ systemId }) => systemId === c.req.param('id'))));
  app.patch('/brackwater/accounts/:id', async (c) => patch(c, brackwater.account(c.req.param('id'))));
  app.patch('/ostrel/logins/:id', async (c) =>
    patch(
      c,
      ostrel.logins.find((login) => login.systemId === c.req.param('id')),
    ),
  );
  app.patch('/tarrow/businesses/:id', async (c) =>
    patch(
      c,
      tarrow.businesses.find((business) => business.id === c.req.param('id')),
    ),
  );
  app.patch('/fennick/accounts/:user', async (c) =>
    patch(
      c,
      fennick.accounts.find((account) => account.user === c.req.param('user')),
    ),
  );

  return app;
}

async function patch(c: Context, target: object | undefined) {
  if (!target) return c.json({ problem: 'no such thing' }, 404);
  Object.assign(target, await c.req.json());
  return c.json(target);
}

/** Everything that can be written to from a handset, and how. */
function addresses({
  brackwater,
  ostrel,
  tarrow,
  corvane,
  fennick,
}: World): { number: string; account: string; way: Way; fromMailbox?: boolean }[] {
  return [
    ...brackwater.accounts.flatMap((account) =>
      account.numbers.map(({ number }) => ({ number, account: account.name, way: 'text' as const })),
    ),
    ...ostrel.logins.flatMap((login) =>
      login.numbers.map((number) => ({ number, account: `Ostrel ${login.systemId}`, way: 'text' as const })),
    ),
    ...tarrow.businesses.flatMap((business) =>
      business.lines.map(({ phone }) => ({ number: phone, account: 'Tarrow chat', way: 'chat' as const })),
    ),
    ...corvane.houses.flatMap(({ title, desks }) =>
      desks.map(({ handle }) => ({ number: handle, account: `Corvane, ${title}`, way: 'talk' as const })),
    ),
    ...fennick.accounts.map(({ address, posts }) => ({
      number: address,
      account: posts === 'whole' ? 'Fennick mailbox' : 'Fennick mail',
      way: 'mail' as const,
      fromMailbox: posts === 'whole',
    })),
  ];
}
