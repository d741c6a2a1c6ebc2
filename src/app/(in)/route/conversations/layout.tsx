import type { ReactNode } from 'react';
import { listConversations } from '../../../../operations/conversations';
import { ConversationList } from '../../../../ui/domain/ConversationList';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';

export default async function ConversationsLayout({ children }: { children: ReactNode }) {
  const { w, actor, since } = await signedIn();
  const conversations = await listConversations(w, actor);
  return (
    <div className="-mx-4 -my-5 flex min-h-[calc(100vh-1px)] flex-col md:-mx-8 md:h-screen md:flex-row">
      <LiveRefresh since={since} topics={['conversation']} />
      <ConversationList conversations={conversations} />
      <div className="flex min-w-0 flex-1 flex-col">{children}</div>
    </div>
  );
}
