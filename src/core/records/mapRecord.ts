/** What the fields of an app's record are filled with. */
import type { Finding } from '../finding';
import type { PostedRecord } from '../text/fields';
import { mergeText } from '../text/merge';
import type { RecordType } from './recordType';

export interface MappedRecord {
  values: Record<string, string>;
  findings: (Finding & { field: string })[];
}

/** Fills an app's fields. A field that may be empty is left out when it is; one that is needed is a finding. */
export function mapRecord(
  type: Pick<RecordType, 'fields'>,
  fields: Record<string, string>,
  record: PostedRecord,
): MappedRecord {
  const mapped: MappedRecord = { values: {}, findings: [] };
  for (const { name, label, required, longest } of type.fields) {
    const template = fields[name]?.trim() ?? '';
    const { text, findings } = mergeText(template, record, { tokensMayStay: true });
    const serious = findings.filter((finding) => required || finding.code !== 'field-empty');
    if (serious.length > 0) mapped.findings.push(...serious.map((finding) => ({ ...finding, field: name })));
    else if (text.trim()) mapped.values[name] = longest ? clip(text.trim(), longest) : text.trim();
    else if (required)
      mapped.findings.push({
        field: name,
        code: 'field-empty',
        severity: 'error',
        problem: `The app needs “${label}”, and nothing is filled in.`,
        remedy: 'Say what it is to hold.',
      });
  }
  return mapped;
}

/** Never through a surrogate pair. */
function clip(text: string, longest: number): string {
  if (text.length <= longest) return text;
  const cut = text.slice(0, longest - 1);
  return `${/[\ud800-\udbff]$/.test(cut) ? cut.slice(0, -1) : cut}…`;
}
