import type { ReactNode } from 'react';
import { hasRole } from '../../../../operations/context';
import { countViews, idleRule, listConversations } from '../../../../operations/conversations';
import { ConversationList } from '../../../../ui/domain/ConversationList';
import { NewReplies } from '../../../../ui/domain/NewReplies';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { signedIn } from '../../../_server/session';
import { listAction } from './actions';
import { IdleRule } from './IdleRule';

export default async function ConversationsLayout({ children }: { children: ReactNode }) {
  const { ctx, actor, since } = await signedIn();
  const [working, counts, idle] = await Promise.all([
    listConversations(ctx, actor, '', 'working'),
    countViews(ctx, actor),
    idleRule(ctx),
  ]);
  return (
    <div className="-mx-4 -my-5 flex min-h-[calc(100vh-122px)] flex-col md:-mx-8 md:h-[calc(100vh-80px)] md:min-h-0 md:flex-row">
      <LiveRefresh since={since} topics={['conversation']} />
      <ConversationList
        working={working}
        counts={counts}
        look={listAction}
        foot={
          <>
            <NewReplies conversations={working} />
            {hasRole(actor, 'agent') && (
              <Link href="/send/message" className={`plain ${buttonClass()}`}>
                New message
              </Link>
            )}
            {hasRole(actor, 'administrator') && <IdleRule rule={idle} />}
          </>
        }
      />
      <div className="flex min-w-0 flex-1 flex-col">{children}</div>
    </div>
  );
}
