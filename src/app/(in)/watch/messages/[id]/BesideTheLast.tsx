import type { Side } from '../../../../../core/trail/compare';
import type { Beside } from '../../../../../operations/log';
import { elapsedWords } from '../../../../../ui/domain/elapsed';
import { ProofMark, proofWord } from '../../../../../ui/domain/ProofMark';
import { Link } from '../../../../../ui/primitives/Link';
import { Panel, Section } from '../../../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';

/** This way and the last that worked, hop by hop, and what was changed in between. */
export function BesideTheLast({ beside }: { beside: Beside | undefined }) {
  if (!beside)
    return <Panel className="mb-6 px-4 py-3">No message has come through the same way on this channel before.</Panel>;
  const { other, hops, changes } = beside;
  return (
    <Section
      title="Compare with the last success"
      id="beside"
      aside={
        <Link href={`/watch/messages/${other.id}`}>
          that of <ClockTime at={other.createdAt} />
        </Link>
      }
    >
      <table className="w-full text-[13px]">
        <thead className="text-left text-soft">
          <tr>
            <th className="w-40 py-1 pr-3 font-normal">Hop</th>
            <th className="py-1 pr-3 font-normal">Here</th>
            <th className="py-1 pr-3 font-normal">The last success</th>
            <th className="w-[26%] py-1 font-normal">Different</th>
          </tr>
        </thead>
        <tbody>
          {hops.map(({ place, here, there, differs, why }) => (
            <tr
              key={`${place} ${here?.what} ${there?.what}`}
              className={`border-t border-line align-top ${differs ? 'bg-hover' : ''}`}
              data-differs={differs}
            >
              <td className="py-1.5 pr-3 font-medium">{place}</td>
              <td className="py-1.5 pr-3">
                <Half side={here} />
              </td>
              <td className="py-1.5 pr-3">
                <Half side={there} />
              </td>
              <td className="py-1.5 text-clay">{why}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-[13px] text-soft">
        {changes.length === 0 ? 'Nothing of the set-up was changed between the two.' : 'Changed between the two:'}
      </p>
      <ul className="text-[13px]">
        {changes.map(({ at, by, summary }) => (
          <li key={`${at} ${summary}`}>
            <Age at={at} past />: {summary}, by {by}
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Half({ side }: { side: Side | undefined }) {
  if (!side) return <span className="text-soft">not there</span>;
  return (
    <span className="flex gap-2">
      <ProofMark state={side.state} label={proofWord(side.state)} />
      <span>
        {side.what}
        {side.elapsed !== undefined && (
          <span className="font-mono text-xs text-soft"> {elapsedWords(side.elapsed)}</span>
        )}
      </span>
    </span>
  );
}
