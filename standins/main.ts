/**
 * The simulated outside world in one process: providers, carrier, chat platform, mail
 * service, the organisation's apps and website, and the bench's control, each on its own
 * loopback port. What it is to contain comes from a world file, which it also keeps up to
 * date so that it survives a restart.
 */
import { readFileSync, renameSync, writeFileSync } from 'node:fs';
import type { IncomingMessage, Server, ServerResponse } from 'node:http';
import { createServer } from 'node:http';
import { getRequestListener } from '@hono/node-server';
import { Hono } from 'hono';
import { benchControl } from './bench';
import { Bollard, type BollardSettings } from './bollard/bollard';
import { bollardSite } from './bollard/site';
import type { BrackwaterAccount, BrackwaterOffer } from './brackwater/accounts';
import { brackwaterApi } from './brackwater/api';
import { Brackwater } from './brackwater/brackwater';
import { brackwaterConsole } from './brackwater/console';
import { type CalendarSettings, calendarSite } from './calendar/calendar';
import { now, openClock } from './clock';
import { Corvane, type CorvaneHouse } from './corvane/corvane';
import { corvaneApi, corvanePage } from './corvane/site';
import { type ExchangeSettings, exchangeSite } from './exchange/exchange';
import { Fennick, type FennickAccount, type FennickCarrier } from './fennick/fennick';
import { fennickSite } from './fennick/site';
import { Lockbook, type LockbookSettings } from './lockbook/lockbook';
import { lockbookSite } from './lockbook/site';
import { type Handset, MobileNetwork } from './network';
import { ostrelConsole } from './ostrel/console';
import { Ostrel, type OstrelLogin } from './ostrel/ostrel';
import { tarrowApi } from './tarrow/api';
import { tarrowConsole } from './tarrow/console';
import type { Pattern } from './tarrow/patterns';
import { Tarrow, type TarrowBusiness } from './tarrow/tarrow';
import { towpathSite } from './towpath/site';
import { Towpath, type TowpathSettings } from './towpath/towpath';
import { type Website, websitePages } from './website/website';
import { weirSite } from './weir/site';
import { WeirDesk, type WeirSettings } from './weir/weir';

interface WorldFile {
  ports: Record<
    | 'bench'
    | 'brackwater'
    | 'lockbook'
    | 'ostrel'
    | 'ostrelDesk'
    | 'tarrow'
    | 'corvane'
    | 'fennick'
    | 'fennickMail'
    | 'fennickNames'
    | 'website'
    | 'towpath'
    | 'weir'
    | 'calendar'
    | 'exchange'
    | 'bollard',
    number
  >;
  accounts: BrackwaterAccount[];
  offers: BrackwaterOffer[];
  ostrel: OstrelLogin[];
  tarrow: TarrowBusiness[];
  corvane: CorvaneHouse[];
  tarrowPatterns?: Pattern[];
  fennick: { accounts: FennickAccount[]; carriers: FennickCarrier[] };
  website: Website;
  towpath: TowpathSettings;
  weir: WeirSettings;
  calendar: CalendarSettings;
  exchange: ExchangeSettings;
  lockbook: LockbookSettings;
  bollard: BollardSettings;
  handsets: (Omit<Handset, 'entries'> & { entries?: Handset['entries'] })[];
}

const path = process.argv[2];
if (!path) throw new Error('Usage: standins WORLD.json');
openClock(`${path}.clock`);
const world = JSON.parse(readFileSync(path, 'utf8')) as WorldFile;
const { ports } = world;

const network = new MobileNetwork();
for (const handset of world.handsets) network.add(handset);
const brackwater = new Brackwater(world.accounts, network, world.offers);
const ostrel = new Ostrel(world.ostrel, network, `${path}.ostrel`);
const tarrow = new Tarrow(world.tarrow, network, world.tarrowPatterns);
const corvane = new Corvane(world.corvane, network);
const fennick = new Fennick(world.fennick.accounts, world.fennick.carriers, network);
const towpath = new Towpath(world.towpath);
const weir = new WeirDesk(world.weir);
const lockbook = new Lockbook(world.lockbook);
const bollard = new Bollard(world.bollard, `http://127.0.0.1:${ports.bollard}`);
let saved = '';

