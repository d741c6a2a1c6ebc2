import type { ConnectionFinding } from '../../../../operations/connectionFindings';
import { FindingLine } from '../../../../ui/domain/Findings';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { Panel } from '../../../../ui/primitives/layout';
import { checkAccountAction, mendAction } from '../providers/actions';

const LABELS = {
  'set-address': 'Set the address for me',
  subscribe: 'Subscribe to the events',
  'end-test-mode': 'Switch test mode off',
  'check-account': 'Check again',
} as const;

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
            <ActionButton
              action={
                finding.action === 'check-account'
                  ? checkAccountAction.bind(null, accountId)
                  : mendAction.bind(null, finding.action, finding.subject)
              }
            >
              {LABELS[finding.action]}
            </ActionButton>
          )}
        </div>
      ))}
    </Panel>
  );
}
