import { listFields, type PostedRecord } from '../../../../../../core/text/fields';
import { Empty } from '../../../../../../ui/primitives/layout';
import { Table } from '../../../../../../ui/primitives/Table';

/** The fields as the app really names them, with what the latest post held and how often they are filled. */
export function SampleFields({ samples, appName }: { samples: readonly PostedRecord[]; appName: string }) {
  const [latest] = samples;
  if (!latest)
    return (
      <Empty
        what={`Waiting for the first post… Give ${appName} the address and let it post once, or post a test. Its real field names then stand here.`}
      />
    );
  const all = samples.map((sample) => new Map(listFields(sample).map(({ name, value }) => [name, value])));
  const rows = [...new Set(all.flatMap((fields) => [...fields.keys()]))].map((name) => ({
    name,
    value: all[0]?.get(name),
    filled: all.filter((fields) => fields.get(name)?.trim()).length,
  }));
  return (
    <Table
      caption="Fields of the latest posts"
      rows={rows}
      keyOf={(row) => row.name}
      columns={[
        { head: 'Field', className: 'break-all', cell: (row) => <code>{row.name}</code> },
        {
          head: 'In the latest post',
          className: 'max-w-44 truncate',
          cell: (row) =>
            row.value === undefined ? (
              <span className="text-soft">not there</span>
            ) : (
              row.value || <span className="text-ochre-ink">empty</span>
            ),
        },
        {
          head: 'Filled',
          figures: true,
          className: 'whitespace-nowrap',
          cell: (row) => `${row.filled} of ${samples.length}`,
        },
      ]}
    />
  );
}
