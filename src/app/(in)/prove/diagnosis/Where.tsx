import { countryName, displayAddress } from '../../../../core/addresses/display';
import type { Split } from '../../../../core/diagnosis/contrast';
import type { DiagnosisView } from '../../../../operations/diagnosis';
import { ProofMark } from '../../../../ui/domain/ProofMark';
import { Link } from '../../../../ui/primitives/Link';
import { Panel, Section } from '../../../../ui/primitives/layout';
import { ClockTime } from '../../../../ui/primitives/Time';
import { MakeGoodButton, ReportButtons } from './Handing';

type Where = DiagnosisView['where'];

/** The verdict, where no cause is named: where it is, that nothing is wrong, or that it was. */
export function Verdict({ view, here, admin }: { view: DiagnosisView; here: string; admin: boolean }) {
  const { verdict, where, healed, cause } = view;
  if (verdict === 'healed' && healed)
    return (
      <Panel className="mb-6 border-l-4 border-l-moss px-4 py-3">
        <p className="text-[17px] font-semibold">It was broken, and works now</p>
        <p className="mt-1">
          From <ClockTime at={healed.from} /> to <ClockTime at={healed.until} />
          {healed.reasons.length > 0 && <>: {healed.reasons.join('; ')}</>}. It works again since{' '}
          <ClockTime at={healed.wellSince} />.
        </p>
        <div className="mt-2 flex flex-wrap items-center gap-3">
          {healed.lost.length === 0 ? (
            <p>Nothing was lost.</p>
          ) : (
            <>
              <p>{LOST[healed.kind](healed.lost.length)}</p>
              {admin && <MakeGoodButton here={here} kind={healed.kind} count={healed.lost.length} />}
            </>
          )}
        </div>
      </Panel>
    );
  if (verdict === 'well')
    return (
      <Panel className="mb-6 border-l-4 border-l-moss px-4 py-3">
        <p className="text-[17px] font-semibold">Nothing is wrong on this path now</p>
        <p className="mt-1">
          {where.said}. The evidence is below; what lies beyond it only {where.ask ?? 'the person'} can see.
        </p>
        <ReportButtons here={here} />
      </Panel>
    );
  return (
    <Panel className="mb-6 border-l-4 border-l-ochre px-4 py-3">
      <p className="text-[17px] font-semibold">{verdict === 'between' ? where.said : 'Not determined'}</p>
      <p className="mt-1">
        {cause ? cause.explanation : verdict === 'between' ? 'Why is not known.' : `${where.said}.`}{' '}
        {view.wouldTell.length > 0 && <>This would tell more: {view.wouldTell.join(' ')}</>}
      </p>
      {where.ask && (
        <p className="mt-2">
          <span className="font-semibold">Fix: </span>
          send the report to {where.ask}, and ask what became of it there.
        </p>
      )}
      <ReportButtons here={here} />
    </Panel>
  );
}

const LOST: Record<NonNullable<DiagnosisView['healed']>['kind'], (count: number) => string> = {
  messages: (n) => (n === 1 ? 'One message was lost.' : `${n} messages were lost.`),
  requests: (n) =>
    n === 1 ? 'One request of the provider was not read.' : `${n} requests of the provider were not read.`,
  events: (n) => (n === 1 ? 'One event did not reach the app.' : `${n} events did not reach the app.`),
};

