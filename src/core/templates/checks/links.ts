/** Links in the text and behind buttons. */
import type { PartFinding } from '../finding';
import type { TemplateRules } from '../rules';
import { placeholdersIn, type WrittenPart } from '../template';

const LINK = /\b(?:https?:\/\/|www\.)(?:[^\s{}<>"]|\{\{[^{}]*\}\})+/gi;

export function linkFindings({ part, text }: WrittenPart, rules: TemplateRules['links']): PartFinding[] {
  const findings: PartFinding[] = [];
  for (const match of text.matchAll(LINK)) {
    const link = match[0].replace(/[.,;:!?)\]]+$/, '');
    findings.push(...addressFindings(part, link, match.index, rules));
  }
  return findings;
}

/** What is wrong with one web address that stands at an offset of a part. */
export function addressFindings(
  part: PartFinding['part'],
  link: string,
  offset: number,
  rules: TemplateRules['links'],
): PartFinding[] {
  const findings: PartFinding[] = [];
  const place = { from: offset, to: offset + link.length };
  const add = (code: string, problem: string, remedy: string, at = place, fix?: PartFinding['fix']) =>
    findings.push({ part, code, severity: 'error', problem, remedy, place: at, ...(fix ? { fix } : {}) });
  const host = /^(?:https?:\/\/)?([^/?#]*)/i.exec(link)?.[1] ?? '';
  const hostAt = link.indexOf(host);
  const [inHost] = placeholdersIn(host);
  if (inHost)
    add(
      'link-variable-host',
      'Where the link leads to is itself a variable.',
      'Write the site and let only what comes after it vary.',
      {
        from: offset + hostAt + inHost.from,
        to: offset + hostAt + inHost.to,
      },
    );
  if (rules.secureOnly && /^http:/i.test(link))
    add('link-not-secure', 'The link is not https.', 'Use the https address.', place, {
      label: 'Make it https',
      edit: { from: offset, to: offset + 5, write: 'https:' },
    });
  if (rules.shorteners.includes(host.toLowerCase().replace(/^www\./, '')))
    add('link-shortened', `${host} hides where the link leads.`, 'Write the whole address.');
  return findings;
}
