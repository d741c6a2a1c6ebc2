import type { RecordType } from '../../../../../core/records/recordType';
import type { PostedRecord } from '../../../../../core/text/fields';
import type { RecordActionView, RecordRunView } from '../../../../../operations/apps/records';
import { FindingLine } from '../../../../../ui/domain/Findings';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { ProofRow } from '../../../../../ui/domain/ProofRow';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Panel } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import { proofViews } from '../../../../_server/proofViews';
import { AutomationHead } from '../../_parts/AutomationHead';
import { changeRecordActionAction, switchRecordActionAction } from '../../recordActions';
import { Attempts } from '../Attempts';
import { RecordFields } from './RecordFields';
import { WAY_WORDS } from './wayWords';

interface Props {
  view: RecordActionView;
  types: RecordType[];
  channels: [string, string][];
  sample: PostedRecord;
  admin: boolean;
}

/** One thing that is kept: how, with what the latest message would become, and what became of the last ones. */
export function RecordAction({ view, types, channels, sample, admin }: Props) {
  const { action, type, proofs, preview, runs } = view;
  const names = action.channels?.map((id) => channels.find(([known]) => known === id)?.[1] ?? id);
  return (
    <Panel className="mb-4 p-4">
      <AutomationHead
        admin={admin}
        id={action.id}
        disabledAt={action.disabledAt}
        onSwitch={switchRecordActionAction}
        actions={
          <DialogForm
            open="Change"
            label={`Change ${action.name}`}
            title={action.name}
            submit="Save"
            action={changeRecordActionAction.bind(null, action.id)}
          >
            <RecordFields types={types} channels={channels} sample={sample} present={action} />
          </DialogForm>
        }
      >
        <h3 className="flex items-center gap-2 text-sm font-semibold">
          <ProofRow proofs={proofViews(proofs)} /> {action.name}
        </h3>
        <p className="text-[13px] text-soft">
          {WAY_WORDS[action.way](type.label.toLowerCase())}
          {names ? `, only over ${names.join(', ')}` : ''}.
        </p>
        {action.disabledAt !== null && (
          <p className="text-[13px] text-clay">
            Switched off <Age at={action.disabledAt} />: nothing is kept.
          </p>
        )}
      </AutomationHead>
      <div className="grid gap-4 lg:grid-cols-[minmax(0,2fr)_minmax(0,3fr)]">
        <div>
          <Table
            caption={`Fields of ${action.name}`}
            rows={type.fields}
            keyOf={(field) => field.name}
            columns={[
              { head: 'Field', cell: (field) => <code>{field.name}</code> },
              {
                head: 'Of the latest message',
                className: 'break-words',
                cell: (field) => preview?.values[field.name] ?? <span className="text-soft">left out</span>,
              },
            ]}
          />
          {preview?.findings.map((finding) => (
            <FindingLine key={`${finding.field} ${finding.code}`} finding={finding} />
          ))}
        </div>
        <Table
          caption={`Latest of ${action.name}`}
          rows={runs}
          keyOf={({ run }) => run.id}
          columns={[
            {
              head: 'Message',
              className: 'whitespace-nowrap',
              cell: ({ run }) => (
                <Link href={`/watch/messages/${run.subjectId}`}>
                  <ClockTime at={run.createdAt} />
                </Link>
              ),
            },
            { head: 'Outcome', cell: ({ run }) => <Became run={run} /> },
            {
              head: 'View',
              cell: ({ run, exchanges }) =>
                exchanges.length > 0 && (
                  <Attempts body={JSON.stringify(run.results)} attempts={exchanges} count={exchanges.length} />
                ),
            },
          ]}
        />
      </div>
    </Panel>
  );
}

function Became({ run }: { run: RecordRunView['run'] }) {
  const last = run.results.at(-1);
  if (run.state === 'failed')
    return (
      <span className="text-clay">
        <ProofMark state="broken" label="" size={11} /> {last?.finding?.problem ?? last?.said}{' '}
        <span className="text-ink">{last?.finding?.remedy}</span>
      </span>
    );
  if (run.state !== 'done')
    return (
      <span className="text-ochre-ink">
        {last?.said ?? 'Its turn comes'} <Age at={run.dueAt} />
      </span>
    );
  if (last?.ref?.startsWith('http'))
    return (
      <a href={last.ref} target="_blank" rel="noreferrer">
        {last.said}
      </a>
    );
  return <>{last?.said}</>;
}
