import { countryChoices } from '../../../../../core/addresses/display';
import { listImports } from '../../../../../operations/contacts';

import { Link } from '../../../../../ui/primitives/Link';
import { Empty, Page } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../../_server/session';
import { BeginImport } from './BeginImport';

const STATES = {
  examining: 'being examined',
  preview: 'examined, not begun',
  running: 'in progress',
  done: 'done',
  cancelled: 'ended early',
  failed: 'failed',
  undone: 'undone',
};

export default async function ImportsPage() {
  const { ctx, actor, since } = await signedIn();
  const imports = await listImports(ctx, actor);
  const begin = <BeginImport countries={countryChoices()} />;
  return (
    <Page
      title="Imports"
      purpose="Contacts out of a CSV, an XLSX or a vCard file. Each line is examined before anything is written, and what was written can be undone."
      actions={begin}
    >
      <LiveRefresh since={since} topics={['import']} />
      {imports.length === 0 ? (
        <Empty what="No file was imported yet." />
      ) : (
        <Table
          caption="Imports"
          rows={imports}
          keyOf={({ id }) => id}
          columns={[
            {
              head: 'File',
              className: 'w-full',
              cell: ({ id, name }) => <Link href={`/compose/contacts/imports/${id}`}>{name}</Link>,
            },
            { head: 'State', className: 'whitespace-nowrap', cell: ({ state }) => STATES[state] },
            { head: 'Lines', figures: true, cell: ({ lines }) => lines.toLocaleString('en') },
            { head: 'Created', figures: true, cell: ({ created }) => created.toLocaleString('en') },
            { head: 'Merged', figures: true, cell: ({ merged }) => merged.toLocaleString('en') },
            { head: 'Refused', figures: true, cell: ({ refused }) => refused.toLocaleString('en') },
            {
              head: 'By',
              className: 'whitespace-nowrap',
              cell: ({ by, createdAt }) => (
                <>
                  {by}, <Age at={createdAt} />
                </>
              ),
            },
          ]}
        />
      )}
    </Page>
  );
}
