import { countryName } from '../../../../../core/addresses/display';
import type { FixedAt } from '../../../../../core/broadcast/leftOut';
import type { BroadcastPlan } from '../../../../../core/broadcast/summary';
import type { BroadcastPageView, PreviewView, ReasonLine } from '../../../../../operations/broadcasts';
import { formatMoney } from '../../../../../ui/domain/money';
import { Link } from '../../../../../ui/primitives/Link';
import { Facts, Panel, Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';

/** What a plan comes to: who gets it, when and at what cost; who does not, and what would change that. */
export function PlanView({
  plan,
  page,
  channelNames,
  previews,
}: {
  plan: BroadcastPlan;
  page: BroadcastPageView;
  channelNames: ReadonlyMap<string, string>;
  previews: readonly PreviewView[];
}) {
  const { broadcast, leftOut } = page;
  return (
    <>
      <Section
        title={`The plan: ${number(plan.going)} of ${number(plan.people)} people get it`}
        id="plan"
        aside={
          <>
            made <ClockTime at={plan.at} />; everybody is judged again when their turn comes
          </>
        }
      >
        <Panel className="p-4">
          <Facts items={factsOf(plan, channelNames)} />
        </Panel>
      </Section>
      {leftOut.length > 0 && (
        <Section title={`${number(plan.people - plan.going)} do not get it`} id="left-out">
          <Table
            caption="Reasons for which people are left out"
            rows={leftOut}
            keyOf={({ code }) => code}
            columns={[
              {
                head: 'People',
                figures: true,
                cell: ({ code, n }) => (
                  <Link href={`/send/broadcasts/${broadcast.id}?show=left-out&reason=${code}#recipients`}>
                    {number(n)}
                  </Link>
                ),
              },
              { head: 'Reason', className: 'whitespace-nowrap', cell: ({ title }) => title },
              { head: 'What would change it', className: 'w-full', cell: (line) => <Remedy line={line} page={page} /> },
            ]}
          />
        </Section>
      )}
      {previews.length > 0 && (
        <Section
          title="As they would get it"
          id="previews"
          aside="Real recipients: the longest and the strangest among them."
        >
          <div className="grid gap-3 md:grid-cols-2">
            {previews.map((preview) => (
              <Preview key={preview.seq} preview={preview} />
            ))}
          </div>
        </Section>
      )}
    </>
  );
}

const languageNames = new Intl.DisplayNames(['en'], { type: 'language' });

const number = (n: number) => n.toLocaleString('en');

function factsOf(plan: BroadcastPlan, channelNames: ReadonlyMap<string, string>): [string, React.ReactNode][] {
  const { moved, zones } = plan;
  const money = Object.entries(plan.cost.micros).map(([currency, micros]) => formatMoney(micros, currency));
  const list = (counts: Record<string, number>, words: (key: string) => string) =>
    Object.entries(counts)
      .sort(([, a], [, b]) => b - a)
      .slice(0, 8)
      .map(([key, n]) => `${number(n)} ${words(key)}`)
      .join(', ');
  const movedWords = [
    moved.nextDay && `${number(moved.nextDay)} a day later, as the time is past where they are`,
    moved.atOnce && `${number(moved.atOnce)} at once, as the time is past where they are`,
    moved.quiet && `${number(moved.quiet)} after quiet hours`,
    moved.clock && `${number(moved.clock)} on a day the clock changes`,
  ].filter(Boolean);
  return [
    ['Over', list(plan.channels, (id) => channelNames.get(id) ?? 'a channel that is gone')],
    ['Countries', list(plan.countries, (code) => (code ? countryName(code) : 'of no country'))],
    ...((Object.keys(plan.languages).some(Boolean)
      ? [['Languages', list(plan.languages, (tag) => (tag ? (languageNames.of(tag) ?? tag) : 'as written'))]]
      : []) as [string, string][]),
    [
      'Times',
      <>
        {plan.first === undefined ? (
          'none leaves'
        ) : (
          <>
            <ClockTime at={plan.first} /> to <ClockTime at={plan.last ?? plan.first} />
          </>
        )}
        {BOUND[plan.bound] && `, ${BOUND[plan.bound]}`}
        {plan.tooLate > 0 && `; ${number(plan.tooLate)} would have their turn too late`}
      </>,
    ],
    [
      'Whose clock',
      list(
        Object.fromEntries(Object.entries(zones).filter(([, n]) => n > 0)),
        (from) => ZONE_WORDS[from as keyof typeof ZONE_WORDS],
      ),
    ],
    ...((movedWords.length > 0 ? [['Moved', movedWords.join('; ')]] : []) as [string, string][]),
    [
      'Cost',
      `${money.join(' and ') || 'nothing that is known'}${plan.cost.unpriced > 0 ? `; of ${number(plan.cost.unpriced)} the price is not known` : ''}, ${number(plan.parts)} parts`,
    ],
    ...plan.credit.map(({ account, balance, currency, enough, short, fits }): [string, React.ReactNode] => [
      `Balance of ${account}`,
      enough ? (
        `${formatMoney(balance, currency)}: it suffices`
      ) : (
        <span key={account} className="text-clay">
          ■ {formatMoney(balance, currency)}: {formatMoney(short, currency)} are missing; it would do for{' '}
          {Math.floor((fits ?? 0) * 100)} %
        </span>
      ),
    ]),
    ...(plan.alike ?? []).map(({ id, name, at, people }): [string, React.ReactNode] => [
      'Alike',
      <span key={id} className="text-ochre-ink">
        ▲ {number(people)} of them got nearly the same with <Link href={`/send/broadcasts/${id}`}>{name}</Link>,{' '}
        <Age at={at} past />
      </span>,
    ]),
    ...((plan.maybeLandline > 0
      ? [['Not known', `${number(plan.maybeLandline)} may be landlines: numbers there do not tell`]]
      : []) as [string, string][]),
    ...((plan.otherLanguage > 0
      ? [['Language', `${number(plan.otherLanguage)} get it in a language they are not known to read`]]
      : []) as [string, string][]),
  ];
}

const BOUND: Record<BroadcastPlan['bound'], string> = {
  time: '',
  pace: 'as fast as the channels send',
  allowance: 'as many a day as the allowance allows',
};

const ZONE_WORDS = {
  contact: 'by the zone of the contact',
  number: 'by the country of the number',
  installation: 'by the zone of this installation, as theirs is not known',
};

const PLACES: Partial<Record<FixedAt, [words: string, href: string]>> = {
  contacts: ['Duplicates', '/compose/contacts/duplicates'],
  channel: ['Channels', '/connect/channels'],
  account: ['Providers', '/connect/providers'],
  template: ['Templates', '/compose/templates'],
};

function Remedy({ line: { at, remedy, code }, page }: { line: ReasonLine; page: BroadcastPageView }) {
  const place = at && PLACES[at];
  return (
    <>
      {remedy} {place && <Link href={place[1]}>{place[0]}</Link>}
      {at === 'contact' && (
        <Link href={`/send/broadcasts/${page.broadcast.id}?show=left-out&reason=${code}#recipients`}>Who they are</Link>
      )}
    </>
  );
}

function Preview({ preview: { judged, name, channelName, why } }: { preview: PreviewView }) {
  return (
    <Panel className="p-3">
      <p className="text-[13px] text-soft">
        {name ?? 'Somebody'}: {why}
      </p>
      {judged.goes ? (
        <>
          <p className="mt-1 whitespace-pre-wrap" data-preview>
            {judged.message.text}
          </p>
          {judged.message.choices?.asButtons && (
            <p className="mt-1 flex flex-wrap gap-1 text-[13px]">
              {judged.message.choices.labels.map((label) => (
                <span key={label} className="rounded border border-line-strong px-2 py-0.5">
                  {label}
                </span>
              ))}
            </p>
          )}
          <p className="mt-2 text-[13px] text-soft">
            {judged.message.identity.value} over {channelName}, {judged.message.parts}{' '}
            {judged.message.parts === 1 ? 'part' : 'parts'} {judged.message.encoding},{' '}
            {formatMoney(judged.message.price?.micros, judged.message.price?.currency)},{' '}
            <ClockTime at={judged.message.due.at} /> ({judged.message.zone.zone})
          </p>
        </>
      ) : (
        <p className="mt-1 text-clay">■ Would not get it any more: {judged.why.said ?? judged.why.code}</p>
      )}
    </Panel>
  );
}
