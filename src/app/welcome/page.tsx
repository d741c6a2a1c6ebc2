import { redirect } from 'next/navigation';
import { hasOwner } from '../../operations/people';
import { GatePage } from '../../ui/shell/GatePage';
import { windgap } from '../_server/windgap';
import { WelcomeForm } from './WelcomeForm';

export default async function WelcomePage() {
  if (await hasOwner(await windgap())) redirect('/sign-in');
  return (
    <GatePage
      title="First owner"
      purpose="This installation is empty. The account you make now owns it and can add everybody else."
    >
      <WelcomeForm />
    </GatePage>
  );
}
