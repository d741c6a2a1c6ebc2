'use client';

import { useState } from 'react';
import type { RecordType, RecordWay } from '../../../../../core/records/recordType';
import { listFields, type PostedRecord } from '../../../../../core/text/fields';
import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { Ticks } from '../../../../../ui/forms/Ticks';
import { WAY_WORDS } from './wayWords';

interface Props {
  types: RecordType[];
  channels: [string, string][];
  sample: PostedRecord;
  present?: {
    name: string;
    record: string;
    way: RecordWay;
    fields: Record<string, string>;
    channels: string[] | null;
    byRoute: number;
  };
}

/** What is kept, and what each of the app's fields is filled with. */
export function RecordFields({ types, channels, sample, present }: Props) {
  const ways = types.flatMap((type) =>
    type.ways.map((way): [string, string] => [`${type.id} ${way}`, WAY_WORDS[way](type.label.toLowerCase())]),
  );
  const [way, setWay] = useState(present ? `${present.record} ${present.way}` : (ways[0]?.[0] ?? ''));
  const type = types.find(({ id }) => id === way.split(' ')[0]);
  return (
    <>
      <TextField name="name" label="Name" initial={present?.name} help="Such as “A ticket for each text”." />
      <SelectField name="way" label="For each message that comes in" options={ways} initial={way} onValue={setWay} />
      <label className="flex items-center gap-2 text-[13px]">
        <input type="checkbox" name="byRoute" value="on" defaultChecked={present?.byRoute === 1} />
        Only where a route says so, not for every message
      </label>
      <p className="text-[13px] text-soft">
        Fields are filled with words and with fields of the message:{' '}
        {listFields(sample)
          .map(({ name }) => name)
          .join(', ')}
        .
      </p>
      {type?.fields.map((field) => (
        <TextField
          key={`${type.id} ${field.name}`}
          name={`field:${field.name}`}
          label={`${field.label}${field.required ? '' : ' (may stay empty)'}`}
          help={
            [field.onlyNew && 'Only when a new one is made.', field.longest && `At most ${field.longest} characters.`]
              .filter(Boolean)
              .join(' ') || undefined
          }
          initial={present && present.record === type.id ? (present.fields[field.name] ?? '') : field.initial}
          exact
        />
      ))}
      <details open={Boolean(present?.channels)}>
        <summary className="cursor-pointer text-[13px] text-soft">Only of some channels</summary>
        <div className="mt-2">
          <Ticks legend="Only messages over" name="channels" options={channels} ticked={present?.channels ?? []} />
        </div>
      </details>
    </>
  );
}
