import type { ConnectionFinding } from '../../../../operations/accounts';
import { FindingLine } from '../../../../ui/domain/Findings';
import { Panel } from '../../../../ui/primitives/layout';
import { RemedyButton } from '../../prove/_parts/RemedyButton';

/** What the examination says, each with the button that mends it where that can be done from here. */
export function ConnectionFindings({
  findings,
  accountId,
  admin,
}: {
  findings: readonly ConnectionFinding[];
  accountId: string;
  admin: boolean;
}) {
  if (findings.length === 0) return null;
  return (
    <Panel className="mb-6 grid gap-px overflow-hidden bg-line">
      {findings.map((finding) => (
        <div
          key={`${finding.subject} ${finding.code}`}
          className="flex flex-wrap items-center justify-between gap-x-4 gap-y-1 bg-panel px-4 py-2"
        >
          <div className="min-w-0 flex-1">
            <FindingLine finding={finding} />
          </div>
          {admin && finding.action && (
            <RemedyButton kind={finding.action} id={finding.action === 'check-account' ? accountId : finding.subject} />
          )}
        </div>
      ))}
    </Panel>
  );
}
