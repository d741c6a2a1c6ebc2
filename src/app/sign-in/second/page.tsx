import { redirect } from 'next/navigation';
import { relyingPartyOf, waitingSignIn } from '../../../operations/people';
import { ActionButton } from '../../../ui/forms/ActionButton';
import { AddPasskey } from '../../../ui/identity/passkeys';
import { RecoveryCodes } from '../../../ui/identity/RecoveryCodes';
import { TimeCodes } from '../../../ui/identity/TimeCodes';
import { GatePage } from '../../../ui/shell/GatePage';
import { keptStep } from '../../_server/session';
import { windgap } from '../../_server/windgap';
import {
  enrolCodesAction,
  enrolPasskeyAction,
  firstRecoveryCodesAction,
  goOnAction,
  offerCodesAction,
  offerPasskeyAction,
} from './actions';
import { SecondFactor } from './SecondFactor';

/** The second factor of whoever has shown a right password, or where they set one up. */
export default async function SecondPage() {
  const ctx = await windgap();
  const waiting = await waitingSignIn(ctx, await keptStep());
  if (!waiting) redirect('/sign-in');
  const { factors, step, done } = waiting;
  const party = relyingPartyOf(ctx.config);
  if (step === 'second')
    return (
      <GatePage title="Second factor" purpose="The password was right. Show that you have your device, too.">
        <SecondFactor
          passkeys={factors.passkeys.length > 0 && 'id' in party}
          timeCodes={factors.timeCodes}
          recoveryCodes={factors.recoveryCodes > 0}
        />
      </GatePage>
    );
  if (done)
    return (
      <GatePage title="In case you lose it" purpose="Recovery codes let you in without your device.">
        <div className="grid gap-4">
          <RecoveryCodes make={firstRecoveryCodesAction} words="Show recovery codes" />
          <ActionButton action={goOnAction} tone="primary">
            Go on
          </ActionButton>
        </div>
      </GatePage>
    );
  return (
    <GatePage
      title="Set up a second factor"
      purpose="Your role needs one beside the password: a passkey on a device of yours, or one-time codes."
    >
      <div className="grid gap-5">
        {'id' in party ? (
          <AddPasskey offer={offerPasskeyAction} keep={enrolPasskeyAction} />
        ) : (
          <p className="text-[13px] text-soft">No passkeys here: {party.problem}</p>
        )}
        <div className="border-t border-line pt-4">
          <TimeCodes offer={offerCodesAction} keep={enrolCodesAction} />
        </div>
      </div>
    </GatePage>
  );
}
