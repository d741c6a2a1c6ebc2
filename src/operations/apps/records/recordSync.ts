/** Record actions at work: what a message becomes in an app, and what the app says about a person. */

import type { AppConnector, FoundRecord } from '../../../connectors/app/appConnector';
import type { Outcome as Answer, Credentials, Failure } from '../../../connectors/connector';
import { appCause } from '../../../core/delivery/appCauses';
import { type CauseCode, cause } from '../../../core/delivery/causes';
import { mapRecord } from '../../../core/records/mapRecord';
import type { RecordType } from '../../../core/records/recordType';
import type { Outcome } from '../../../core/steps/run';
import type { RecordStep } from '../../../core/steps/steps';
import type { PostedRecord } from '../../../core/text/fields';
import type {
  AppAccountRow,
  ChannelRow,
  ContactRow,
  ExchangeRow,
  MessageRow,
  RecordActionRow,
  RunRow,
} from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { type Actor, type AppContext, exchangeRows, found, OperationError, requireRole } from '../../context';
import { beginRuns, type RunInput } from '../../runs';
import { noteTurn } from '../../threads';
import { createTurns } from '../../workQueue';

/** What the fields of a record are filled from. */
export function recordOfMessage(
  message: MessageRow,
  contact: Pick<ContactRow, 'name'> | undefined,
  channel: Pick<ChannelRow, 'name' | 'address'>,
): PostedRecord {
  return {
    message: {
      id: message.id,
      text: message.text,
      from: message.sender,
      to: message.recipient,
      at: new Date(message.created_at).toISOString(),
      file: message.media?.url ?? '',
    },
    contact: { name: contact?.name ?? '' },
    channel: { name: channel.name, number: channel.address },
  };
}

/** What fields may be filled with, of each message by its id. */
export async function messageContexts(unit: Unit, messages: readonly MessageRow[]): Promise<Map<string, PostedRecord>> {
  const channels = new Map((await unit.channels.all()).map((row) => [row.id, row]));
  const ids = messages.map((message) => message.contact_id);
  const contacts = new Map((await unit.contacts.allBy('id', ids, ['id', 'name'])).map((row) => [row.id, row]));
  return new Map(
    messages.flatMap((message) => {
      const channel = channels.get(message.channel_id);
      return channel
        ? [[message.id, recordOfMessage(message, contacts.get(message.contact_id), channel)] as const]
        : [];
    }),
  );
}

/** Puts what is to be kept of these messages into the queue, inside the unit that stores them. */
export async function keepMessages(
  ctx: AppContext,
  unit: Unit,
  messages: readonly MessageRow[],
  at: number,
): Promise<void> {
  const actions = messages.length > 0 ? await unit.recordActions.all({ disabled_at: null, by_route: 0 }) : [];
  if (actions.length === 0) return;
  const accounts = new Map((await unit.appAccounts.all()).map((row) => [row.app_id, row]));
  const contexts = await messageContexts(unit, messages);
  const runs = actions.flatMap((action) => {
    const account = accounts.get(action.app_id);
    const type = account && ctx.apps.get(account.connector).records.find(({ id }) => id === action.record);
    if (!type) return [];
    return messages
      .filter((message) => !action.channels || action.channels.includes(message.channel_id))
      .flatMap((message) => {
        const context = contexts.get(message.id);
        return context ? [runOf(action, type, message, context)] : [];
      });
  });
  await beginRuns(unit, runs, at);
}

/** A record of a message made because somebody at the desk wants it; its run is answered. */
export async function keepByHand(
  ctx: AppContext,
  actor: Actor,
  { conversationId, actionId }: { conversationId: string; actionId: string },
): Promise<{ runId: string; name: string }> {
  requireRole(actor, 'agent');
  const at = ctx.now();
  const made = await ctx.store.write(async (unit) => {
    const action = found(await unit.recordActions.one({ id: actionId, disabled_at: null }), 'record action');
    const [message] = await unit.messages.all(
      { conversation_id: conversationId, direction: 'in' },
      { order: [['id', 'DESC']], limit: 1 },
    );
    if (!message) throw new OperationError('conflict', 'They have written nothing yet that a record could be made of.');
    const account = found(await unit.appAccounts.one({ app_id: action.app_id }), 'connection');
    const type = found(
      ctx.apps.get(account.connector).records.find(({ id }) => id === action.record),
      'record type',
    );
    const context = (await messageContexts(unit, [message])).get(message.id) ?? {};
    const [runId = ''] = await beginRuns(unit, [runOf(action, type, message, context)], at);
    await noteTurn(unit, conversationId, actor.name, at, `had “${action.name}” done`);
    return { runId, name: action.name };
  });
  ctx.engineWakeUp.ring('runs');
  return made;
}

