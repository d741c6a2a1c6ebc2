import type { Automation } from '../../../../operations/apps';
import { ProofRow } from '../../../../ui/domain/ProofRow';
import { Link } from '../../../../ui/primitives/Link';
import { Panel } from '../../../../ui/primitives/layout';
import { Age } from '../../../../ui/primitives/Time';
import { proofViews } from '../../../_server/proofViews';

/** Where each kind is looked after, by the way it goes. */
const PAGES = {
  in: [
    ['sheets', 'Sheets'],
    ['feeds', 'Calendar feeds'],
    ['calls', 'Phone events'],
  ],
  out: [
    ['records', 'Records'],
    ['sheets', 'Append to sheets'],
  ],
} as const;

/** What else goes this way, each with its own mark and its age, and where it is set up. */
export function Automations({ appId, way, list }: { appId: string; way: 'in' | 'out'; list: readonly Automation[] }) {
  // Send hooks stand in a table of their own.
  const shown = list.filter((automation) => automation.way === way && automation.kind !== 'hook');
  return (
    <Panel className="my-3 flex flex-wrap items-center justify-between gap-3 px-4 py-3">
      {shown.length > 0 ? (
        <ul className="grid gap-1 text-[13px]">
          {shown.map(({ id, what, name, disabledAt, proofs }) => (
            <li key={id} className="flex items-center gap-2">
              <ProofRow proofs={proofViews(proofs)} />
              {name}
              <span className="text-soft">
                {what}
                {proofs[0]?.evidenceAt && (
                  <>
                    , last evidence <Age at={proofs[0].evidenceAt} past />
                  </>
                )}
              </span>
              {disabledAt !== null && <span className="text-clay">switched off</span>}
            </li>
          ))}
        </ul>
      ) : (
        <span className="text-[13px] text-soft">
          {way === 'in'
            ? 'No sheet, calendar or telephone system starts a message.'
            : 'No record and no sheet row is created from messages.'}
        </span>
      )}
      <span className="flex gap-4">
        {PAGES[way].map(([page, label]) => (
          <Link key={page} href={`/apps/${appId}/${page}`}>
            {label}
          </Link>
        ))}
      </span>
    </Panel>
  );
}
