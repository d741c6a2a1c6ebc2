import { redirect } from 'next/navigation';
import { hasOwner, providerOffered, relyingPartyOf } from '../../operations/people';
import { GatePage } from '../../ui/shell/GatePage';
import { currentPerson, keptSaid, localPath } from '../_server/session';
import { windgap } from '../_server/windgap';
import { SignInForm } from './SignInForm';

interface Props {
  searchParams: Promise<{ next?: string }>;
}

export default async function SignInPage({ searchParams }: Props) {
  const { next } = await searchParams;
  const said = await keptSaid();
  const path = localPath(typeof next === 'string' ? next : '/');
  const ctx = await windgap();
  if (await currentPerson()) redirect(path);
  if (!(await hasOwner(ctx))) redirect('/welcome');
  return (
    <GatePage title="Sign in">
      {said && (
        <p role="alert" className="mb-4 rounded border border-clay px-3 py-2 text-clay">
          {said}
        </p>
      )}
      <SignInForm next={path} passkeys={'id' in relyingPartyOf(ctx.config)} provider={await providerOffered(ctx)} />
    </GatePage>
  );
}
