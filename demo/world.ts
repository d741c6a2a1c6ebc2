/** The outside world of the demonstration, as the stand-ins take it. Secrets are made afresh for each installation. */
import { randomInt } from 'node:crypto';

const LETTERS = 'ABCDEFGHJKMNPQRSTUVWXYZ23456789';
const DIGITS = '0123456789';
const SMALL = 'abcdefghijkmnpqrstuvwxyz23456789';
const MIXED = 'abcdefghijkmnpqrstuvwxyzABCDEFGHJKLMNPQRSTUVWXYZ23456789';

function random(alphabet: string, length: number): string {
  return Array.from({ length }, () => alphabet[randomInt(alphabet.length)]).join('');
}

const OFFERED = [
  ['+442079460121', 'GB', 2, 1],
  ['+442079460144', 'GB', 2, 1],
  ['+442079460199', 'GB', 2, 5],
  ['+447700900870', 'GB', 1.5, 1],
  ['+447700900877', 'GB', 1.5, 4],
  ['+447700900883', 'GB', 1.5, 1],
  ['+33639981288', 'FR', 3, 2],
  ['+33639981311', 'FR', 3, 2],
  ['+46701740677', 'SE', 2.5, 1],
] as const;

/** `base` is the bench's port; every service listens a few above it, see `ports`. */
export function demoWorld(base: number) {
  const inbound = { method: 'POST', primary: '', fallback: '' };
  const both = ['text-in', 'text-out'];
  const files = [...both, 'media-in', 'media-out'];
  const price = { monthly: 2, once: 1, currency: 'GBP' };
  const whole = { regions: ['GB', 'FR', 'SE', 'US', 'AU'], trial: false, verifiedPhones: [], secretEnds: null };
  const inFrance = [{ country: 'FR', brand: 'granted', use: 'granted' }];
  return {
    ports: {
      bench: base,
      brackwater: base + 10,
      lockbook: base + 20,
      ostrelDesk: base + 30,
      ostrel: base + 40,
      tarrow: base + 50,
      corvane: base + 85,
      fennick: base + 60,
      fennickMail: base + 61,
      fennickNames: base + 62,
      website: base + 70,
      towpath: base + 80,
      weir: base + 90,
      calendar: base + 100,
      exchange: base + 110,
      bollard: base + 95,
    },
    accounts: [
      {
        id: `BWA${random(LETTERS, 10)}`,
        secret: `bws_${random(MIXED, 28)}`,
        name: 'Mossgate Waterways',
        credit: 182_400_000,
        currency: 'GBP',
        perSecond: 30,
        ...whole,
        registrations: inFrance,
        numbers: [
          { handle: 'n-harbour', number: '+442079460114', can: files, inbound, price },
          { handle: 'n-locks', number: '+447700900811', can: files, inbound, price },
          { handle: 'n-notices', number: '+447700900822', can: ['text-out'], inbound, price },
          { handle: 'n-shared', number: '+447700900829', can: both, inbound, price, shared: true },
        ],
      },
      {
        id: `BWA${random(LETTERS, 10)}`,
        secret: `bws_${random(MIXED, 28)}`,
        name: 'Mossgate Northern reach',
        credit: 24_000_000,
        currency: 'GBP',
        perSecond: 30,
        ...whole,
        registrations: inFrance,
        numbers: [
          { handle: 'n-north', number: '+447700900840', can: both, inbound, price },
          { handle: 'n-calais', number: '+33639981240', can: both, inbound, price },
          { handle: 'n-office', number: '+442079460188', can: [], inbound, price },
        ],
      },
      {
        id: `BWA${random(LETTERS, 10)}`,
        secret: `bws_${random(MIXED, 28)}`,
        name: 'Mossgate trial',
        credit: 5_000_000,
        currency: 'GBP',
        perSecond: 5,
        regions: ['GB', 'FR'],
        trial: true,
        verifiedPhones: [],
        secretEnds: null,
        registrations: [],
        numbers: [{ handle: 'n-trial', number: '+447700900855', can: both, inbound, price }],
      },
    ],
    offers: OFFERED.map(([number, country, monthly, once], index) => ({
      offer: `bwo-${index + 1}`,
      number,
      country,
      can: both,
      price: { monthly, once, currency: 'GBP' },
    })),
    ostrel: [
      {
        systemId: 'mossgate',
        password: random(MIXED, 8),
        name: 'Mossgate Waterways',
        binds: 'transceiver',
        window: 50,
        perSecond: 110,
        alphabet: 'gsm-7',
        longText: ['header', 'sar', 'payload'],
        receipts: 'both',
        ids: { answers: 'hex', receipts: 'hex' },
        numbers: ['+447700900890', '+447700900891', '62233'],
      },
      {
        systemId: 'mossgate2',
        password: random(MIXED, 8),
        name: 'Mossgate, second login',
        binds: 'separate',
        window: 10,
        perSecond: 20,
        alphabet: 'latin-1',
        longText: ['sar'],
        receipts: 'text',
        ids: { answers: 'hex', receipts: 'decimal' },
        numbers: ['+447700900895'],
      },
    ],
    tarrow: [
      {
        id: `tb-${random(DIGITS, 12)}`,
        name: 'Mossgate Waterways',
        token: { value: `tarrow_${random(MIXED, 40)}`, ends: future(60), may: ['messages', 'settings'] },
        signingKey: `tsk_${random(MIXED, 32)}`,
        stage: 'live',
        testers: ['+447700900123', '+447700900990'],
        billing: 'set',
        callback: { url: '', word: '', confirmed: false },
        events: [],
        lines: [
          {
            id: `tl-${random(DIGITS, 12)}`,
            phone: '+447700900860',
            standing: 'usable',
            trial: { open: false, since: future(-3), joinWord: 'join harbour-heron', joined: [] },
            startsADay: 250,
          },
          {
            id: `tl-${random(DIGITS, 12)}`,
            phone: '+447700900861',
            standing: 'elsewhere',
            trial: { open: false, since: future(-3), joinWord: 'join lock-otter', joined: [] },
            startsADay: 250,
          },
        ],
      },
      {
        id: `tb-${random(DIGITS, 12)}`,
        name: 'Mossgate Northern reach',
        token: { value: `tarrow_${random(MIXED, 40)}`, ends: future(200), may: ['messages', 'settings'] },
        signingKey: `tsk_${random(MIXED, 32)}`,
        stage: 'live',
        testers: [],
        billing: 'set',
        callback: { url: '', word: '', confirmed: false },
        events: [],
        lines: [
          {
            id: `tl-${random(DIGITS, 12)}`,
            phone: '+447700900865',
            standing: 'usable',
            trial: { open: false, since: future(-3), joinWord: 'join northern-tern', joined: [] },
            startsADay: 250,
          },
        ],
      },
    ],
    corvane: ['Mossgate', 'Mossgate harbours'].map((title, index) => ({
      id: `ch_${random(MIXED, 16)}`,
      title,
      key: `ck_${random(MIXED, 32)}`,
      signSecret: `cs_${random(MIXED, 32)}`,
      hook: '',
      desks: [{ id: `cd_${random(MIXED, 12)}`, handle: index === 0 ? '@mossgate' : '@mossgate-harbours' }],
    })),
    /** What the platform knows of templates. */
    tarrowPatterns: [] as object[],
    fennick: {
      accounts: [
        {
          user: 'mossgate',
          password: random(MIXED, 14),
          address: 'desk@mossgate.example',
          lookupKey: `flk_${random(MIXED, 24)}`,
          hook: { url: '', word: '' },
        },
        {
          user: 'mossgate-post',
          password: random(MIXED, 14),
          address: 'post@mossgate.example',
          lookupKey: '',
          hook: { url: '', word: '' },
          posts: 'whole' as const,
        },
      ],
      carriers: [
        {
          name: 'Otterline',
          domain: 'text.otterline.example',
          country: 'GB',
          form: 'international',
          phones: ['+447700900123', '+447700900990'],
        },
        { name: 'Nordbro', domain: 'sms.nordbro.example', country: 'SE', form: 'national', phones: ['+46701740612'] },
      ],
    },
    website: { snippet: '' },
    towpath: {
      tokens: [{ token: `twp_${random(MIXED, 32)}`, may: 'write', ended: false }],
      leads: [],
      people: [
        {
          id: 'p-ines',
          full_name: 'Ines Calder',
          mobile: '+447700900123',
          source: 'Harbour office',
          keeper: 'jonas@mossgate.example',
          changed: future(-40),
        },
      ],
    },
    weir: { desk: 'MOSS', title: 'Mossgate duty desk', key: `wd${random(SMALL, 22)}`, tickets: [] },
    calendar: { key: random(SMALL, 20), zone: 'Europe/London', events: [] },
    exchange: { address: '', calls: [] },
    lockbook: { secret: '', apiUrl: '', apiKey: '', confirmsByItself: true },
    bollard: {
      clientId: `bol-${random(DIGITS, 8)}`,
      clientSecret: `bols_${random(MIXED, 32)}`,
      returns: [] as string[],
      people: [
        {
          id: 'b-101',
          email: 'astrid@mossgate.example',
          verified: true,
          name: 'Astrid Fenn',
          password: 'four gates and a weir',
          groups: ['harbour-desk'],
        },
        {
          id: 'b-102',
          email: 'callum@mossgate.example',
          verified: true,
          name: 'Callum Reeve',
          password: 'lanterns on the quay',
          groups: ['it-messaging', 'harbour-desk'],
        },
        {
          id: 'b-103',
          email: 'sol@mossgate.example',
          verified: false,
          name: 'Sol Brandt',
          password: 'nobody minds the heron',
          groups: [],
        },
      ],
    },
    handsets: [
      { number: '+447700900123', owner: 'Ines Calder', country: 'GB', power: 'on', delayMs: 60 },
      { number: '+46701740612', owner: 'Tomas Lindqvist', country: 'SE', power: 'on', delayMs: 120 },
      { number: '+33639980417', owner: 'Odile Marchand', country: 'FR', power: 'on', delayMs: 90 },
      { number: '+447700900990', owner: 'Test phone', country: 'GB', power: 'on', delayMs: 60, forTests: true },
      {
        number: 'linnea.brook@heron.example',
        owner: 'Linnea Brook',
        country: 'GB',
        power: 'on',
        delayMs: 60,
        mailbox: true,
      },
      {
        number: 'wren.hollis@reed.example',
        owner: 'Wren Hollis',
        country: 'GB',
        power: 'on',
        delayMs: 60,
        mailbox: true,
      },
    ],
  };
}

function future(days: number): string {
  return new Date(Date.now() + days * 86_400_000).toISOString();
}

export type DemoWorld = ReturnType<typeof demoWorld>;
