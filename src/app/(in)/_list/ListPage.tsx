import type { ReactNode } from 'react';
import { hasRole, type Topic } from '../../../operations/context';
import { listViews } from '../../../operations/shell';
import { List, type ListProps } from '../../../ui/list/List';
import { Empty, Page } from '../../../ui/primitives/layout';
import { LiveRefresh } from '../../../ui/shell/LiveRefresh';
import { signedIn } from '../../_server/session';
import { KeptViews } from './KeptViews';

interface ListPageProps<Row> extends Omit<ListProps<Row>, 'name' | 'caption'> {
  /** The list for people who hear it; the title where it says the same. */
  caption?: string;
  title: string;
  purpose: string;
  /** Its path: what its columns and views are kept under. */
  page: string;
  /** What there is to do, in the head of the page. */
  actions?: ReactNode;
  /** Read before the rows were, so that no change falls in between. */
  since: number;
  topics: readonly Topic[];
  /** Where there is no row at all: why, and the next step. */
  empty: { what: string; next?: ReactNode };
  /** Stands between the head and the list. */
  children?: ReactNode;
  /** Stands below the list. */
  after?: ReactNode;
}

/** A page that is a list: its head, its kept views, the list, and what is said where there is nothing. */
export async function ListPage<Row>(props: ListPageProps<Row>) {
  const { title, purpose, page, actions, since, topics, empty, children, after, caption = title, ...list } = props;
  const { ctx, actor } = await signedIn();
  const views = await listViews(ctx, actor, page);
  return (
    <Page title={title} purpose={purpose} actions={actions}>
      <LiveRefresh since={since} topics={topics} />
      <KeptViews page={page} views={views} mayKeep={hasRole(actor, 'agent')} />
      {children}
      {list.rows.length === 0 ? (
        <Empty what={empty.what} next={empty.next} />
      ) : (
        <List name={page} caption={caption} {...list} />
      )}
      {after && <div className="mt-6">{after}</div>}
    </Page>
  );
}
