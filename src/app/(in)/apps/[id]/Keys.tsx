import { LATEST_VERSION } from '../../../../core/api/versions';
import { KEY_ENDS_SOON } from '../../../../core/connect/examineApp';
import type { KeyView } from '../../../../operations/apps';
import { APP_SCOPES, SCOPES, type Scope } from '../../../../operations/context';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { CheckField, SelectField, TextAreaField, TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { OneTimeValue } from '../../../../ui/forms/OneTimeValue';
import { Table } from '../../../../ui/primitives/Table';
import { Age } from '../../../../ui/primitives/Time';
import {
  bindKeyAction,
  createKeyAction,
  keyVersionAction,
  narrowKeyAction,
  replaceKeyAction,
  revokeKeyAction,
} from '../actions';
import { VersionOf } from './VersionOf';

const SCOPE_WORDS: Record<Scope, string> = {
  'messages:send': 'send messages',
  'messages:read': 'read messages it sent or was told of, and what became of them',
  'messages:all': 'see the messages and people of all apps and desks',
  'conversations:read': 'read conversations and contacts',
  'channels:read': 'read channels and numbers',
  'webhooks:read': 'read its webhook subscriptions and deliveries',
  'webhooks:write': 'make and change its webhook subscriptions, send events again',
  'codes:send': 'text verification codes, and hear whether they were typed in',
  'tests:run': 'run delivery tests and read what came of them',
  'broadcasts:read': 'read its broadcasts and who got them',
  'broadcasts:write': 'write broadcasts, start, hold and cancel them',
};

function mayWords(scopes: readonly string[]): string {
  if (scopes.length === SCOPES.length) return 'everything';
  return APP_SCOPES.length === scopes.length && APP_SCOPES.every((scope) => scopes.includes(scope))
    ? 'everything an app needs'
    : scopes.join(', ');
}

/** What the app calls Windgap with. Keys that no longer work stay in sight: they explain a 401. */
export function Keys({ keys, admin, now }: { keys: KeyView[]; admin: boolean; now: number }) {
  return (
    <Table
      caption="API keys"
      rows={keys}
      keyOf={(key) => key.id}
      columns={[
        { head: 'Name', cell: (key) => key.name },
        {
          head: 'Key',
          className: 'whitespace-nowrap',
          cell: (key) => (
            <>
              <code>{key.hint}</code>
              {key.forTests === 1 && <span className="block text-[13px] text-soft">test key: reaches test phones</span>}
            </>
          ),
        },
        {
          head: 'Scopes',
          cell: (key) => (
            <>
              {mayWords(key.scopes)}
              {key.scopes.includes('messages:all') && key.state === 'in-force' && (
                <span className="block text-[13px] text-ochre-ink">sees the messages of all apps</span>
              )}
            </>
          ),
        },
        { head: 'Works from', cell: (key) => key.addresses?.join(', ') ?? 'anywhere' },
        { head: 'Version', className: 'whitespace-nowrap', cell: (key) => <VersionOf version={key.apiVersion} /> },
        {
          head: 'Last used',
          cell: (key) =>
            key.lastUsedAt ? (
              <>
                <Age at={key.lastUsedAt} /> from {key.lastUsedFrom ?? 'unknown'}
              </>
            ) : (
              'never'
            ),
        },
        { head: 'State', className: 'whitespace-nowrap', cell: (key) => <State keyView={key} now={now} /> },
        {
          head: 'Change',
          cell: (key) =>
            admin &&
            key.state === 'in-force' && (
              <span className="flex flex-wrap gap-2">
                {key.apiVersion !== LATEST_VERSION && (
                  <ActionButton
                    action={keyVersionAction.bind(null, key.id, LATEST_VERSION)}
                    confirm={{
                      title: `Take ${key.hint} to version ${LATEST_VERSION}?`,
                      consequence: 'Answers change as the list of versions under Apps, API says. It can be taken back.',
                      go: 'Take it there',
                    }}
                  >
                    Latest version
                  </ActionButton>
                )}
                {key.scopes.includes('messages:all') && (
                  <ActionButton
                    action={narrowKeyAction.bind(null, key.id)}
                    confirm={{
                      title: `Only its own messages for ${key.hint}?`,
                      consequence: 'From now on it sees what its app sent or was told of, and not what others did.',
                      go: 'Only its own',
                    }}
                  >
                    Only its own
                  </ActionButton>
                )}
                <OneTimeValue
                  open="Replace"
                  title={`Replace ${key.hint}`}
                  submit="Make the new key"
                  action={replaceKeyAction.bind(null, key.id)}
                  value="key"
                  valueLabel="New API key"
                  direction="The app sends this to Windgap instead of the old one"
                  note="Shown this once. It may do what the old one may."
                >
                  <SelectField
                    name="hours"
                    label="The old key works on for"
                    help="Long enough to put the new one in its place; then it ends by itself."
                    options={[
                      ['1', 'an hour'],
                      ['24', 'a day'],
                      ['168', 'a week'],
                      ['0', 'not at all'],
                    ]}
                    initial="24"
                  />
                  <EndField />
                </OneTimeValue>
                <DialogForm
                  open="Where from"
                  label={`Where ${key.hint} works from`}
                  title={`Where ${key.hint} works from`}
                  submit="Save"
                  action={bindKeyAction.bind(null, key.id)}
                >
                  <AddressesField initial={key.addresses?.join('\n') ?? ''} />
                </DialogForm>
                <ActionButton
                  tone="danger"
                  action={revokeKeyAction.bind(null, key.id)}
                  confirm={{
                    title: `Revoke ${key.hint}?`,
                    consequence: 'Whatever uses this key can no longer send or read messages, from now on.',
                    go: 'Revoke it',
                  }}
                >
                  Revoke
                </ActionButton>
              </span>
            ),
        },
      ]}
    />
  );
}

function State({ keyView: key, now }: { keyView: KeyView; now: number }) {
  if (key.revokedAt)
    return (
      <>
        Revoked <Age at={key.revokedAt} />
      </>
    );
  if (!key.expiresAt) return 'Active';
  if (key.state === 'expired')
    return (
      <span className="text-clay">
        Expired <Age at={key.expiresAt} />
      </span>
    );
  return (
    <span className={key.expiresAt - now < KEY_ENDS_SOON ? 'text-clay' : undefined}>
      Ends <Age at={key.expiresAt} />
    </span>
  );
}

export function MakeKey({ appId, appName }: { appId: string; appName: string }) {
  return (
    <OneTimeValue
      open="Make an API key"
      title={`An API key for ${appName}`}
      submit="Make the key"
      action={createKeyAction.bind(null, appId)}
      value="key"
      valueLabel="API key"
      direction={`${appName} sends this to Windgap`}
      note="Shown this once: Windgap keeps only a hash of it."
    >
      <TextField name="name" label="Name of the key" help="Where it is used, so that it can be told from others." />
      <fieldset>
        <legend className="mb-1 font-medium">Scopes</legend>
        {SCOPES.map((scope) => (
          <label key={scope} className="flex items-center gap-2 py-0.5">
            <input
              type="checkbox"
              name="scopes"
              value={scope}
              defaultChecked={['messages:send', 'messages:read'].includes(scope)}
            />
            {SCOPE_WORDS[scope]}
          </label>
        ))}
      </fieldset>
      <EndField />
      <AddressesField initial="" />
      <CheckField
        name="forTests"
        label="Test key"
        help="Checked as any other; what it sends reaches handsets of the bench and verified phones, and nobody else."
      />
    </OneTimeValue>
  );
}

function AddressesField({ initial }: { initial: string }) {
  return (
    <TextAreaField
      name="addresses"
      label="Works from"
      rows={2}
      exact
      initial={initial}
      help="Addresses and networks, such as 192.0.2.0/24; empty for anywhere. Behind a proxy the proxy has to be a trusted one."
    />
  );
}

function EndField() {
  return (
    <SelectField
      name="days"
      label="The new key works"
      options={[
        ['0', 'until it is revoked'],
        ['30', 'for 30 days'],
        ['90', 'for 90 days'],
        ['365', 'for a year'],
      ]}
    />
  );
}
