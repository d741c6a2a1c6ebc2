import type { RemedyAction } from '../../../../core/connect/examine';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { checkAccountAction, remedyAction } from '../../connect/providers/actions';

const MEND_LABELS: Record<RemedyAction, string> = {
  'set-address': 'Set the address for me',
  subscribe: 'Subscribe to the events',
  'end-test-mode': 'Switch test mode off',
  'check-account': 'Check again',
  'enable-account': 'Switch the account on',
};

/** Fixes from here what can be fixed from here. */
export function RemedyButton({ kind, id }: { kind: RemedyAction; id: string }) {
  return (
    <ActionButton
      action={kind === 'check-account' ? checkAccountAction.bind(null, id) : remedyAction.bind(null, kind, id)}
    >
      {MEND_LABELS[kind]}
    </ActionButton>
  );
}
