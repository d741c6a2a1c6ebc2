import type { RecordsSummary } from '../../../../operations/records';
import { ProofRow } from '../../../../ui/domain/ProofRow';
import { Link } from '../../../../ui/primitives/Link';
import { Panel } from '../../../../ui/primitives/layout';
import { proofViews } from '../../../_server/proofViews';

/** What is kept in the app of messages that come in, in a line each. */
export function Records({ appId, appName, records }: { appId: string; appName: string; records: RecordsSummary }) {
  const { connection, actions } = records;
  return (
    <Panel className="mb-3 flex flex-wrap items-center justify-between gap-3 px-4 py-3">
      <ul className="grid gap-1">
        {actions.map((action) => (
          <li key={action.id} className="flex items-center gap-2">
            <ProofRow proofs={proofViews(action.proofs)} />
            {action.name}
            {action.disabledAt !== null && <span className="text-clay">switched off</span>}
          </li>
        ))}
        {actions.length === 0 && (
          <li>
            {connection
              ? `The records of ${appName} are connected; nothing is kept there yet.`
              : `No records are kept in ${appName}.`}
          </li>
        )}
      </ul>
      <span className="flex gap-4">
        <Link href={`/apps/${appId}/records`}>Records</Link>
        <Link href={`/apps/${appId}/sheets`}>Sheets</Link>
        <Link href={`/apps/${appId}/feeds`}>Calendar feeds</Link>
        <Link href={`/apps/${appId}/calls`}>Phone events</Link>
      </span>
    </Panel>
  );
}
