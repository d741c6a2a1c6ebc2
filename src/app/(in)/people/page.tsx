import { hasRole } from '../../../operations/actor';
import { listPeople } from '../../../operations/people';
import { Page } from '../../../ui/primitives/layout';
import { Table } from '../../../ui/primitives/Table';
import { ClockTime } from '../../../ui/primitives/Time';
import { signedIn } from '../../_server/session';
import { AddPerson } from './AddPerson';

export const metadata = { title: 'People' };

export default async function PeoplePage() {
  const { w, actor } = await signedIn();
  const people = await listPeople(w, actor);
  return (
    <Page
      title="People"
      purpose="Owners and administrators set everything up, agents answer people, viewers read."
      actions={hasRole(actor, 'owner') && <AddPerson />}
    >
      <Table
        caption="People"
        rows={people}
        keyOf={(person) => person.id}
        columns={[
          { head: 'Name', cell: (person) => person.name },
          { head: 'E-mail', cell: (person) => person.email },
          { head: 'Role', cell: (person) => person.role },
          { head: 'Since', cell: (person) => <ClockTime at={person.createdAt} /> },
        ]}
      />
    </Page>
  );
}
