import { hasRole } from '../../../../../operations/context';
import { Empty, Page } from '../../../../../ui/primitives/layout';
import { signedIn } from '../../../../_server/session';
import { Drafting } from './Drafting';

export default async function DraftProfilePage() {
  const { actor } = await signedIn();
  if (!hasRole(actor, 'administrator')) return <Empty what="Administrators add connector profiles." />;
  return (
    <Page
      title="Draft a profile from a document"
      purpose="Paste the provider’s OpenAPI document, and samples of its answers and posts. What can be read of them is filled in; correct the mapping where it is wrong."
    >
      <Drafting />
    </Page>
  );
}
