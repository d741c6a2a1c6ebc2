import { notFound } from 'next/navigation';
import { hasRole } from '../../../operations/context';
import { getMailAccount, mailboxesForNotices } from '../../../operations/people';
import { Page, Panel } from '../../../ui/primitives/layout';
import { Age } from '../../../ui/primitives/Time';
import { signedIn } from '../../_server/session';
import { MailForm } from './MailForm';

export default async function MailPage() {
  const { ctx, actor } = await signedIn();
  if (!hasRole(actor, 'administrator')) notFound();
  const account = await getMailAccount(ctx, actor);
  return (
    <Page
      title="Mail"
      purpose="The mail account that notices to your people leave through: answers to reminders, missed calls."
    >
      <p className="mb-4">
        {account ? (
          <>
            Notices leave through {account.host} as {account.from}; a trial was taken <Age at={account.changedAt} />.
          </>
        ) : (
          'No mail account is set, so no notice can be sent.'
        )}
      </p>
      <Panel className="max-w-[560px] p-4">
        <MailForm present={account} mailboxes={await mailboxesForNotices(ctx, actor)} />
      </Panel>
    </Page>
  );
}
