import { getFactors, listSessions, relyingPartyOf } from '../../../operations/people';
import { ActionButton } from '../../../ui/forms/ActionButton';
import { ActionForm, TextField } from '../../../ui/forms/ActionForm';
import { Facts, Page, Panel, Section } from '../../../ui/primitives/layout';
import { Table } from '../../../ui/primitives/Table';
import { Age } from '../../../ui/primitives/Time';
import { signedIn } from '../../_server/session';
import { endOthersAction, endSessionAction, passwordAction } from './actions';
import { SecondFactorSection } from './SecondFactorSection';

/** One's own account: where one is signed in, and the password. */
export default async function YouPage() {
  const { ctx, actor, person, sessionId } = await signedIn();
  const [sessions, factors] = await Promise.all([listSessions(ctx, actor, sessionId), getFactors(ctx, actor)]);
  const party = relyingPartyOf(ctx.config);
  return (
    <Page title="Your account" purpose="What you sign in with, and where you are signed in.">
      <Panel className="mb-5 max-w-[560px] p-4">
        <Facts
          items={[
            ['Name', person.name],
            ['E-mail', person.email],
            ['Role', person.role],
          ]}
        />
      </Panel>
      <Section
        title="Signed in"
        id="sessions"
        aside={sessions.length > 1 && <ActionButton action={endOthersAction}>End all others</ActionButton>}
      >
        <Table
          caption="Sessions"
          rows={sessions}
          keyOf={({ id }) => id}
          columns={[
            { head: 'With', cell: ({ browser, here }) => (here ? `${browser} (this one)` : browser) },
            { head: 'By', cell: ({ way }) => way },
            { head: 'From', cell: ({ address }) => address },
            { head: 'Since', cell: ({ began }) => <Age at={began} past /> },
            { head: 'Last here', cell: ({ seen }) => <Age at={seen} past /> },
            {
              head: 'End',
              cell: ({ id, here }) =>
                !here && <ActionButton action={endSessionAction.bind(null, id)}>End it</ActionButton>,
            },
          ]}
        />
        <p className="mt-2 text-soft">A session ends after a day alone, and after two weeks at the latest.</p>
      </Section>
      <SecondFactorSection factors={factors} noPasskeys={'problem' in party ? party.problem : undefined} />
      <Section title="Password" id="password">
        <Panel className="max-w-[560px] p-4">
          <ActionForm action={passwordAction} submit="Change the password">
            <TextField name="present" label="Present password" type="password" autoComplete="current-password" />
            <TextField
              name="password"
              label="New password"
              type="password"
              autoComplete="new-password"
              help="At least 15 characters. Everywhere else you are signed out."
            />
          </ActionForm>
        </Panel>
      </Section>
    </Page>
  );
}
