import { channelKind } from '../../../../core/connect/channelKinds';
import { hasRole } from '../../../../operations/context';
import { listProfiles } from '../../../../operations/profiles';
import { List } from '../../../../ui/list/List';
import { buttonClass } from '../../../../ui/primitives/Button';
import { Link } from '../../../../ui/primitives/Link';
import { Page } from '../../../../ui/primitives/layout';
import { Age } from '../../../../ui/primitives/Time';
import { signedIn } from '../../../_server/session';

export default async function ProfilesPage() {
  const { ctx, actor } = await signedIn();
  const profiles = await listProfiles(ctx, actor);
  return (
    <Page
      title="Connector profiles"
      purpose="How Windgap speaks to each provider, as text: requests, paths, signatures, causes. A provider never seen before needs a profile and no code."
      actions={
        hasRole(actor, 'administrator') && (
          <>
            <Link href="/connect/profiles/draft" className={`plain ${buttonClass()}`}>
              Draft from a document
            </Link>
            <Link href="/connect/profiles/new" className={`plain ${buttonClass('primary')}`}>
              Add a profile
            </Link>
          </>
        )
      }
    >
      <List
        name="/connect/profiles"
        caption="Connector profiles"
        rows={profiles}
        keyOf={(profile) => profile.id}
        columns={[
          { head: 'Profile', cell: ({ id, name }) => <Link href={`/connect/profiles/${id}`}>{name}</Link> },
          { head: 'Id', cell: ({ id }) => <code className="text-xs">{id}</code> },
          { head: 'Kind', cell: ({ kind }) => channelKind(kind).name },
          { head: 'What it is', className: 'w-full', cell: ({ summary }) => summary },
          { head: 'Accounts', figures: true, cell: ({ accounts }) => accounts },
          {
            head: 'From',
            className: 'whitespace-nowrap',
            cell: ({ shipped, changedAt, changedBy, findings }) =>
              findings.length > 0 ? (
                <span className="text-clay">■ cannot be read</span>
              ) : shipped || changedAt === undefined ? (
                'ships with Windgap'
              ) : (
                <>
                  {changedBy}, <Age at={changedAt} />
                </>
              ),
          },
        ]}
      />
      <p className="mt-3 text-[13px] text-soft">
        The format is published as JSON Schema at{' '}
        <a href="/schemas/connector-profile-1.json">/schemas/connector-profile-1.json</a>.
      </p>
    </Page>
  );
}
