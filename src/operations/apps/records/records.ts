/** Where Windgap keeps records in apps: connecting an app's records, and what is kept of which messages. */

import type { Credentials } from '../../../connectors/connector';
import { appCause } from '../../../core/delivery/appCauses';
import { type CauseCode, cause } from '../../../core/delivery/causes';
import { type MappedRecord, mapRecord } from '../../../core/records/mapRecord';
import type { RecordType } from '../../../core/records/recordType';
import type { PostedRecord } from '../../../core/text/fields';
import { newId } from '../../../store/ids';
import type { AppAccountRow, RecordActionRow, RunRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import {
  type Actor,
  type AppContext,
  asView,
  type EvidenceView,
  exchangeRows,
  found,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireConfirmed,
  requireReached,
  requireRole,
  type View,
  viewExchange,
} from '../../context';
import { beginProofs, groupProofs, type HopProof, recordFacts } from '../../proofs';
import { noteAutomation } from '../../runs';
import { credentialsOf, recordOfMessage } from './recordSync';

const RECORD_HOPS = ['call-out'] as const;

/** Connects an app's records after asking the app whether it accepts the credentials. */
export async function connectRecords(
  ctx: AppContext,
  actor: Actor,
  input: { appId: string; connector: string; credentials: Credentials },
): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  await requireReached(ctx.store, actor, 'app', input.appId);
  const app = found(await ctx.store.apps.one({ id: input.appId }), 'app');
  const connector = found(
    ctx.apps.list().find(({ id }) => id === input.connector),
    'app profile',
  );
  const findings = connector.examineCredentials(input.credentials);
  if (findings.length > 0)
    throw new OperationError('invalid', 'The credentials cannot be right as they are.', findings);
  const answer = await connector.check(input.credentials);
  const at = ctx.now();
  if (!answer.ok) {
    const code = appCause(answer.failure.cause);
    const { explain, remedy } = cause(code);
    const field = connector.credentialFields.find(({ secret }) => secret)?.name ?? '';
    const problem = explain({ who: connector.name, said: answer.failure.said });
    throw new OperationError('invalid', problem, [{ field, finding: { code, severity: 'error', problem, remedy } }]);
  }
  await ctx.store.write(async (unit) => {
    await unit.appAccounts.put({
      app_id: app.id,
      connector: connector.id,
      sealed_credentials: ctx.sealer.seal(input.credentials),
      state: 'accepted',
      cause: null,
      said: null,
      checked_at: at,
      remote_name: answer.value.name ?? null,
      changed_at: at,
    });
    await unit.exchanges.insert(exchangeRows('account-check', app.id, answer));
    const actions = await unit.recordActions.all({ app_id: app.id });
    const note = 'its credentials were changed';
    await recordFacts(
      unit,
      actions.map(({ id }) => ({ subject: id, fact: { kind: 'changed', touches: RECORD_HOPS, at, note } })),
      at,
    );
    await recordAudit(unit, actor, at, {
      action: 'records.connected',
      subject: app.id,
      summary: `Connected the records of ${app.name}`,
    });
    await noteChanges(unit, at, [['app', app.id]]);
  });
}

/** Asks the app again whether it accepts the credentials. */
export async function checkRecords(ctx: AppContext, actor: Actor, appId: string): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'app', appId);
  const account = found(await ctx.store.appAccounts.one({ app_id: appId }), 'connection');
  const answer = await ctx.apps.get(account.connector).check(credentialsOf(ctx, account));
  const at = ctx.now();
  const failure = answer.ok ? undefined : answer.failure;
  const code = failure && appCause(failure.cause);
  const state = answer.ok ? 'accepted' : cause(code as CauseCode).transient ? 'unreachable' : 'refused';
  await ctx.store.write(async (unit) => {
    await unit.appAccounts.change(
      { app_id: appId },
      { state, cause: code ?? null, said: failure?.said ?? null, checked_at: at },
    );
    await unit.exchanges.insert(exchangeRows('account-check', appId, answer));
    await noteChanges(unit, at, [['app', appId]]);
  });
}

