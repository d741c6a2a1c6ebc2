import type { HookSummary } from '../../../../operations/apps/hooks';
import { ProofRow } from '../../../../ui/domain/ProofRow';
import { TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { Link } from '../../../../ui/primitives/Link';
import { Table } from '../../../../ui/primitives/Table';
import { Age } from '../../../../ui/primitives/Time';
import { proofViews } from '../../../_server/proofViews';
import { createHookAction } from '../hookActions';

export function Hooks({ appId, hooks }: { appId: string; hooks: readonly HookSummary[] }) {
  return (
    <Table
      caption="Send hooks"
      rows={hooks}
      keyOf={(hook) => hook.id}
      columns={[
        { head: 'Send hook', cell: (hook) => <Link href={`/apps/${appId}/hooks/${hook.id}`}>{hook.name}</Link> },
        { head: 'Proof', cell: (hook) => <ProofRow proofs={proofViews(hook.proofs)} /> },
        { head: 'State', cell: (hook) => <State hook={hook} /> },
        { head: 'Last post', cell: (hook) => (hook.lastPostAt ? <Age at={hook.lastPostAt} past /> : 'none this week') },
        { head: 'Accepted · refused, 7 days', figures: true, cell: (hook) => `${hook.taken} · ${hook.refused}` },
      ]}
    />
  );
}

function State({ hook }: { hook: HookSummary }) {
  if (hook.disabledAt !== null) return <span className="text-clay">Switched off</span>;
  if (hook.ready) return <>Sends a message for each post</>;
  const waiting = hook.lastPostAt === null ? 'Waiting for the first post' : 'Has a sample; its message is not written';
  return <span className="text-ochre-ink">{waiting}</span>;
}

export function AddHook({ appId, appName }: { appId: string; appName: string }) {
  return (
    <DialogForm
      open="Add a send hook"
      title={`A send hook for ${appName}`}
      description={`An address to which ${appName} posts a record; Windgap makes a message of it.`}
      submit="Create the address"
      action={createHookAction.bind(null, appId)}
    >
      <TextField
        name="name"
        label="What it sends"
        help="Such as “Booking confirmed”. It stands in the address, so that a pasted one can be recognised."
      />
    </DialogForm>
  );
}
