import { listSheets, sheetFiles } from '../../../../../operations/apps/sheets';
import { offeredTemplates } from '../../../../../operations/templates';
import { SelectField, TextAreaField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Ticks } from '../../../../../ui/forms/Ticks';
import { CarryValue } from '../../../../../ui/primitives/CopyButton';
import { Link } from '../../../../../ui/primitives/Link';
import { Empty, Page, Panel, Section } from '../../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { appContext } from '../../_parts/appContext';
import { appendToSheetAction, watchSheetAction } from '../../sheetActions';
import { SheetPanel } from './SheetPanel';

const COLUMNS = [
  'Received = {{ message.at }}',
  'From = {{ message.from }}',
  'Name = {{ contact.name }}',
  'Text = {{ message.text }}',
];

export default async function SheetsPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since, app, channels, countries, admin } = await appContext(params);
  const [sheets, templates] = await Promise.all([listSheets(ctx, actor, app.id), offeredTemplates(ctx, actor)]);
  const files = sheetFiles(ctx);
  return (
    <Page
      title={`Sheets of ${app.name}`}
      purpose={
        <>
          Files of <Link href={`/apps/${app.id}`}>{app.name}</Link>: new rows become messages, or messages become rows.
        </>
      }
    >
      <LiveRefresh since={since} topics={['app', 'run']} />
      {admin && (
        <Panel className="mb-6 grid gap-3 p-4">
          <CarryValue
            label="Folder for sheets"
            direction={`${app.name} puts files here; Windgap reads and writes them`}
            value={ctx.config.sheetsFolder}
            note={files.length > 0 ? `There now: ${files.join(', ')}.` : 'There is no CSV or XLSX in it yet.'}
          />
          <div className="flex gap-2">
            <DialogForm
              open="Watch a sheet"
              title="Watch a sheet"
              description="Each new row is sent once; what became of it is written beside it."
              submit="Add it"
              action={watchSheetAction.bind(null, app.id)}
            >
              <TextField name="name" label="Name" help="What it is, such as “Closures”." />
              <TextField
                name="source"
                label="File or address"
                help="A name in the folder, or an address with https. It ends in .csv or .xlsx."
                initial={files[0]}
                exact
              />
              <SelectField
                name="begin"
                label="Rows that are there already"
                options={[
                  ['new', 'are not sent: only those that come from now on'],
                  ['all', 'are sent as well'],
                ]}
              />
              <TextField
                name="keyColumn"
                label="Column that tells rows apart (may stay empty)"
                help="Such as a number of its own for each row. Without it a row is told apart by what the message uses of it."
              />
            </DialogForm>
            <DialogForm
              open="Append messages to a sheet"
              title="Append messages to a sheet"
              description="Each message that comes in becomes a row; the file is made when there is none."
              submit="Add it"
              action={appendToSheetAction.bind(null, app.id)}
            >
              <TextField name="name" label="Name" help="What it is, such as “All texts”." />
              <TextField
                name="source"
                label="File"
                help="A name in the folder that ends in .csv or .xlsx."
                initial="texts.csv"
                exact
              />
              <TextAreaField
                name="columns"
                label="Columns"
                help="One a line: header = what it is filled with. A column “message” is added, which tells rows apart."
                initial={COLUMNS.join('\n')}
                rows={5}
                exact
              />
              <details>
                <summary className="cursor-pointer text-[13px] text-soft">Only of some channels</summary>
                <div className="mt-2">
                  <Ticks legend="Only messages over" name="channels" options={channels} ticked={[]} />
                </div>
              </details>
            </DialogForm>
          </div>
        </Panel>
      )}
      {sheets.map((view) => (
        <Section key={view.sheet.id} title={view.sheet.name} id={view.sheet.id}>
          <SheetPanel view={view} templates={templates} channels={channels} countries={countries} admin={admin} />
        </Section>
      ))}
      {sheets.length === 0 && <Empty what="No sheet is watched, and none is appended to." />}
    </Page>
  );
}
