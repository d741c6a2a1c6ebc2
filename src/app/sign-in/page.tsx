import { redirect } from 'next/navigation';
import { hasOwner } from '../../operations/people';
import { GatePage } from '../../ui/shell/GatePage';
import { currentPerson } from '../_server/session';
import { windgap } from '../_server/windgap';
import { SignInForm } from './SignInForm';

export default async function SignInPage() {
  if (await currentPerson()) redirect('/');
  if (!(await hasOwner(await windgap()))) redirect('/welcome');
  return (
    <GatePage title="Sign in">
      <SignInForm />
    </GatePage>
  );
}
