/** Examines a send hook against the last posts it got: what fails, how often, and whether the post was meant for another hook. */
import type { Severity } from '../finding';
import { listFields, type PostedRecord } from '../text/fields';
import { type HookDefinition, type HookFinding, orderFrom } from './order';

export interface HookExamination {
  findings: HookFinding[];
  /** How many of the posts would become a message. */
  good: number;
  of: number;
}

/** `samples` newest first. A finding all have is an error; one that only some have is worth attention. */
export function examineHook(definition: HookDefinition, samples: readonly PostedRecord[]): HookExamination {
  const seen = new Map<string, { finding: HookFinding; times: number }>();
  let good = 0;
  for (const sample of samples) {
    const result = orderFrom(definition, sample);
    if (result.ok) good += 1;
    else
      for (const finding of result.findings) {
        const key = `${finding.field} ${finding.code} ${finding.variable ?? finding.place?.from ?? ''}`;
        const known = seen.get(key);
        if (known) known.times += 1;
        else seen.set(key, { finding, times: 1 });
      }
  }
  const findings = [...seen.values()]
    .sort((a, b) => b.times - a.times)
    .map(({ finding, times }): HookFinding => {
      const severity: Severity = times === samples.length ? 'error' : 'attention';
      const often = times === samples.length ? '' : ` In ${times} of the last ${samples.length} posts.`;
      return { ...finding, severity, problem: finding.problem + often };
    });
  return { findings, good, of: samples.length };
}

/** The names a hook was set up with: those of its latest good post. */
export interface KnownShape {
  id: string;
  name: string;
  fields: readonly string[];
}

/**
 * Whether a post looks like those of another hook: it has none of this one's own fields
 * and nearly all of the other's. An automation that was copied keeps the address of its original.
 */
export function meantFor(record: PostedRecord, own: KnownShape, others: readonly KnownShape[]): KnownShape | undefined {
  const names = new Set(listFields(record).map(({ name }) => name));
  const likeness = (shape: KnownShape) =>
    shape.fields.length === 0 ? 0 : shape.fields.filter((name) => names.has(name)).length / shape.fields.length;
  const here = likeness(own);
  if (own.fields.length === 0 || here > 0.5) return undefined;
  const [best] = others
    .filter((other) => likeness(other) >= 0.9 && likeness(other) > here + 0.3)
    .sort((a, b) => likeness(b) - likeness(a));
  return best;
}
