'use client';

import { Area, AreaChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { CourseBar } from '../../../../../operations/broadcasts';

/** Each has a colour and a dash of its own, so that neither alone tells them apart. */
const LINES = [
  ['left', 'Left', 'var(--ridge)', undefined],
  ['arrived', 'Arrived', 'var(--moss)', undefined],
  ['failed', 'Failed', 'var(--clay)', '4 3'],
] as const;

/** How many had left, arrived and failed by when. The figures stand above it as text. */
export function CourseChart({ bars, step, until }: { bars: readonly CourseBar[]; step: number; until: number }) {
  const form = new Intl.DateTimeFormat('en-GB', {
    ...((bars.length - 1) * step > 20 * 3_600_000 ? { weekday: 'short' } : {}),
    hour: '2-digit',
    minute: '2-digit',
  });
  const rows = summed(bars, step, until).map((bar) => ({ ...bar, label: form.format(bar.at) }));
  const shown = LINES.filter(([key]) => rows.some((row) => row[key] > 0));
  return (
    <div className="mt-3">
      <ul className="mb-1 flex flex-wrap gap-x-4 text-[13px] text-soft">
        {shown.map(([key, word, colour, dash]) => (
          <li key={key}>
            <span
              className={`mr-1 inline-block w-4 border-t-2 align-middle ${dash ? 'border-dashed' : ''}`}
              style={{ borderColor: colour }}
              aria-hidden
            />
            {word}
          </li>
        ))}
      </ul>
      <div className="h-44" aria-hidden data-course>
        <ResponsiveContainer width="100%" height="100%">
          <AreaChart data={rows} accessibilityLayer={false} margin={{ top: 4, right: 4, bottom: 0, left: -18 }}>
            <CartesianGrid vertical={false} stroke="var(--line)" />
            <XAxis
              dataKey="label"
              tick={{ fontSize: 11, fill: 'var(--soft)' }}
              stroke="var(--line)"
              interval="preserveStartEnd"
              minTickGap={40}
            />
            <YAxis allowDecimals={false} tick={{ fontSize: 11, fill: 'var(--soft)' }} stroke="var(--line)" />
            <Tooltip
              contentStyle={{
                background: 'var(--panel)',
                border: '1px solid var(--line)',
                borderRadius: 6,
                fontSize: 13,
              }}
              labelStyle={{ color: 'var(--ink)' }}
              itemStyle={{ color: 'var(--ink)' }}
            />
            {shown.map(([key, word, colour, dash]) => (
              <Area
                key={key}
                type="linear"
                dataKey={key}
                name={word}
                stroke={colour}
                strokeWidth={2}
                strokeDasharray={dash}
                fill={colour}
                fillOpacity={0.08}
                isAnimationActive={false}
              />
            ))}
          </AreaChart>
        </ResponsiveContainer>
      </div>
    </div>
  );
}

/** From nothing at the beginning of the first, to what there was at the end of each; the last is not over yet. */
function summed(bars: readonly CourseBar[], step: number, until: number): CourseBar[] {
  const sum = { left: 0, arrived: 0, failed: 0 };
  return [
    { at: bars[0]?.at ?? 0, ...sum },
    ...bars.map(({ at, left, arrived, failed }) => {
      sum.left += left;
      sum.arrived += arrived;
      sum.failed += failed;
      return { at: Math.min(at + step, until), ...sum };
    }),
  ];
}
