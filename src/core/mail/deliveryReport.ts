/** Reads what a mail system reports about a mail: delivered, delayed, or not (RFC 3464). */

export interface RecipientReport {
  recipient: string;
  action: 'failed' | 'delayed' | 'delivered' | 'relayed' | 'expanded';
  /** Such as 5.1.1 (RFC 3463). */
  status: string;
  /** What the server said, where it is told. */
  diagnostic?: string;
}

const ACTIONS: readonly RecipientReport['action'][] = ['failed', 'delayed', 'delivered', 'relayed', 'expanded'];

/**
 * The reports on recipients in a message/delivery-status part: groups of fields apart by empty lines, the first of them
 * about the mail as a whole (RFC 3464 §2.1). A group without a known action is left out.
 */
export function readDeliveryReport(text: string): RecipientReport[] {
  return text
    .split(/\r?\n[ \t]*\r?\n/)
    .map(fieldsOf)
    .flatMap((fields) => {
      const action = ACTIONS.find((each) => each === fields.get('action')?.toLowerCase());
      const recipient = fields.get('original-recipient') ?? fields.get('final-recipient');
      if (!action || !recipient) return [];
      return [
        {
          recipient: withoutType(recipient).toLowerCase(),
          action,
          status: /^[245]\.\d{1,3}\.\d{1,3}/.exec(fields.get('status') ?? '')?.[0] ?? '',
          diagnostic: fields.has('diagnostic-code') ? withoutType(fields.get('diagnostic-code') ?? '') : undefined,
        },
      ];
    });
}

/** `rfc822; ines@heron.example` without what kind of address it is. */
function withoutType(value: string): string {
  const at = value.indexOf(';');
  return (at === -1 ? value : value.slice(at + 1)).trim();
}

/** Fields of one group; a line that begins with a space goes on with the one before (RFC 5322 §2.2.3). */
function fieldsOf(group: string): Map<string, string> {
  const fields = new Map<string, string>();
  for (const line of group.replace(/\r?\n[ \t]+/g, ' ').split(/\r?\n/)) {
    const at = line.indexOf(':');
    if (at > 0) fields.set(line.slice(0, at).trim().toLowerCase(), line.slice(at + 1).trim());
  }
  return fields;
}
