import { hasRole } from '../../../../../operations/context';
import { Empty, Page } from '../../../../../ui/primitives/layout';
import { signedIn } from '../../../../_server/session';
import { ProfileEditor } from '../ProfileEditor';
import { STARTER } from '../starter';

export default async function NewProfilePage() {
  const { actor } = await signedIn();
  if (!hasRole(actor, 'administrator')) return <Empty what="Administrators add connector profiles." />;
  return (
    <Page
      title="Add a connector profile"
      purpose="Fill in what the provider’s documentation says, try each part against a live account, then save."
    >
      <ProfileEditor initial={STARTER} accounts={[]} />
    </Page>
  );
}
