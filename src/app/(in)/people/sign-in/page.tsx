import { notFound } from 'next/navigation';
import { hasRole } from '../../../../operations/context';
import { getProvider, type ProviderView, returnAddress, rolesWithSecondFactor } from '../../../../operations/people';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { ActionForm, CheckField, TextAreaField, TextField } from '../../../../ui/forms/ActionForm';
import { Ticks } from '../../../../ui/forms/Ticks';
import { CarryValue } from '../../../../ui/primitives/CopyButton';
import { Page, Panel, Section } from '../../../../ui/primitives/layout';
import { Age } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';
import { providerAction, removeProviderAction, requireAction } from './actions';

const ROLES: [string, string][] = [
  ['owner', 'Owners'],
  ['administrator', 'Administrators'],
  ['agent', 'Agents'],
  ['viewer', 'Viewers'],
];

/** What people show to come in. */
export default async function HowPeopleSignInPage() {
  const { ctx, actor } = await signedIn();
  if (!hasRole(actor, 'owner')) notFound();
  const [roles, provider] = await Promise.all([rolesWithSecondFactor(ctx.store), getProvider(ctx, actor)]);
  return (
    <Page title="Sign-in" purpose="What people show to come in: a second factor, or their sign-in at the organisation.">
      <Section title="Second factor" id="second-factor">
        <p className="mb-3 max-w-[70ch] text-soft">
          Whoever has a role that needs one, and none, is signed out and sets one up at the next sign-in. Who comes in
          through the identity provider has shown there what the organisation wants to see.
        </p>
        <Panel className="max-w-[560px] p-4">
          <ActionForm action={requireAction} submit="Save">
            <Ticks legend="Needed by" name="role" options={ROLES} ticked={roles} />
          </ActionForm>
        </Panel>
      </Section>
      <Section title="Identity provider" id="provider" aside={provider && <Standing provider={provider} />}>
        <p className="mb-3 max-w-[70ch] text-soft">
          Any that speaks OpenID Connect. Groups there decide who is what here, with every sign-in.
        </p>
        <div className="grid gap-4 lg:grid-cols-[minmax(0,560px)_minmax(0,1fr)]">
          <Panel className="p-4">
            <ActionForm action={providerAction} submit="Save" busy="Asking the provider…">
              <TextField
                name="name"
                label="Name on the button"
                initial={provider?.name ?? ''}
                help="Such as “Mossgate”: people read “Sign in through Mossgate”."
              />
              <TextField
                name="issuer"
                label="Issuer"
                exact
                initial={provider?.issuer ?? ''}
                help="The provider shows it; below it stands /.well-known/openid-configuration."
              />
              <TextField name="clientId" label="Client id" exact initial={provider?.clientId ?? ''} />
              <TextField
                name="clientSecret"
                label="Client secret"
                type="password"
                help={provider ? 'Leave it empty to keep the one that is there.' : undefined}
              />
              <TextField
                name="groupsClaim"
                label="Claim with the groups"
                exact
                initial={provider?.groupsClaim ?? 'groups'}
              />
              <TextAreaField
                name="rules"
                label="Groups"
                exact
                rows={5}
                initial={
                  provider?.rules
                    .map((rule) => [rule.group, rule.role, rule.team].filter(Boolean).join(', '))
                    .join('\n') ?? ''
                }
                help="One a line: group, role, team. Of several groups the highest role counts. Who is in none stays out."
              />
              <CheckField
                name="only"
                label="Only owners may sign in with a password"
                initial={provider?.only ?? false}
                help="Can be chosen once somebody has come in through the provider."
              />
            </ActionForm>
          </Panel>
          <div className="grid content-start gap-4">
            <CarryValue
              label="Return address"
              direction="The provider sends people back to this; enter it there"
              value={returnAddress(ctx)}
              note="Enter the address of the sign-in page there, too, as the one after signing out."
            />
            {provider && (
              <ActionButton
                action={removeProviderAction}
                tone="danger"
                confirm={{
                  title: 'Remove the identity provider',
                  consequence:
                    'Whoever has no password here comes in only by a link an owner makes. Sessions go on until they end.',
                  go: 'Remove it',
                }}
              >
                Remove it
              </ActionButton>
            )}
          </div>
        </div>
      </Section>
    </Page>
  );
}

function Standing({ provider: { provenAt, changedAt, signsOut } }: { provider: ProviderView }) {
  return (
    <>
      {provenAt === undefined ? (
        <>
          Saved <Age at={changedAt} past />; nobody has come in through it yet, so it is not proven.
        </>
      ) : (
        <>
          Proven: somebody came in through it <Age at={provenAt} past />.
        </>
      )}
      {!signsOut && ' It does not sign people out there.'}
    </>
  );
}
