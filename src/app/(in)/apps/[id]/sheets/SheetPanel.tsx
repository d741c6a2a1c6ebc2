import type { SheetRowView, SheetView } from '../../../../../operations/apps/sheets';
import type { TemplateOffer } from '../../../../../operations/templates';
import { FindingLine } from '../../../../../ui/domain/Findings';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { ProofRow } from '../../../../../ui/domain/ProofRow';
import { Link } from '../../../../../ui/primitives/Link';
import { Panel } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import { proofViews } from '../../../../_server/proofViews';
import { AutomationHead } from '../../_parts/AutomationHead';
import { MessageOfRecord } from '../../_parts/MessageOfRecord';
import { changeSheetAction, switchSheetAction } from '../../sheetActions';
import { HeldRowsNotice, ToldApart } from './HeldRowsNotice';

interface Props {
  view: SheetView;
  templates: readonly TemplateOffer[];
  channels: [string, string][];
  countries: [string, string][];
  admin: boolean;
}

/** One sheet: how it stands, what its rows become or are made of, and what became of the latest. */
export function SheetPanel({ view, templates, channels, countries, admin }: Props) {
  const { sheet, proofs, examination, rows } = view;
  const watched = sheet.way === 'watch';
  return (
    <Panel className="p-4">
      <AutomationHead admin={admin} id={sheet.id} disabledAt={sheet.disabledAt} onSwitch={switchSheetAction}>
        <p className="flex items-center gap-2">
          <ProofRow proofs={proofViews(proofs)} />
          <code>{sheet.source}</code>
          <span className="text-soft">{watched ? 'its new rows are sent' : 'messages become its rows'}</span>
        </p>
        <p className="mt-1">
          <Standing view={view} />
        </p>
        {sheet.problem && (
          <FindingLine
            finding={{
              code: 'sheet-not-read',
              severity: 'error',
              problem: sheet.problem,
              remedy: 'It is looked at again every second; fix it and it goes on.',
            }}
          />
        )}
      </AutomationHead>
      {sheet.held && <HeldRowsNotice sheet={sheet} held={sheet.held} admin={admin} />}
      {watched && sheet.identity && <ToldApart sheet={sheet} admin={admin} />}
      {watched ? (
        <details className="mb-3" open={!sheet.text}>
          <summary className="cursor-pointer font-medium">What a row becomes</summary>
          <div className="mt-3 max-w-[720px]">
            <div className="mb-3">
              {examination?.findings.map((finding) => (
                <FindingLine key={`${finding.field} ${finding.problem} ${finding.place?.from}`} finding={finding} />
              ))}
            </div>
            <MessageOfRecord
              present={sheet}
              action={changeSheetAction.bind(null, sheet.id)}
              what="row"
              samples={sheet.samples}
              people={view.people}
              templates={templates}
              channels={channels}
              countries={countries}
              admin={admin}
            />
          </div>
        </details>
      ) : (
        <p className="mb-3 text-[13px] text-soft">
          Columns: {sheet.columns.map(({ header, fill }) => `${header} = ${fill || 'empty'}`).join(' · ')}
        </p>
      )}
      {rows.length > 0 && (
        <Table
          caption={`Latest of ${sheet.name}`}
          rows={rows}
          keyOf={({ row }) => row.rowKey}
          columns={[
            watched
              ? { head: 'Row', figures: true, cell: ({ row }) => row.line }
              : {
                  head: 'Message',
                  cell: ({ run, row }) => (
                    <Link href={`/watch/messages/${run?.subjectId}`}>
                      <ClockTime at={row.seenAt} />
                    </Link>
                  ),
                },
            { head: 'Outcome', cell: (row) => <Became view={row} /> },
            {
              head: 'In the file',
              className: 'whitespace-nowrap',
              cell: ({ row }) => (row.writtenAt ? <ClockTime at={row.writtenAt} /> : 'not yet'),
            },
          ]}
        />
      )}
    </Panel>
  );
}

function Standing({ view: { sheet, counts } }: { view: SheetView }) {
  if (sheet.disabledAt !== null)
    return (
      <span className="text-clay">
        Switched off <Age at={sheet.disabledAt} />.
      </span>
    );
  if (sheet.way === 'append')
    return <>A row for each message that comes in{sheet.channels ? ' over some channels' : ''}.</>;
  if (sheet.scannedAt === null) return <span className="text-ochre-ink">Waiting to be read for the first time.</span>;
  return (
    <>
      {sheet.rowCount} {sheet.rowCount === 1 ? 'row' : 'rows'}, read <Age at={sheet.scannedAt} past />: {counts.taken}{' '}
      sent, {counts.refused} refused
      {counts.repeated > 0 && `, ${counts.repeated} told twice`}
      {counts.before > 0 && `, ${counts.before} from before`}.
    </>
  );
}

function Became({ view: { row, run } }: { view: SheetRowView }) {
  const last = run?.results.at(-1);
  if (row.state !== 'taken' || run?.state === 'failed')
    return (
      <span className="text-clay">
        <ProofMark state="broken" label="" size={11} /> {row.result ?? last?.finding?.problem ?? last?.said}{' '}
        <span className="text-ink">{last?.finding?.remedy}</span>
      </span>
    );
  if (run?.state !== 'done')
    return (
      <span className="text-ochre-ink">
        {last?.said ?? 'On its way'} {run && <Age at={run.dueAt} />}
      </span>
    );
  if (!last?.ref?.startsWith('msg_')) return <>{last?.said}</>;
  return (
    <>
      {last.said}: <Link href={`/watch/messages/${last.ref}`}>its trail</Link>
    </>
  );
}
