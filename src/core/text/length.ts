const UNITS: [name: string, ms: number][] = [
  ['day', 86_400_000],
  ['hour', 3_600_000],
  ['minute', 60_000],
  ['second', 1000],
];

/** "3 days 2 hours": a length of time in its two largest units. */
export function wordsOfLength(ms: number): string {
  const counted = UNITS.map(([name, size], index) => {
    const above = UNITS[index - 1]?.[1];
    return [Math.floor((above ? ms % above : ms) / size), name] as const;
  });
  const first = counted.findIndex(([count]) => count > 0);
  if (first < 0) return 'less than a second';
  return counted
    .slice(first, first + 2)
    .filter(([count]) => count > 0)
    .map(([count, name]) => `${count} ${count === 1 ? name : `${name}s`}`)
    .join(' ');
}
