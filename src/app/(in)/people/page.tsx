import { hasRole } from '../../../operations/context';
import { listPeople } from '../../../operations/people';
import { TextField } from '../../../ui/forms/ActionForm';
import { DialogForm } from '../../../ui/forms/DialogForm';
import { List } from '../../../ui/list/List';
import { Page } from '../../../ui/primitives/layout';
import { ClockTime } from '../../../ui/primitives/Time';
import { signedIn } from '../../_server/session';
import { AddPerson } from './AddPerson';
import { changePersonAction } from './actions';

export default async function PeoplePage() {
  const { ctx, actor } = await signedIn();
  const people = await listPeople(ctx, actor);
  return (
    <Page
      title="People"
      purpose="Owners and administrators set everything up, agents answer people, viewers read."
      actions={hasRole(actor, 'owner') && <AddPerson />}
    >
      <List
        name="/people"
        caption="People"
        rows={people}
        keyOf={(person) => person.id}
        columns={[
          { head: 'Name', cell: (person) => person.name },
          { head: 'E-mail', cell: (person) => person.email },
          { head: 'Role', cell: (person) => person.role },
          { head: 'Team', cell: (person) => person.team ?? '' },
          { head: 'Can start conversations', cell: (person) => (person.mayStart ? 'yes' : 'no') },
          { head: 'Since', value: (person) => person.createdAt, cell: (person) => <ClockTime at={person.createdAt} /> },
          {
            head: '',
            cell: (person) => (
              <DialogForm
                open="Change"
                tone="quiet"
                label={`Change ${person.name}`}
                title={person.name}
                submit="Save"
                action={changePersonAction.bind(null, person.id)}
              >
                <TextField
                  name="team"
                  label="Team"
                  initial={person.team ?? ''}
                  help="Routes give conversations to teams, or to their people in turn."
                />
                <label className="flex items-center gap-2">
                  <input type="checkbox" name="mayStart" value="on" defaultChecked={person.mayStart} />
                  Can start conversations with people who never wrote
                </label>
                <label className="flex items-center gap-2">
                  <input type="checkbox" name="mailMe" value="on" defaultChecked={person.mailMe} />
                  Gets an e-mail when a contact writes in a conversation assigned to them
                </label>
              </DialogForm>
            ),
          },
        ]}
      />
    </Page>
  );
}
