import { searchableAccounts } from '../../../../../operations/accounts';
import { hasRole } from '../../../../../operations/context';
import { countriesOursFirst } from '../../../../../operations/organisation';
import { Empty, Page } from '../../../../../ui/primitives/layout';
import { signedIn } from '../../../../_server/session';
import { NumberSearch } from './NumberSearch';

export default async function SearchPage({ searchParams }: { searchParams: Promise<{ account?: string }> }) {
  const { ctx, actor } = await signedIn();
  const accounts = await searchableAccounts(ctx, actor);
  const { account } = await searchParams;
  const countries = await countriesOursFirst(ctx.store);
  return (
    <Page
      title="Search for a number"
      purpose="By country, area and wanted digits, nearest first. The price is shown before anything is claimed."
    >
      {accounts.length === 0 || !hasRole(actor, 'administrator') ? (
        <Empty what="No connected provider lets numbers be searched from here, or your role does not allow it." />
      ) : (
        <NumberSearch
          accounts={accounts.map(({ id, name }) => [id, name])}
          countries={countries}
          initial={accounts.find(({ id }) => id === account)?.id ?? accounts[0]?.id ?? ''}
        />
      )}
    </Page>
  );
}
