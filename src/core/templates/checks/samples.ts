/** One sample for each variable, of the kind its name promises. */
import type { PartFinding } from '../finding';
import { placeholdersIn, type Variant, writtenParts } from '../template';
import { contradicts, VALUE_KIND_WORDS } from '../valueKinds';

export function sampleFindings(variant: Variant): PartFinding[] {
  const findings: PartFinding[] = [];
  const seen = new Set<string>();
  for (const { part, text } of writtenParts(variant)) {
    for (const { name, from, to } of placeholdersIn(text)) {
      if (seen.has(name)) continue;
      seen.add(name);
      const sample = variant.samples[name]?.trim() ?? '';
      if (sample === '') {
        findings.push({
          part,
          code: 'sample-missing',
          severity: 'error',
          problem: `There is no sample for {{ ${name} }}.`,
          remedy: 'Give a made-up value; a reviewer judges by it.',
          place: { from, to },
        });
        continue;
      }
      const wrong = contradicts(name, sample);
      if (wrong)
        findings.push({
          part: `sample-${name}`,
          code: 'sample-of-another-kind',
          severity: 'error',
          problem: `“${sample}” is ${VALUE_KIND_WORDS[wrong.found]}, and {{ ${name} }} promises ${VALUE_KIND_WORDS[wrong.promised]}.`,
          remedy: 'Are two samples swapped?',
          place: { from: 0, to: sample.length },
        });
    }
  }
  return findings;
}