export interface RecordActionInput {
  name: string;
  record: string;
  way: RecordActionRow['way'];
  fields: Record<string, string>;
  /** None for every channel. */
  channels?: string[];
  /** Only where a route says so, not for every message. */
  byRoute?: boolean;
}

export async function addRecordAction(
  ctx: AppContext,
  actor: Actor,
  appId: string,
  input: RecordActionInput,
): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'app', appId);
  const at = ctx.now();
  const id = newId('rec', at);
  await ctx.store.write(async (unit) => {
    const wanted = await readAction(ctx, unit, appId, input);
    await unit.recordActions.insert([
      {
        id,
        app_id: appId,
        ...wanted,
        by_route: input.byRoute ? 1 : 0,
        created_at: at,
        changed_at: at,
        disabled_at: null,
      },
    ]);
    await beginProofs(unit, id, RECORD_HOPS, at);
    await noteAutomation(
      unit,
      actor,
      at,
      { id, app_id: appId },
      { action: 'record.added', summary: `Messages are kept: ${wanted.name}` },
    );
  });
  return { id };
}

export async function changeRecordAction(
  ctx: AppContext,
  actor: Actor,
  id: string,
  input: RecordActionInput,
): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.recordActions.one({ id }), 'record action');
    await requireReached(unit, actor, 'app', before.app_id);
    const wanted = await readAction(ctx, unit, before.app_id, input);
    await unit.recordActions.change({ id }, { ...wanted, by_route: input.byRoute ? 1 : 0, changed_at: at });
    await noteAutomation(unit, actor, at, before, {
      action: 'record.changed',
      summary: `Changed what is kept: ${wanted.name}`,
      touches: RECORD_HOPS,
      note: 'its fields were changed',
    });
  });
}

export async function switchRecordAction(ctx: AppContext, actor: Actor, id: string, on: boolean): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.recordActions.one({ id }), 'record action');
    await requireReached(unit, actor, 'app', before.app_id);
    await unit.recordActions.change({ id }, { disabled_at: on ? null : at });
    const word = on ? 'on' : 'off';
    await noteAutomation(unit, actor, at, before, {
      action: `record.${word}`,
      summary: `Switched “${before.name}” ${word}`,
      touches: RECORD_HOPS,
      note: `it was switched ${word}`,
    });
  });
}

async function readAction(ctx: AppContext, unit: Unit, appId: string, input: RecordActionInput) {
  const account = found(await unit.appAccounts.one({ app_id: appId }), 'connection');
  const type = ctx.apps.get(account.connector).records.find(({ id }) => id === input.record);
  if (!type?.ways.includes(input.way))
    throw invalidText('way', 'The app’s profile does not offer this.', 'Choose one of those it offers.');
  const name = input.name.trim();
  if (!name)
    throw invalidText('name', 'The record action has no name.', 'Say what is kept, such as “A ticket for each text”.');
  const fields = Object.fromEntries(type.fields.map((field) => [field.name, input.fields[field.name]?.trim() ?? '']));
  // An example message tells whether the fields can be filled at all.
  const { findings } = mapRecord(type, fields, EXAMPLE);
  const [first] = findings;
  if (first)
    throw new OperationError(
      'invalid',
      first.problem,
      findings.map((finding) => ({ field: `field:${finding.field}`, finding })),
    );
  const channels = input.channels?.length ? [...new Set(input.channels)] : null;
  return { name, record: input.record, way: input.way, fields, channels };
}

/** A message that has everything a message can have. */
export const EXAMPLE: PostedRecord = {
  message: {
    id: 'msg_01',
    text: 'Are you open on Tuesday?',
    from: '+447700900123',
    to: '+442079460114',
    at: '2026-05-04T10:00:00.000Z',
    file: 'https://files.example/lock.png',
  },
  contact: { name: 'Alex Reed' },
  channel: { name: 'Front desk', number: '+442079460114' },
};

