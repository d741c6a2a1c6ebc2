import { cause } from '../../../../../../core/delivery/causes';
import type { HookPostView } from '../../../../../../operations/apps/hooks';
import { ProofMark } from '../../../../../../ui/domain/ProofMark';
import { Link } from '../../../../../../ui/primitives/Link';
import { Empty } from '../../../../../../ui/primitives/layout';
import { Table } from '../../../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../../../ui/primitives/Time';
import { PostDialog } from './PostDialog';

/** Every post, newest first: what was answered, what became of it, and the post itself. */
export function Posts({ posts }: { posts: readonly HookPostView[] }) {
  if (posts.length === 0) return <Empty what="Nothing has been posted to this address yet." />;
  return (
    <Table
      caption="Requests"
      rows={posts}
      keyOf={({ post }) => post.id}
      columns={[
        { head: 'Received', className: 'whitespace-nowrap', cell: ({ post }) => <ClockTime at={post.receivedAt} /> },
        { head: 'Answered', figures: true, cell: ({ post }) => post.answerStatus },
        { head: 'Outcome', cell: (row) => <Became row={row} /> },
        {
          head: 'View',
          cell: ({ post }) => (
            <PostDialog
              evidence={{
                id: post.id,
                title: 'The app called Windgap',
                at: post.receivedAt,
                request: { line: `${post.method} ${post.path}`, headers: post.headers, body: post.body },
                response: { line: `Status ${post.answerStatus}`, headers: {}, body: post.reason ?? '' },
              }}
              findings={post.findings ?? []}
            />
          ),
        },
      ]}
    />
  );
}

function Became({ row: { post, run, messageId } }: { row: HookPostView }) {
  if (post.state === 'sample') return <>Kept as a sample: there was no message to make of it.</>;
  if (post.state === 'refused')
    return (
      <span className="text-clay">
        <ProofMark state="broken" label="" size={11} /> {post.cause ? cause(post.cause).title : 'Refused'}.{' '}
        {post.reason}
      </span>
    );
  if (post.broadcastId)
    return (
      <>
        Began <Link href={`/send/broadcasts/${post.broadcastId}`}>a broadcast</Link>
      </>
    );
  const last = run?.results.at(-1);
  if (run?.state === 'failed')
    return (
      <span className="text-clay">
        <ProofMark state="broken" label="" size={11} /> {last?.finding?.problem ?? last?.said}{' '}
        <span className="text-ink">{last?.finding?.remedy}</span>
      </span>
    );
  if (messageId)
    return (
      <>
        {last?.said}: <Link href={`/watch/messages/${messageId}`}>its trail</Link>
      </>
    );
  return run ? (
    <>
      Next step <Age at={run.dueAt} />
    </>
  ) : (
    <>Accepted</>
  );
}
