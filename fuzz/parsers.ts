/**
 * Every reader of what comes from outside, each with honest samples to begin from. A reader answers, or throws what it
 * says it throws; anything else that it throws, and any input that takes it longer than its limit, is found.
 */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { systemClock } from '../src/clock/clock';
import { nodes } from '../src/connectors/http/jsonPath';
import { parseForm, parseJson } from '../src/connectors/http/read';
import { readMail } from '../src/connectors/mail/readMail';
import { outsideOf } from '../src/connectors/outside/outside';
import { examineProfile } from '../src/connectors/profile/readProfile';
import { loadConnectors, yamlFiles } from '../src/connectors/registry';
import { readRows, SheetError, type SheetFormat } from '../src/connectors/sheets/sheetFile';
import { readCards } from '../src/connectors/sheets/vcards';
import { normaliseAddress } from '../src/core/addresses/address';
import { clientOf } from '../src/core/addresses/client';
import { webChatSettings } from '../src/core/connect/webChat';
import { consentWord } from '../src/core/consent/words';
import { readPost } from '../src/core/hooks/post';
import { destinationOf } from '../src/core/limits/destination';
import { readPrices } from '../src/core/limits/prices';
import { readCall } from '../src/core/phone/calls';
import { readRouteSet } from '../src/core/routing/readSet';
import { answerIn } from '../src/core/schedule/answer';
import { contactsInText } from '../src/core/schedule/contactsIn';
import { readFeed } from '../src/core/schedule/feed';
import { signatureProblem, signWebhook } from '../src/core/signing/standardWebhooks';
import { detectLanguage } from '../src/core/text/language';
import { measureText } from '../src/core/text/measure';
import { mergeText } from '../src/core/text/merge';
import { compilePattern } from '../src/core/text/pattern';
import { readReceipt } from '../src/core/trunk/receipts';
import { readHeader } from '../src/core/trunk/submits';
import { isReadable, unescaped } from '../src/web/address';
import { sendRequest } from '../src/web/api/schemas';
import { JOBS } from '../src/workers/jobs';

export interface Parser {
  name: string;
  corpus: readonly (string | Buffer)[];
  /** Inputs that were once too much for it. */
  found?: readonly string[];
  /** Milliseconds one input may take on a machine of usual speed; usually 1000. */
  limit?: number;
  /** In the product it is read in a thread of its own, which is ended when it takes too long: that is no harm done. */
  apart?: true;
  read(input: Buffer): unknown;
}

const utf8 = (read: (text: string) => unknown) => (input: Buffer) => read(input.toString('utf8'));

function must(holds: boolean, what: string): void {
  if (!holds) throw new Error(`Broken: ${what}`);
}

/** What says itself that it throws on what it cannot read. */
function mayThrow(read: () => unknown): void {
  try {
    read();
  } catch (error) {
    if (error instanceof RangeError && /call stack/i.test(error.message)) throw error;
  }
}

const outside = outsideOf({ allowPrivate: false, clock: systemClock });
const home = process.env.WINDGAP_HOME ?? process.cwd();
const profiles = join(home, 'src/connectors/profiles');
const connectors = loadConnectors([profiles], outside);