export interface RecordRunView {
  run: View<Pick<RunRow, 'id' | 'subject_id' | 'state' | 'results' | 'due_at' | 'created_at'>>;
  exchanges: EvidenceView[];
}

export interface RecordActionView {
  action: View<RecordActionRow>;
  type: RecordType;
  proofs: HopProof[];
  runs: RecordRunView[];
  /** What the latest message would become. */
  preview?: MappedRecord;
}

export type RecordsConnection = View<Pick<AppAccountRow, 'state' | 'cause' | 'said' | 'checked_at' | 'remote_name'>> & {
  connector: string;
  connectorName: string;
};

export interface RecordsView {
  app: { id: string; name: string };
  connection?: RecordsConnection;
  /** Kinds of record the connected app has. */
  types: RecordType[];
  actions: RecordActionView[];
  /** The latest message that came in, to choose fields from. */
  sample: PostedRecord;
}

const RUNS_SHOWN = 8;

export async function getRecords(ctx: AppContext, actor: Actor, appId: string): Promise<RecordsView> {
  requireRole(actor, 'viewer');
  await requireReached(ctx.store, actor, 'app', appId);
  const app = found(await ctx.store.apps.one({ id: appId }), 'app');
  const account = await ctx.store.appAccounts.one({ app_id: appId });
  const sample = await latestMessage(ctx);
  if (!account) return { app, types: [], actions: [], sample };
  const connector = ctx.apps.get(account.connector);
  const actions = await ctx.store.recordActions.all({ app_id: appId }, { order: [['id', 'ASC']] });
  const proofs = groupProofs(await ctx.store.proofs.all({ subject_id: actions.map(({ id }) => id) }), ctx.now());
  const { state, cause: code, said, checked_at, remote_name } = account;
  return {
    app,
    connection: {
      state,
      cause: code,
      said,
      checkedAt: checked_at,
      remoteName: remote_name,
      connector: connector.id,
      connectorName: connector.name,
    },
    types: connector.records,
    actions: await Promise.all(
      actions.flatMap((action) => {
        const type = connector.records.find(({ id }) => id === action.record);
        return type ? [viewAction(ctx, action, type, proofs.get(action.id) ?? [], sample)] : [];
      }),
    ),
    sample,
  };
}

async function viewAction(
  ctx: AppContext,
  action: RecordActionRow,
  type: RecordType,
  proofs: HopProof[],
  sample: PostedRecord,
): Promise<RecordActionView> {
  const runs = await ctx.store.runs.all({ source_id: action.id }, { order: [['id', 'DESC']], limit: RUNS_SHOWN });
  const exchanges = await ctx.store.exchanges.all({ subject_id: runs.map(({ id }) => id) }, { order: [['id', 'ASC']] });
  return {
    action: asView(action),
    type,
    proofs,
    preview: mapRecord(type, action.fields, sample),
    runs: runs.map((run) => ({
      run: asView(run),
      exchanges: exchanges.filter((row) => row.subject_id === run.id).map((row) => viewExchange(row)),
    })),
  };
}

async function latestMessage(ctx: AppContext): Promise<PostedRecord> {
  const [message] = await ctx.store.messages.all({ direction: 'in' }, { order: [['id', 'DESC']], limit: 1 });
  const channel = message && (await ctx.store.channels.one({ id: message.channel_id }));
  if (!message || !channel) return EXAMPLE;
  return recordOfMessage(message, await ctx.store.contacts.one({ id: message.contact_id }), channel);
}

export interface AppProfileView {
  id: string;
  name: string;
  summary: string;
  preconditions: { text: string; help?: string }[];
  fields: { name: string; label: string; help: string; secret: boolean; initial?: string }[];
}

/** The apps whose records can be kept, with what is needed to connect each. */
export function listAppProfiles(ctx: AppContext): AppProfileView[] {
  return ctx.apps.list().map(({ id, name, summary, preconditions, credentialFields }) => ({
    id,
    name,
    summary,
    preconditions,
    fields: credentialFields.map(({ name, label, help, secret, initial }) => ({ name, label, help, secret, initial })),
  }));
}
