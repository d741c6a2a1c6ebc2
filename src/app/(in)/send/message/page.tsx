import { nameOfContact } from '../../../../operations/broadcasts';
import { hasRole } from '../../../../operations/context';
import { Page } from '../../../../ui/primitives/layout';
import { signedIn } from '../../../_server/session';
import { MessageForm } from './MessageForm';

interface Props {
  searchParams: Promise<Record<string, string | string[] | undefined>>;
}

export default async function MessagePage({ searchParams }: Props) {
  const { ctx, actor } = await signedIn();
  const { to: given } = await searchParams;
  const to = typeof given === 'string' ? given.slice(0, 200) : '';
  const name = to.startsWith('con_') ? await nameOfContact(ctx, actor, to) : undefined;
  return (
    <Page
      title="New message"
      purpose="To one person, over whichever channel reaches them. What stands against it is said before it is sent."
    >
      {hasRole(actor, 'agent') ? (
        <MessageForm to={to.startsWith('con_') && name === undefined ? '' : to} name={name} />
      ) : (
        <p>Viewers read; agents write.</p>
      )}
    </Page>
  );
}
