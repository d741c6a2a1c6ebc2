import { hasRole, type Role } from '../../../operations/context';
import { hasMail, type ListedPerson, listPeople } from '../../../operations/people';
import { ActionButton } from '../../../ui/forms/ActionButton';
import { CheckField, SelectField, TextField } from '../../../ui/forms/ActionForm';
import { DialogForm } from '../../../ui/forms/DialogForm';
import { OneTimeValue } from '../../../ui/forms/OneTimeValue';
import { List } from '../../../ui/list/List';
import { Link } from '../../../ui/primitives/Link';
import { Page } from '../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../ui/primitives/Time';
import { signedIn } from '../../_server/session';
import {
  changePersonAction,
  changeRoleAction,
  clearFactorsAction,
  entryCodeAction,
  inviteAction,
  switchOffAction,
  switchOnAction,
} from './actions';

const ROLES: [Role, string][] = [
  ['administrator', 'Administrator: everything but people'],
  ['agent', 'Agent: conversations'],
  ['viewer', 'Viewer: reads'],
  ['owner', 'Owner: everything'],
];

export default async function PeoplePage() {
  const { ctx, actor } = await signedIn();
  const [people, mail] = await Promise.all([listPeople(ctx, actor), hasMail(ctx)]);
  const owner = hasRole(actor, 'owner');
  return (
    <Page
      title="People"
      purpose="Owners and administrators set everything up, agents answer people, viewers read."
      actions={
        <span className="flex flex-wrap items-center gap-3">
          <Link href="/people/teams">Teams</Link>
          {owner && <Link href="/people/sign-in">Sign-in</Link>}
          {owner && <Invite mail={mail} />}
        </span>
      }
    >
      <List
        name="/people"
        caption="People"
        rows={people}
        keyOf={(person) => person.id}
        columns={[
          { head: 'Name', value: ({ name }) => name, cell: (person) => person.name },
          { head: 'E-mail', value: ({ email }) => email, cell: (person) => person.email },
          { head: 'Role', value: ({ role }) => role, cell: (person) => person.role },
          { head: 'Teams', value: ({ teams }) => teams.join(', '), cell: ({ teams }) => teams.join(', ') },
          { head: 'Second factor', value: ({ factor }) => factor, cell: ({ factor }) => factor },
          { head: 'Starts conversations', cell: (person) => (person.mayStart ? 'yes' : 'no') },
          { head: 'Last here', value: ({ seenAt }) => seenAt ?? 0, cell: (person) => <Standing person={person} /> },
          {
            head: 'Change',
            cell: (person) => (
              <Changes person={person} people={people} owner={owner} self={person.id === actor.id} mail={mail} />
            ),
          },
        ]}
      />
    </Page>
  );
}

function Standing({ person: { offSince, invited, seenAt } }: { person: ListedPerson }) {
  if (offSince !== null)
    return (
      <span className="text-clay">
        switched off <ClockTime at={offSince} />
      </span>
    );
  if (invited) return <span className="text-ochre-ink">invited, no password yet</span>;
  return seenAt === null ? 'never' : <Age at={seenAt} past />;
}

function Invite({ mail }: { mail: boolean }) {
  return (
    <OneTimeValue
      open="Invite a person"
      title="Invite a person"
      submit="Make the invitation"
      action={inviteAction}
      value="link"
      valueLabel="Invitation"
      direction="The person opens this once and chooses a password"
      note="Shown this once, for seven days. Hand it over yourself, or mail it."
    >
      <TextField name="name" label="Name" />
      <TextField name="email" label="E-mail" type="email" />
      <SelectField name="role" label="Role" initial="agent" options={ROLES} />
      {mail && <ByMail />}
    </OneTimeValue>
  );
}

interface ChangesProps {
  person: ListedPerson;
  people: ListedPerson[];
  owner: boolean;
  self: boolean;
  /** Links can be mailed from here. */
  mail: boolean;
}

function ByMail() {
  return <CheckField name="byMail" label="Mail it to them" initial help="Otherwise it is shown here, to hand over." />;
}

function Changes({ person, people, owner, self, mail }: ChangesProps) {
  const off = person.offSince !== null;
  return (
    <span className="flex flex-wrap gap-2">
      {!off && (
        <DialogForm
          open="Change"
          label={`Change ${person.name}`}
          title={person.name}
          submit="Save"
          action={changePersonAction.bind(null, person.id)}
        >
          <TextField
            name="teams"
            label="Teams"
            initial={person.teams.join(', ')}
            help="Several with commas. Routes give conversations to teams, or to their people in turn."
          />
          <CheckField
            name="mayStart"
            label="Can start conversations with people who never wrote"
            initial={person.mayStart}
          />
          <CheckField
            name="mailMe"
            label="Gets an e-mail when a contact writes in a conversation assigned to them"
            initial={person.mailMe}
          />
        </DialogForm>
      )}
      {owner && !off && (
        <DialogForm
          open="Role"
          label={`Role of ${person.name}`}
          title={`Role of ${person.name}`}
          description="It counts with their next click; they sign in once more."
          submit="Save"
          action={changeRoleAction.bind(null, person.id)}
        >
          <SelectField name="role" label="Role" initial={person.role} options={ROLES} />
        </DialogForm>
      )}
      {owner && !off && !self && (
        <>
          <OneTimeValue
            open={person.invited ? 'Invite again' : 'New password'}
            label={`${person.invited ? 'Invite' : 'New password for'} ${person.name}`}
            title={person.invited ? `Invite ${person.name} again` : `A new password for ${person.name}`}
            submit="Make the link"
            action={entryCodeAction.bind(null, person.id)}
            value="link"
            valueLabel="Link"
            direction={`${person.name} opens this once and chooses a password`}
            note="Shown this once. The one before no longer works."
          >
            <p>Make sure that it is {person.name} who asks: whoever has the link comes in as them.</p>
            {mail && <ByMail />}
          </OneTimeValue>
          {person.factor !== 'none' && person.factor !== 'identity provider' && (
            <ActionButton
              action={clearFactorsAction.bind(null, person.id)}
              confirm={{
                title: `Take the second factor of ${person.name} away`,
                consequence:
                  'Their passkeys, one-time codes and recovery codes open nothing any more. They are signed out, and sign in with the password alone until they set up another one.',
                go: 'Take it away',
              }}
            >
              Lost device
            </ActionButton>
          )}
          <DialogForm
            open="Switch off"
            tone="danger"
            label={`Switch ${person.name} off`}
            title={`Switch ${person.name} off`}
            description="They are out with their next click. What they did stays on record; it can be switched on again."
            submit="Switch off"
            action={switchOffAction.bind(null, person.id)}
          >
            <SelectField
              name="heir"
              label="Their conversations and to-dos go to"
              options={[
                ['', 'nobody in particular'],
                ...people
                  .filter(({ id, offSince }) => id !== person.id && offSince === null)
                  .map(({ id, name }): [string, string] => [id, name]),
              ]}
            />
          </DialogForm>
        </>
      )}
      {owner && off && <ActionButton action={switchOnAction.bind(null, person.id)}>Switch on again</ActionButton>}
    </span>
  );
}
