'use client';

import { useRouter } from 'next/navigation';
import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { FlowBucket } from '../../../../operations/log';

/** In the order in which they stand on each other; state is told by place and word too. */
const PARTS = [
  ['delivered', 'Delivered', 'var(--moss)'],
  ['underWay', 'In progress', 'var(--line-strong)'],
  ['failed', 'Failed', 'var(--clay)'],
] as const;

/** What went out and came in, bucket by bucket; a bar leads to its messages. */
export function FlowChart({ buckets, step }: { buckets: readonly FlowBucket[]; step: number }) {
  const router = useRouter();
  const short = new Intl.DateTimeFormat(
    'en-GB',
    step < 4 * 3_600_000 ? { hour: '2-digit', minute: '2-digit' } : { weekday: 'short', hour: '2-digit' },
  );
  const open = (bucket: FlowBucket | undefined) => {
    if (!bucket) return;
    const query = new URLSearchParams({
      since: new Date(bucket.at).toISOString(),
      until: new Date(bucket.at + step).toISOString(),
    });
    router.push(`/watch/messages?${query}`);
  };
  const rows = buckets.map((bucket) => ({ ...bucket, label: short.format(bucket.at) }));
  return (
    <div>
      <ul className="mb-1 flex flex-wrap gap-x-4 text-[13px] text-soft">
        <li>
          <Swatch colour="var(--heather)" /> Received
        </li>
        {PARTS.map(([key, word, colour]) => (
          <li key={key}>
            <Swatch colour={colour} /> {word}
          </li>
        ))}
      </ul>
      <div className="h-64" aria-hidden>
        <ResponsiveContainer width="100%" height="100%">
          <BarChart
            data={rows}
            accessibilityLayer={false}
            margin={{ top: 4, right: 4, bottom: 0, left: -18 }}
            barCategoryGap="22%"
            onClick={(state) => open(buckets[Number(state.activeTooltipIndex)])}
          >
            <CartesianGrid vertical={false} stroke="var(--line)" />
            <XAxis
              dataKey="label"
              tick={{ fontSize: 11, fill: 'var(--soft)' }}
              stroke="var(--line)"
              interval="preserveStartEnd"
            />
            <YAxis allowDecimals={false} tick={{ fontSize: 11, fill: 'var(--soft)' }} stroke="var(--line)" />
            <Tooltip
              cursor={{ fill: 'var(--hover)' }}
              contentStyle={{
                background: 'var(--panel)',
                border: '1px solid var(--line)',
                borderRadius: 6,
                fontSize: 13,
              }}
              labelStyle={{ color: 'var(--ink)' }}
              itemStyle={{ color: 'var(--ink)' }}
            />
            <Bar dataKey="received" name="Received" fill="var(--heather)" isAnimationActive={false} />
            {PARTS.map(([key, word, colour]) => (
              <Bar key={key} dataKey={key} name={word} stackId="out" fill={colour} isAnimationActive={false} />
            ))}
          </BarChart>
        </ResponsiveContainer>
      </div>
    </div>
  );
}

function Swatch({ colour }: { colour: string }) {
  return <span className="mr-1 inline-block size-2.5 rounded-[2px]" style={{ background: colour }} aria-hidden />;
}