/** Each place on the way, whether it has the message, and from what that is known. */
export function PlacesOnTheWay({ where }: { where: Where }) {
  const { known, message } = where;
  if (known.length === 0) return null;
  return (
    <Section title="Where it is" id="where" aside={message ? <MessageLine where={where} /> : undefined}>
      <table className="w-full text-[13px]">
        <thead className="text-left text-soft">
          <tr>
            <th className="w-[26%] py-1 pr-3 font-normal">Place</th>
            <th className="w-28 py-1 pr-3 font-normal">Has it</th>
            <th className="py-1 pr-3 font-normal">Evidence</th>
            <th className="w-48 py-1 text-right font-normal">Time</th>
          </tr>
        </thead>
        <tbody>
          {known.map(({ place, name, has, said, at, href }) => (
            <tr
              key={place}
              className="border-t border-line align-top"
              data-place={place}
              data-has={String(has ?? 'unknown')}
            >
              <td className="py-1.5 pr-3">{name.charAt(0).toUpperCase() + name.slice(1)}</td>
              <td className="py-1.5 pr-3">
                <span className="flex items-center gap-1.5">
                  <ProofMark state={has === undefined ? 'unproven' : has ? 'proven' : 'broken'} label="" />
                  {has === undefined ? 'not known' : has ? 'yes' : 'no'}
                </span>
              </td>
              <td className="py-1.5 pr-3">{href ? <Link href={href}>{said}</Link> : said}</td>
              <td className="py-1.5 text-right">{at !== undefined && <ClockTime at={at} />}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}

function MessageLine({ where: { message, chosen } }: { where: Where }) {
  if (!message) return null;
  return (
    <>
      {chosen ? 'The message' : 'Taken to be the latest'}: {message.direction === 'out' ? 'to' : 'from'}{' '}
      <Link href={`/watch/messages/${message.id}`}>{displayAddress(message.person)}</Link>
    </>
  );
}

const COMPARED: Record<NonNullable<DiagnosisView['contrast']>['of'], [failed: string, good: string]> = {
  messages: ['What those that failed have in common', 'those that arrived'],
  requests: ['What the refused posts have in common', 'those that were taken'],
  events: ['What the events it did not take have in common', 'those it took'],
};

const ATTRIBUTES: Record<string, string> = {
  address: 'address it came from',
  method: 'method',
  size: 'size',
  type: 'event',
  host: 'address',
  server: 'server that answered',
  form: 'form of the answer',
  since: 'time',
  range: 'number range',
  recipient: 'person',
  parts: 'parts',
  length: 'length',
  encoding: 'encoding',
  file: 'file',
  template: 'template',
  sender: 'sender',
  channel: 'channel',
  origin: 'who asked for it',
  hour: 'hour of the day',
  country: 'country',
};

/** What the messages that failed have in common, with the counts that show it. */
export function InCommon({ contrast }: { contrast: NonNullable<DiagnosisView['contrast']> }) {
  const { of, contrast: found, compared, changes } = contrast;
  const [title, good] = COMPARED[of];
  return (
    <Section title={title} id="contrast" aside={`Of the last ${compared.toLocaleString('en')} in 7 days`}>
      {found.found === 'split' ? (
        <>
          <ul className="grid gap-1">
            {found.splits.map((split) => (
              <li key={split.attribute} data-split={split.attribute}>
                <SplitLine split={split} />
              </li>
            ))}
          </ul>
          {found.splits.some(({ since }) => since !== undefined) && (
            <div className="mt-2 text-[13px]">
              <p className="text-soft">
                {changes.length === 0
                  ? 'Nothing was changed here in the six hours before.'
                  : 'Changed here in the six hours before:'}
              </p>
              <ul>
                {changes.map(({ at, by, summary }) => (
                  <li key={`${at} ${summary}`}>
                    <ClockTime at={at} /> {by}: {summary}
                  </li>
                ))}
              </ul>
            </div>
          )}
        </>
      ) : (
        <p>Nothing that was looked at splits them from {good}.</p>
      )}
    </Section>
  );
}

function SplitLine({ split: { attribute, value, failed, of, othersFailed, others, since } }: { split: Split }) {
  const what = attribute === 'country' ? countryName(value) : value;
  return (
    <>
      {attribute === 'since' ? (
        <>Since {since !== undefined && <ClockTime at={since} />}</>
      ) : (
        <>
          <span className="text-soft">By {ATTRIBUTES[attribute] ?? attribute}:</span>{' '}
          <span className="font-semibold">{what}</span>
          {since !== undefined && (
            <>
              {' '}
              since <ClockTime at={since} />
            </>
          )}
        </>
      )}
      : <span className="tabular-nums">{failed}</span> of <span className="tabular-nums">{of}</span> failed; of all
      others <span className="tabular-nums">{othersFailed}</span> of <span className="tabular-nums">{others}</span>
    </>
  );
}
