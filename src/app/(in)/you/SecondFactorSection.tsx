import type { Factors } from '../../../operations/people';
import { ActionButton } from '../../../ui/forms/ActionButton';
import { AddPasskey } from '../../../ui/identity/passkeys';
import { RecoveryCodes } from '../../../ui/identity/RecoveryCodes';
import { TimeCodes } from '../../../ui/identity/TimeCodes';
import { Panel, Section } from '../../../ui/primitives/layout';
import { Table } from '../../../ui/primitives/Table';
import { Age } from '../../../ui/primitives/Time';
import {
  addPasskeyAction,
  offerCodesAction,
  offerPasskeyAction,
  recoveryCodesAction,
  removeCodesAction,
  removePasskeyAction,
  useCodesAction,
} from './actions';

interface Props {
  factors: Factors;
  /** Why no passkey counts at this address. */
  noPasskeys?: string;
}

/** What one shows beside the password, and what opens when that is lost. */
export function SecondFactorSection({ factors: { passkeys, timeCodes, recoveryCodes, required }, noPasskeys }: Props) {
  const none = passkeys.length === 0 && !timeCodes;
  return (
    <Section title="Second factor" id="second-factor">
      <p className="mb-3 max-w-[70ch] text-soft">
        {none
          ? 'You sign in with the password alone. With a second factor nobody comes in with your password alone.'
          : 'Asked for after the password. A passkey opens by itself, too.'}
        {required && ' Your role needs one.'}
      </p>
      {passkeys.length > 0 && (
        <Table
          caption="Passkeys"
          rows={passkeys}
          keyOf={({ id }) => id}
          columns={[
            { head: 'Passkey', cell: ({ name }) => name },
            { head: 'Since', cell: ({ createdAt }) => <Age at={createdAt} past /> },
            { head: 'Last used', cell: ({ usedAt }) => (usedAt === null ? 'never' : <Age at={usedAt} past />) },
            {
              head: 'Remove',
              cell: ({ id, name }) => (
                <ActionButton
                  action={removePasskeyAction.bind(null, id)}
                  confirm={{
                    title: `Remove ${name}`,
                    consequence:
                      'It opens nothing here any more. On the device itself it stays until you delete it there.',
                    go: 'Remove it',
                  }}
                >
                  Remove
                </ActionButton>
              ),
            },
          ]}
        />
      )}
      <div className="mt-4 grid max-w-[860px] gap-4 md:grid-cols-2">
        <Panel className="p-4">
          <h3 className="mb-2 font-medium">Passkey</h3>
          {noPasskeys ? (
            <p className="text-[13px] text-soft">{noPasskeys}</p>
          ) : (
            <AddPasskey offer={offerPasskeyAction} keep={addPasskeyAction} />
          )}
        </Panel>
        <Panel className="p-4">
          <h3 className="mb-2 font-medium">One-time codes</h3>
          {timeCodes ? (
            <>
              <p className="mb-3">Set up.</p>
              <ActionButton
                action={removeCodesAction}
                confirm={{
                  title: 'Remove the one-time codes',
                  consequence: 'The program on your phone goes on making codes; they open nothing here any more.',
                  go: 'Remove them',
                }}
              >
                Remove
              </ActionButton>
            </>
          ) : (
            <TimeCodes offer={offerCodesAction} keep={useCodesAction} />
          )}
        </Panel>
      </div>
      {!none && (
        <div className="mt-4">
          <p className="mb-2 text-soft">
            {recoveryCodes === 0
              ? 'No recovery codes: without your device only an owner gets you in.'
              : `${recoveryCodes} recovery codes are left. New ones replace them.`}
          </p>
          <RecoveryCodes make={recoveryCodesAction} words="New recovery codes" />
        </div>
      )}
    </Section>
  );
}