function runOf(action: RecordActionRow, type: RecordType, message: MessageRow, record: PostedRecord): RunInput {
  const { values, findings } = mapRecord(type, action.fields, record);
  const step: RecordStep = { kind: 'record', record: action.record, way: action.way, phone: message.sender, values };
  const [finding] = findings;
  return {
    appId: action.app_id,
    source: 'record',
    sourceId: action.id,
    subjectId: message.id,
    // An app that is slow delays what is kept in it, and nothing else about the person.
    turn: `${action.app_id} ${message.sender}`,
    steps: [step],
    failed: finding && { finding, cause: 'record-field-empty' },
  };
}

const inTurn = createTurns();

export async function performRecord(ctx: AppContext, step: RecordStep, run: RunRow): Promise<Outcome> {
  const account = await ctx.store.appAccounts.one({ app_id: run.app_id });
  const app = await ctx.store.apps.one({ id: run.app_id });
  const who = app?.name ?? 'the app';
  if (!account) return failedFor('records-not-connected', { who });
  const connector = ctx.apps.get(account.connector);
  const rows: ExchangeRow[] = [];
  // Looked for and then made: two at once about one person, such as a route's and an action's, would both find nobody.
  const outcome = await inTurn(`${run.app_id} ${step.phone}`, () =>
    keep(connector, credentialsOf(ctx, account), step, `${run.id}.${run.next}`, (answer) =>
      rows.push(...exchangeRows('record', run.id, answer)),
    ),
  );
  if (rows.length > 0) await ctx.store.write((unit) => unit.exchanges.insert(rows), { durable: false });
  if (outcome.ok) return { kind: 'done', ...outcome.value };
  const { failure } = outcome;
  const code = appCause(failure.cause);
  const type = connector.records.find(({ id }) => id === step.record);
  if (failure.outcomeUnknown && step.way !== 'upsert' && !type?.honoursReference)
    return failedFor('record-uncertain', { who, said: failure.said });
  if (cause(code).transient)
    return {
      kind: 'again',
      said: cause(code).explain({ who, said: failure.said }),
      cause: code,
      retryAfter: failure.retryAfter,
    };
  return failedFor(code, { who, said: failure.said });
}

function failedFor(code: CauseCode, context: { who: string; said?: string }): Outcome {
  const { explain, remedy } = cause(code);
  return { kind: 'failed', cause: code, finding: { code, severity: 'error', problem: explain(context), remedy } };
}

type Kept = { ok: true; value: { said: string; ref: string } } | { ok: false; failure: Failure };

async function keep(
  connector: AppConnector,
  credentials: Credentials,
  { record, way, phone, values }: RecordStep,
  reference: string,
  note: (answer: Answer<unknown>) => void,
): Promise<Kept> {
  const label = (connector.records.find(({ id }) => id === record)?.label ?? record).toLowerCase();
  const asked = async <Value>(answer: Promise<Answer<Value>>) => {
    const given = await answer;
    note(given);
    return given;
  };
  if (way === 'upsert') {
    const found = await asked(connector.find(credentials, record, phone));
    if (!found.ok) return found;
    if (found.value) {
      const changed = await asked(connector.update(credentials, record, found.value.id, values));
      return changed.ok ? done(`Changed the ${label}`, found.value) : changed;
    }
  } else if (way === 'create-if-none') {
    const open = await asked(connector.countOpen(credentials, record, phone));
    if (!open.ok) return open;
    if (open.value > 0)
      return { ok: true, value: { said: `${open.value} open already, so no ${label} was made`, ref: '' } };
  }
  const made = await asked(connector.create(credentials, record, values, reference));
  return made.ok ? done(`Made a ${label}`, made.value) : made;
}

function done(said: string, record: FoundRecord): Kept {
  return { ok: true, value: { said: `${said} ${record.id}`, ref: record.url ?? record.id } };
}

export function credentialsOf(ctx: AppContext, account: AppAccountRow): Credentials {
  return ctx.sealer.open<Credentials>(account.sealed_credentials);
}
