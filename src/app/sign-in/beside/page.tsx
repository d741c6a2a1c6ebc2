import { redirect } from 'next/navigation';
import { GatePage } from '../../../ui/shell/GatePage';
import { currentPerson } from '../../_server/session';
import { TellOthers } from './TellOthers';

/** Where a sign-in beside another page ends: that page goes on by itself. */
export default async function BesidePage() {
  const person = await currentPerson();
  if (!person) redirect('/sign-in?next=/sign-in/beside');
  return (
    <GatePage title="You are signed in" purpose="Go back to the other page: it goes on where you were.">
      <TellOthers personId={person.id} />
    </GatePage>
  );
}
