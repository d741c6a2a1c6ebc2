import { listAccounts } from '../../../../../operations/accounts';
import { hasRole } from '../../../../../operations/context';
import { getProfile, listProfiles } from '../../../../../operations/profiles';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { buttonClass } from '../../../../../ui/primitives/Button';
import { Page } from '../../../../../ui/primitives/layout';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { removeProfileAction } from '../actions';
import { ProfileEditor } from '../ProfileEditor';

export default async function ProfilePage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor } = await signedIn();
  const { id } = await params;
  const { text, shipped } = await orNotFound(getProfile(ctx, actor, id));
  const admin = hasRole(actor, 'administrator');
  const summary = (await listProfiles(ctx, actor)).find((profile) => profile.id === id);
  const accounts = (await listAccounts(ctx, actor)).filter(({ connector }) => connector.id === id);
  return (
    <Page
      title={summary?.name ?? id}
      purpose={
        shipped
          ? 'Ships with Windgap: read it, try it, export it; a copy with another id can be changed.'
          : summary?.summary
      }
      actions={
        <>
          <a href={`/connect/profiles/${id}/export`} className={`plain ${buttonClass()}`} download={`${id}.yaml`}>
            Export
          </a>
          {admin && !shipped && accounts.length === 0 && (
            <ActionButton
              tone="danger"
              action={removeProfileAction.bind(null, id)}
              confirm={{
                title: `Remove ${id}?`,
                consequence: 'No account is connected through it. The text is gone.',
                go: 'Remove it',
              }}
            >
              Remove
            </ActionButton>
          )}
        </>
      }
    >
      <ProfileEditor
        initial={text}
        editing={shipped ? undefined : id}
        readOnly={shipped || !admin}
        mayTry={admin}
        accounts={accounts.map(({ account }) => [account.id, account.name])}
      />
    </Page>
  );
}