const FEED = `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Mossgate//EN\r\nBEGIN:VTIMEZONE\r\nTZID:Europe/London\r\nBEGIN:STANDARD\r\nDTSTART:19961027T020000\r\nRRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=10\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0000\r\nEND:STANDARD\r\nEND:VTIMEZONE\r\nBEGIN:VEVENT\r\nUID:a@mossgate.example\r\nDTSTART;TZID=Europe/London:20260504T100000\r\nDURATION:PT30M\r\nRRULE:FREQ=WEEKLY;BYDAY=MO,WE;COUNT=10\r\nEXDATE;TZID=Europe/London:20260511T100000\r\nSUMMARY:Call +44 7700 900123\r\nDESCRIPTION:Bring\\, please\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
const MAIL = `From: Ines <ines@heron.example>\r\nTo: post@mossgate.example\r\nMessage-ID: <1@heron.example>\r\nReferences: <0@heron.example>\r\nSubject: =?utf-8?q?Ber=C3=A4th?=\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=x\r\n\r\n--x\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\nWords.\r\n> quoted\r\n--x\r\nContent-Disposition: attachment; filename=a.png\r\nContent-Transfer-Encoding: base64\r\n\r\niVBORw0KGgo=\r\n--x--\r\n`;
const CARD = `BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Ines Carrow\r\nTEL;TYPE=cell:tel:+447700900123\r\nEMAIL:ines@mossgate.example\r\nNOTE:Two\\nlines\r\nEND:VCARD\r\n`;
const TABLE = 'phone,name,when\r\n+447700900123,"Carrow, Ines",2026-05-04\r\n"+46701740612","say ""hello""",\r\n';
const POSTED =
  '{"phone":"+447700900123","person":{"name":"Ines","tags":["a","b"]},"at":"2026-05-04T10:00:00Z","n":12.5,"ok":true}';
const FORM = 'phone=%2B447700900123&name=Ines+Carrow&lock[0]=7&lock[1]=8&note=caf%C3%A9';
const EVENTS =
  '{"events":[{"kind":"text-in","id":"bwt_1","from":"+447700900123","to":"+442079460114","text":"BOOK 14:20","parts":1,"at":"2026-05-04T10:00:00Z"},{"kind":"report","id":"bwt_2","reference":"msg_1","state":"arrived","at":"2026-05-04T10:00:00Z"}]}';
const RECEIPT =
  'id:0123456789 sub:001 dlvrd:001 submit date:2605041000 done date:2605041001 stat:DELIVRD err:000 text:Your booking';
const SECRET = `whsec_${Buffer.alloc(24, 7).toString('base64')}`;
const RECORD = {
  person: { name: 'Ines', phone: '+447700900123' },
  items: [{ n: 1 }, { n: 2 }],
  when: '2026-05-04T10:00',
};

/** A file of its own for each reading, gone afterwards. */
async function inFile(input: Buffer, ending: string, read: (path: string) => AsyncGenerator<unknown>): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'windgap-fuzz-'));
  const path = join(folder, `input.${ending}`);
  writeFileSync(path, input);
  try {
    let n = 0;
    for await (const _ of read(path)) if (++n > 200_000) break;
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
const rowsOf = (format: SheetFormat) => (input: Buffer) => inFile(input, format, (path) => readRows(path, format));

export const PARSERS: readonly Parser[] = [
  {
    name: 'a post to a send hook, JSON',
    corpus: [POSTED, '[1,{"a":null}]', '{"a":{"b":{"c":[[[]]]}}}'],
    read: utf8((text) => {
      const post = readPost('application/json', text);
      if (post.ok) mergeText('{{ person.name }}', post.record);
    }),
  },
  {
    name: 'a post to a send hook, form',
    found: ['a=1&'.repeat(40_000)],
    corpus: [FORM, 'a=1&a=2&b[]=3', 'x[y][z]=1'],
    read: utf8((text) => readPost('application/x-www-form-urlencoded', text)),
  },
  {
    name: 'the kind of a post',
    corpus: ['application/json; charset=utf-8', 'text/plain'],
    read: utf8((text) => readPost(text, POSTED)),
  },
  {
    name: 'a telephone system’s event',
    corpus: ['{"event":"missed","caller":"+447700900123","called":"+442079460114","id":"c1"}', FORM],
    read: utf8((text) => {
      const post = readPost('application/json', text);
      if (post.ok) readCall(post.record);
    }),
  },
  {
    name: 'a mail',
    corpus: [MAIL, MAIL.replace('text/plain', 'text/html').replace('Words.', '<p>Words <b>and</b> more.</p>')],
    found: [
      `${MAIL.slice(0, 120)}\r\n\r\n${'> a\r\n'.repeat(60_000)}`,
      `${MAIL}${'--x\r\n\r\na\r\n'.repeat(60_000)}`,
      MAIL.replace('text/plain', 'text/html').replace('Words.', '<div>'.repeat(100_000)),
    ],
    limit: 3000,
    read: (input) => readMail(input).catch(() => undefined),
  },
  {
    name: 'a calendar feed',
    found: [
      FEED.replace('WEEKLY;BYDAY=MO,WE;COUNT=10', 'DAILY;BYMONTH=2;BYMONTHDAY=31'),
      FEED.replace('WEEKLY;BYDAY=MO,WE;COUNT=10', 'SECONDLY').replace('20260504', '20000101'),
    ],
    apart: true,
    corpus: [
      FEED,
      FEED.replace('COUNT=10', 'UNTIL=20270101T000000Z'),
      FEED.replace('WEEKLY;BYDAY=MO,WE', 'YEARLY;BYMONTH=2;BYMONTHDAY=29'),
    ],
    // In a thread that ends after a minute; what is honest takes a few milliseconds.
    limit: 5000,
    read: utf8((text) =>
      readFeed(text, { from: Date.UTC(2026, 4, 1), to: Date.UTC(2026, 6, 1), zone: 'Europe/London' } as never),
    ),
  },
  {
    name: 'a table that was pasted',
    apart: true,
    corpus: [TABLE, 'a;b\n1;2\n', 'a\tb\n'],
    read: utf8((text) => mayThrow(() => JOBS.table({ text }))),
  },
  {
    name: 'a price list',
    corpus: ['destination,kind,price,currency\nGB,,0.038,GBP\n+4477,mobile,0.05,GBP\n*,,1,GBP\n'],
    read: utf8((text) => readPrices(text.split('\n').map((line) => line.split(',')))),
  },
  {
    name: 'a CSV file',
    apart: true,
    corpus: [TABLE, `\ufeff${TABLE}`, Buffer.from(TABLE, 'latin1')],
    limit: 5000,
    read: rowsOf('csv'),
  },
  { name: 'an XLSX file', apart: true, corpus: [], limit: 5000, read: rowsOf('xlsx') },
  {
    name: 'a vCard file',
    apart: true,
    corpus: [CARD, CARD.repeat(3)],
    limit: 5000,
    read: (input) => inFile(input, 'vcf', (path) => readCards(path)),
  },
  {
    name: 'a connector profile',
    corpus: yamlFiles(profiles).map((file) => readFileSync(file, 'utf8')),
    limit: 10_000,
    read: utf8((text) => {
      const reading = examineProfile(text);
      if (reading.ok) mayThrow(() => connectors.build(text));
    }),
  },
  {
    name: 'a JSON path',
    corpus: ['$.events[*].id', "$.events[?@.kind=='report']", '$..id', '$[0:5:2]', '$["a"]["b"]'],
    read: utf8((path) => mayThrow(() => nodes(parseJson(EVENTS) as never, path))),
  },
  {
    name: 'a pattern',
    found: ['.{0,1000}'.repeat(33), '(a{0,1000}){1000}'],
    corpus: ['^BWA[0-9A-Z]{10}$', '(a+)+$', '(?i)stop|end'],
    read: utf8((source) => {
      const compiled = compilePattern(source);
      if (typeof compiled === 'object') compiled.matcher('a'.repeat(2000)).find();
    }),
  },
  {
    name: 'the words of a template',
    corpus: [
      'Hello {{ person.name }}',
      '{% for i in items %}{{ i.n | plus: 1 }}{% endfor %}',
      '{{ when | date: "%H:%M" }}',
      '{% if a %}{{ b | default: "c" }}{% endif %}',
    ],
    read: utf8((text) => {
      const merged = mergeText(text, RECORD as never);
      must(merged.text.length <= 200_000, `a text of ${merged.text.length} characters`);
    }),
  },
  {
    name: 'a record under a template',
    corpus: [POSTED],
    read: utf8((text) => {
      const post = readPost('application/json', text);
      if (post.ok)
        mergeText('{{ person.name }} {% for t in person.tags %}{{ t }}{% endfor %} {{ n | plus: 1 }}', post.record);
    }),
  },
  ...connectors
    .list()
    .filter(({ kind }) => kind !== 'sms-trunk')
    .map(
      (connector): Parser => ({
        name: `a post of ${connector.name}`,
        corpus: [
          EVENTS,
          POSTED,
          FORM,
          '{"entry":[{"changes":[{"value":{"messages":[{"id":"1","from":"447700900123","text":{"body":"Hi"}}]}}]}]}',
        ],
        read(input) {
          const time = String(Math.floor(Date.UTC(2026, 4, 4) / 1000));
          const headers = {
            'content-type': 'application/json',
            'x-brackwater-time': time,
            'x-brackwater-signature': `h1=${input.subarray(0, 32).toString('hex')}`,
          };
          const request = { method: 'POST', url: 'https://w.example/in/x', headers, body: input };
          connector.verify(
            Object.fromEntries(connector.credentialFields.map(({ name }) => [name, `${name} of a test`])),
            request,
            Date.UTC(2026, 4, 4),
          );
          connector.readChallenge?.(request);
          connector.parse(request, {});
        },
      }),
    ),
  {
    name: 'a text that came over a trunk',
    corpus: [Buffer.from('050003a70201', 'hex'), Buffer.from('0500037f0302426f6f6b', 'hex'), RECEIPT],
    read(input) {
      mayThrow(() => readHeader(input));
      readReceipt({ text: input.toString('latin1') } as never, {});
      const trunk = connectors.list().find(({ kind }) => kind === 'sms-trunk');
      for (const esm_class of ['0', '4', '64'])
        for (const data_coding of ['0', '3', '8'])
          trunk?.parse(
            {
              method: 'deliver_sm',
              url: 'smpp:x',
              headers: { esm_class, data_coding, source_addr: '+447700900123', destination_addr: '+442079460100' },
              body: input,
            },
            { receiptIds: 'same', defaultAlphabet: 'gsm-7' },
          );
    },
  },
  {
    name: 'JSON and forms of providers',
    corpus: [EVENTS, FORM],
    read: utf8((text) => {
      parseJson(text);
      parseForm(text);
    }),
  },
  {
    name: 'a telephone number',
    corpus: ['+44 7700 900123', '(020) 7946 0114', 'tel:+46-70-174 06 12;ext=2', '0044 7700900123', '00881600000000'],
    read: utf8((text) => {
      for (const options of [{}, { defaultCountry: 'GB', allowShortCode: true, allowSenderName: true }]) {
        const known = normaliseAddress(text, options);
        if (known.ok && known.address.value.startsWith('+')) {
          must(/^\+\d{3,15}$/.test(known.address.value), known.address.value);
          must(destinationOf(known.address.value) !== undefined, 'a number goes somewhere');
        }
      }
    }),
  },
  { name: 'the address of a caller', corpus: ['198.51.100.7', '2001:db8::1', '::ffff:10.0.0.1'], read: utf8(clientOf) },
  {
    name: 'an address of ours',
    corpus: ['/messages/msg_1?x=%41', '/in/abc/receipt', '%E0%A4%A'],
    read: utf8((text) => {
      unescaped(text);
      isReadable(text);
    }),
  },
  {
    name: 'an order by the API',
    corpus: ['{"to":"+447700900123","text":"Hi","tags":["a"]}', '{"to":"x","template":{"id":"t","values":{"a":"b"}}}'],
    read: utf8((text) => sendRequest.safeParse(parseJson(text))),
  },
  {
    name: 'settings of a web chat',
    corpus: ['{"origins":["https://mossgate.example"],"title":"Ask"}'],
    read: utf8((text) => webChatSettings.safeParse(parseJson(text))),
  },
  {
    name: 'a set of routes',
    corpus: ['{"routes":[{"id":"r","name":"n","on":true,"when":{"match":"all","of":[]},"then":[]}],"hours":[]}'],
    read: utf8((text) => readRouteSet(parseJson(text))),
  },
  {
    name: 'a message that came in',
    found: ['a'.repeat(250_000), '1e9'.repeat(80_000), `${'a.'.repeat(60_000)}@`],
    corpus: ['STOP', 'Arrêt!', 'yes please', 'call me on +44 7700 900123 or 020 7946 0114', '👩‍👩‍👧 – “ok”'],
    read: utf8((text) => {
      consentWord(text);
      consentWord(text, 'fr');
      answerIn(text);
      contactsInText(text, 'GB');
      detectLanguage(text.slice(0, 2000));
      const { parts } = measureText(text.slice(0, 5000));
      must(parts.length <= 300, `${parts.length} parts`);
    }),
  },
  {
    name: 'headers that sign a webhook',
    corpus: [JSON.stringify(signWebhook('evt_1', Date.UTC(2026, 4, 4), POSTED, [SECRET]))],
    read: utf8((text) => {
      const headers = parseJson(text);
      if (typeof headers !== 'object' || headers === null || Array.isArray(headers)) return;
      const given = Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, String(value)]));
      signatureProblem(given, POSTED, SECRET, Date.UTC(2026, 4, 4));
    }),
  },
];
