import { countryChoices } from '../../../../../../core/addresses/display';
import { getImport } from '../../../../../../operations/contacts';
import { ActionButton } from '../../../../../../ui/forms/ActionButton';
import { Link } from '../../../../../../ui/primitives/Link';
import { Page, Panel, Section } from '../../../../../../ui/primitives/layout';
import { Table } from '../../../../../../ui/primitives/Table';
import { LiveRefresh } from '../../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../../_server/orNotFound';
import { signedIn } from '../../../../../_server/session';
import { cancelImportAction, undoImportAction } from '../../actions';
import { PlanForm } from './PlanForm';
import { PLAN } from './planPlace';
import { RunImport } from './RunImport';

export default async function ImportPage({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ after?: string }>;
}) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const after = Number((await searchParams).after) || 0;
  const { row, refused, samples } = await orNotFound(getImport(ctx, actor, id, { after }));
  const { state, lines, done, created, merged, unchanged } = row;
  const written = state === 'running' || state === 'done' || state === 'cancelled';
  const going = state === 'examining' || state === 'running';
  return (
    <Page
      title={row.name}
      purpose={
        {
          examining: 'Each line is being examined; nothing is written.',
          preview: 'Examined. This is what would happen; nothing is written yet.',
          running: 'Being imported in the background; this page can be left.',
          done: 'Imported.',
          cancelled: 'Ended before the last line. What was imported stays, and can be undone.',
          failed: row.problem ?? 'It failed.',
          undone: 'Undone.',
        }[state]
      }
      actions={
        <>
          {state === 'preview' && (
            <RunImport id={id} headers={Object.keys(row.plan.columns)} contacts={created + merged} />
          )}
          {going && <ActionButton action={cancelImportAction.bind(null, id)}>End it</ActionButton>}
          {(state === 'done' || state === 'cancelled') && created + merged > 0 && (
            <ActionButton
              tone="danger"
              busy="Undoing…"
              action={undoImportAction.bind(null, id)}
              confirm={{
                title: 'Undo this import?',
                consequence:
                  'Contacts it created are removed, unless they wrote or were written to; those it changed get back what they had.',
                go: 'Undo it',
              }}
            >
              Undo
            </ActionButton>
          )}
        </>
      }
    >
      <LiveRefresh since={since} topics={['import']} subject={id} />
      {row.problem && state !== 'failed' && <p className="mb-3 text-clay">■ {row.problem}</p>}
      {going && (
        <div className="mb-4">
          <progress
            className="h-2 w-full"
            max={Math.max(lines, done, 1)}
            value={done}
            aria-label="Lines worked through"
          />
          <p className="text-[13px] text-soft tabular-nums">{done.toLocaleString('en')} lines</p>
        </div>
      )}
      <div className="mb-6 grid grid-cols-2 gap-3 sm:grid-cols-4">
        {(
          [
            [written ? 'created' : 'would be created', created, 'created'],
            [written ? 'merged into known ones' : 'would be merged into known ones', merged, 'merged'],
            ['nothing new', unchanged, 'unchanged'],
            ['refused, each with its reason', row.refused, 'refused'],
          ] as const
        ).map(([words, count, name]) => (
          <Panel key={name} className="p-3">
            <p
              className={`text-[20px] font-semibold tabular-nums ${name === 'refused' && count > 0 ? 'text-clay' : ''}`}
              data-import={name}
            >
              {count.toLocaleString('en')}
            </p>
            <p className="text-[13px] text-soft">{words}</p>
          </Panel>
        ))}
      </div>
      {(state === 'preview' || state === 'examining') && (
        <Section title="What the columns hold" id="plan">
          <div id={PLAN}>
            <PlanForm
              key={JSON.stringify(row.plan)}
              id={id}
              plan={row.plan}
              samples={samples}
              countries={countryChoices()}
            />
          </div>
        </Section>
      )}
      {refused.length > 0 && (
        <Section title="Refused lines" id="refused" aside={`${row.refused.toLocaleString('en')} in all`}>
          <Table
            caption="Refused lines"
            rows={refused}
            keyOf={({ line }) => String(line)}
            columns={[
              { head: 'Line', figures: true, cell: ({ line }) => line + 1 },
              { head: 'Reason', className: 'w-full', cell: ({ reason }) => reason },
            ]}
          />
          {refused.length === 200 && (
            <p className="mt-2">
              <Link href={`?after=${refused.at(-1)?.line}`}>Further lines</Link>
            </p>
          )}
        </Section>
      )}
    </Page>
  );
}
