/** The customer records of Towpath, connected, with an action that keeps everybody who texts. */

import { createApp } from '../../src/operations/apps/apps';
import { addRecordAction, connectRecords, getRecords } from '../../src/operations/apps/records/records';
import { SYSTEM } from '../../src/operations/context/actor';
import type { Installation } from './processes';

export async function connectTowpath({ ctx, world }: Installation): Promise<{
  app: string;
  action: string;
  fields: Record<string, string>;
}> {
  const { id: app } = await createApp(ctx, SYSTEM, { name: 'Towpath Records', description: '' });
  await connectRecords(ctx, SYSTEM, {
    appId: app,
    connector: 'towpath',
    credentials: { address: `http://127.0.0.1:${world.ports.towpath}/v3`, token: world.towpath.tokens[0]?.token ?? '' },
  });
  const { types } = await getRecords(ctx, SYSTEM, app);
  const fields = Object.fromEntries(
    types.find((type) => type.id === 'contact')?.fields.map((field) => [field.name, field.initial]) ?? [],
  );
  const { id: action } = await addRecordAction(ctx, SYSTEM, app, {
    name: 'Everybody who texts',
    record: 'contact',
    way: 'upsert',
    fields,
  });
  return { app, action, fields };
}
