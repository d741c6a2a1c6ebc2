/** The customer records of Towpath, connected, with an action that keeps everybody who texts. */
import { SYSTEM } from '../../src/operations/actor';
import { createApp } from '../../src/operations/apps';
import { addRecordAction, connectRecords, getRecords } from '../../src/operations/records';
import type { Installation } from './processes';

export async function connectTowpath({ w, world }: Installation): Promise<{
  app: string;
  action: string;
  fields: Record<string, string>;
}> {
  const { id: app } = await createApp(w, SYSTEM, { name: 'Towpath Records', description: '' });
  await connectRecords(w, SYSTEM, {
    appId: app,
    connector: 'towpath',
    credentials: { address: `http://127.0.0.1:${world.ports.towpath}/v3`, token: world.towpath.tokens[0]?.token ?? '' },
  });
  const { types } = await getRecords(w, SYSTEM, app);
  const fields = Object.fromEntries(
    types.find((type) => type.id === 'contact')?.fields.map((field) => [field.name, field.initial]) ?? [],
  );
  const { id: action } = await addRecordAction(w, SYSTEM, app, {
    name: 'Everybody who texts',
    record: 'contact',
    way: 'upsert',
    fields,
  });
  return { app, action, fields };
}
