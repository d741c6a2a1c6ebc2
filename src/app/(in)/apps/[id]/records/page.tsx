import { cause } from '../../../../../core/delivery/causes';
import { getRecords, listAppProfiles, type RecordsConnection } from '../../../../../operations/apps/records';
import { listChannels } from '../../../../../operations/channels';
import { hasRole } from '../../../../../operations/context';
import { FindingLine } from '../../../../../ui/domain/Findings';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { CredentialFields } from '../../../../../ui/forms/CredentialFields';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Empty, Page, Panel, Section } from '../../../../../ui/primitives/layout';
import { Age } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { addRecordActionAction, checkRecordsAction, connectRecordsAction } from '../../recordActions';
import { ConnectRecords } from './ConnectRecords';
import { RecordAction } from './RecordAction';
import { RecordFields } from './RecordFields';

export default async function RecordsPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const view = await orNotFound(getRecords(ctx, actor, id));
  const { app, connection, types, actions, sample } = view;
  const admin = hasRole(actor, 'administrator');
  const channels = (await listChannels(ctx, actor)).map(({ channel }): [string, string] => [channel.id, channel.name]);
  const profiles = listAppProfiles(ctx);
  const profile = profiles.find((entry) => entry.id === connection?.connector);
  return (
    <Page
      title={`Records in ${app.name}`}
      purpose={
        <>
          Which records Windgap creates in <Link href={`/apps/${id}`}>{app.name}</Link> for inbound messages, and what
          it looks up there.
        </>
      }
    >
      <LiveRefresh since={since} topics={['app', 'run']} />
      <Section title="Connection" id="connection">
        {connection && profile ? (
          <Panel className="flex flex-wrap items-center justify-between gap-3 px-4 py-3">
            <Connection connection={connection} />
            {admin && (
              <span className="flex gap-2">
                <ActionButton action={checkRecordsAction.bind(null, id)}>Check now</ActionButton>
                <DialogForm
                  open="Replace credentials"
                  title={`Credentials to ${profile.name}`}
                  submit="Check and save"
                  busy={`Asking ${profile.name}…`}
                  action={connectRecordsAction.bind(
                    null,
                    id,
                    profile.id,
                    profile.fields.map(({ name }) => name),
                  )}
                >
                  <CredentialFields fields={profile.fields} />
                </DialogForm>
              </span>
            )}
          </Panel>
        ) : admin ? (
          <ConnectRecords appId={id} profiles={profiles} />
        ) : (
          <Empty what={`The records of ${app.name} are not connected.`} />
        )}
      </Section>
      {connection && (
        <Section
          title="Record actions"
          id="actions"
          aside="For each message that comes in, in the background and with retries."
        >
          {actions.map((action) => (
            <RecordAction
              key={action.action.id}
              view={action}
              types={types}
              channels={channels}
              sample={sample}
              admin={admin}
            />
          ))}
          {actions.length === 0 && <Empty what={`Nothing is kept in ${app.name} yet.`} />}
          {admin && (
            <div className="mt-3">
              <DialogForm
                open="Add a record action"
                title={`Create records in ${app.name}`}
                submit="Save"
                action={addRecordActionAction.bind(null, id)}
              >
                <RecordFields types={types} channels={channels} sample={sample} />
              </DialogForm>
            </div>
          )}
        </Section>
      )}
    </Page>
  );
}

function Connection({ connection }: { connection: RecordsConnection }) {
  const { state, said, checkedAt, remoteName, connectorName } = connection;
  if (state === 'accepted')
    return (
      <span>
        {connectorName} accepts the credentials{remoteName ? ` (${remoteName})` : ''}, asked{' '}
        {checkedAt ? <Age at={checkedAt} /> : 'never'}. That proves the credential, not a record.
      </span>
    );
  const code = connection.cause ?? 'app-credential-refused';
  const { explain, remedy } = cause(code);
  return (
    <FindingLine
      finding={{ code, severity: 'error', problem: explain({ who: connectorName, said: said ?? undefined }), remedy }}
    />
  );
}
