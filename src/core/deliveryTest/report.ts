/**
 * Runs as JUnit XML: one suite, a case per test, a failure with every expectation that did not
 * hold. The dialect is the one build servers share: `testsuites`, `testsuite`, `testcase`,
 * `failure`, `skipped`, `properties`, `system-out`; times in seconds.
 */
import { cause } from '../delivery/causes';
import type { Round } from './judge';

export interface ReportedRun {
  id: string;
  name: string;
  words: string;
  state: 'passed' | 'failed' | 'stopped' | 'waiting' | 'running';
  startedAt?: number;
  endedAt?: number;
  rounds: readonly Round[];
  problem?: string;
}

export function junitXml(runs: readonly ReportedRun[], suite = 'Windgap delivery tests'): string {
  const seconds = (run: ReportedRun) =>
    (((run.endedAt ?? run.startedAt ?? 0) - (run.startedAt ?? 0)) / 1000).toFixed(3);
  const failures = runs.filter(({ state }) => state === 'failed').length;
  const skipped = runs.filter(({ state }) => state !== 'failed' && state !== 'passed').length;
  const total = runs.reduce((sum, run) => sum + Number(seconds(run)), 0).toFixed(3);
  const counts = `tests="${runs.length}" failures="${failures}" errors="0" skipped="${skipped}" time="${total}"`;
  const at = Math.min(...runs.flatMap(({ startedAt }) => startedAt ?? []));
  const stamp = Number.isFinite(at) ? ` timestamp="${new Date(at).toISOString()}"` : '';
  const cases = runs.map((run) => {
    const bad = run.rounds.flatMap(({ verdicts }, round) =>
      verdicts.filter(({ holds }) => holds !== true).map((verdict) => ({ ...verdict, round })),
    );
    const inner =
      run.state === 'failed'
        ? `      <failure message="${escaped(bad[0] ? `${bad[0].expected}: ${bad[0].said}` : (run.problem ?? 'It failed'))}" type="${escaped(bad[0]?.cause ?? 'expectation')}">${escaped(
            bad
              .map(
                ({ round, expected, said, cause: why }) =>
                  `Round ${round + 1}: expected that ${expected}. ${said}.${why ? ` Fix: ${cause(why).remedy}` : ''}`,
              )
              .concat(run.problem ?? [])
              .join('\n'),
          )}</failure>\n`
        : run.state === 'passed'
          ? ''
          : `      <skipped message="${escaped(run.problem ?? run.state)}"/>\n`;
    return `    <testcase name="${escaped(run.name)}" classname="windgap.delivery" time="${seconds(run)}">
      <properties><property name="run" value="${escaped(run.id)}"/></properties>
${inner}      <system-out>${escaped(run.words)}</system-out>
    </testcase>`;
  });
  return `<?xml version="1.0" encoding="UTF-8"?>
<testsuites ${counts}>
  <testsuite name="${escaped(suite)}" ${counts}${stamp}>
${cases.join('\n')}
  </testsuite>
</testsuites>
`;
}

const CODES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };

/** Characters XML 1.0 cannot hold are left out: section 2.2. */
function escaped(text: string): string {
  return text
    .replace(/[^\t\n\r\u0020-\uD7FF\uE000-\uFFFD\u{10000}-\u{10FFFF}]/gu, '')
    .replace(/[&<>"]/g, (char) => CODES[char] ?? char);
}