const brackwaterSite = new Hono()
  .route('/v2', brackwaterApi(brackwater))
  .route('/console', brackwaterConsole(brackwater));
const tarrowSite = new Hono().route('/api/7', tarrowApi(tarrow)).route('/console', tarrowConsole(tarrow));
const corvaneSite = new Hono().route('/v3', corvaneApi(corvane)).route('/', corvanePage(corvane));
const origin = (port: number) => `http://127.0.0.1:${port}`;
const consoles = [
  { name: 'Brackwater console', what: 'SMS provider', url: `${origin(ports.brackwater)}/console` },
  { name: 'Ostrel trunk desk', what: 'carrier', url: origin(ports.ostrelDesk) },
  { name: 'Tarrow console', what: 'business chat', url: `${origin(ports.tarrow)}/console` },
  { name: 'Corvane', what: 'chat platform', url: origin(ports.corvane) },
  { name: 'Fennick', what: 'mail', url: origin(ports.fennick) },
  { name: 'Mossgate website', what: 'another origin', url: origin(ports.website) },
  { name: 'Lockbook', what: 'passage bookings', url: origin(ports.lockbook) },
  { name: 'Towpath Records', what: 'customer records', url: origin(ports.towpath) },
  { name: 'Weir Desk', what: 'tickets', url: origin(ports.weir) },
  { name: 'Duty calendar', what: 'who is on duty', url: origin(ports.calendar) },
  { name: 'Bollard', what: 'identity provider', url: origin(ports.bollard) },
  { name: 'Quayside exchange', what: 'telephone system', url: origin(ports.exchange) },
];
const bench = benchControl({
  network,
  brackwater,
  ostrel,
  tarrow,
  corvane,
  fennick,
  lockbook,
  towpath,
  weir,
  bollard,
  website: world.website,
  calendar: world.calendar,
  consoles,
});

await Promise.all([
  serve(brackwaterSite.fetch, ports.brackwater, () => brackwater.faults.down),
  serve(lockbookSite(lockbook).fetch, ports.lockbook, () => lockbook.faults.down),
  serve(towpathSite(towpath).fetch, ports.towpath, () => towpath.faults.down),
  serve(weirSite(weir).fetch, ports.weir, () => weir.faults.down),
  serve(bollardSite(bollard).fetch, ports.bollard, () => bollard.faults.down),
  serve(calendarSite(world.calendar).fetch, ports.calendar),
  serve(exchangeSite(world.exchange).fetch, ports.exchange),
  serve(ostrelConsole(ostrel, ports.ostrel).fetch, ports.ostrelDesk),
  serve(tarrowSite.fetch, ports.tarrow, () => tarrow.faults.down),
  serve(corvaneSite.fetch, ports.corvane, () => corvane.faults.down),
  serve(fennickSite(fennick, ports.fennickMail).fetch, ports.fennick),
  serve(websitePages(world.website).fetch, ports.website),
  ostrel.listen(ports.ostrel),
  fennick.listen(ports.fennickMail),
  fennick.zone.listen(ports.fennickNames),
]);
await serve(bench.fetch, ports.bench);
console.log('stand-ins ready');

const saving = setInterval(save, 2000);
for (const signal of ['SIGTERM', 'SIGINT'] as const) {
  process.once(signal, () => {
    clearInterval(saving);
    save();
    process.exit(0);
  });
}

function serve(
  fetch: (request: Request) => Response | Promise<Response>,
  port: number,
  down: () => boolean = () => false,
): Promise<Server> {
  const listener = getRequestListener(fetch);
  const server = createServer((request: IncomingMessage, response: ServerResponse) => {
    response.setHeader('date', new Date(now()).toUTCString());
    if (down() && !request.url?.startsWith('/console')) request.socket.destroy();
    else void listener(request, response);
  });
  server.keepAliveTimeout = 30_000;
  return new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve(server)));
}

function save() {
  const handsets = [...network.handsets.values()].map((handset) => ({
    ...handset,
    entries: handset.entries.slice(-60),
  }));
  const content: WorldFile = { ...world, lockbook: lockbook.settings, handsets, tarrowPatterns: tarrow.patterns.all };
  const text = JSON.stringify(content, null, 2);
  if (text === saved) return;
  saved = text;
  writeFileSync(`${path}.new`, text);
  renameSync(`${path}.new`, path as string);
}
