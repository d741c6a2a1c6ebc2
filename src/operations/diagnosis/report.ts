/** What is known of a complaint, written for whoever owns the part of the way it stopped in: as text, without secrets. */
import { SYMPTOMS } from '../../core/diagnosis/symptoms';
import { type Actor, type AppContext, type EvidenceView, recordAudit, requireRole } from '../context';
import { getTrail } from '../log';
import { type Complaint, type DiagnosisView, diagnoseComplaint } from './diagnose';

/** Parts of a request or answer longer than this are cut. */
const MOST_BODY = 4000;

export interface Report {
  text: string;
  /** A name for it as a file. */
  file: string;
}

export async function reportOf(ctx: AppContext, actor: Actor, complaint: Complaint): Promise<Report> {
  requireRole(actor, 'viewer');
  const view = await diagnoseComplaint(ctx, actor, complaint);
  const { message } = view.where;
  const trail = message ? await getTrail(ctx, actor, message.id) : undefined;
  const leg = trail?.legs.find((each) => each.message.id === message?.id);
  const refs = new Set(leg?.hops.flatMap(({ evidence }) => evidence.map(({ id }) => id)) ?? []);
  const evidence = Object.values(trail?.evidence ?? {}).filter(({ id }) => refs.has(id));
  const stored = message && (await ctx.store.messages.one({ id: message.id }));
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), {
      action: 'diagnosis.reported',
      subject: message?.id ?? complaint.scope.channel ?? 'diagnosis',
      summary: `Wrote a report of “${SYMPTOMS[complaint.symptom].title}”`,
    }),
  );
  const lines = [
    `Report of a messaging fault, written ${stamp(ctx.now())}`,
    '',
    ...block('What is complained of', [SYMPTOMS[complaint.symptom].title, SYMPTOMS[complaint.symptom].means]),
    ...block('Where it is', [`${view.where.said}.`, ...(view.where.ask ? [`For: ${view.where.ask}.`] : [])]),
    ...block(
      'What each place has',
      view.where.known.map(
        ({ name, has, said, at }) =>
          `${has === undefined ? 'not known' : has ? 'has it  ' : 'has not '}  ${name}: ${said}${at === undefined ? '' : ` (${stamp(at)})`}`,
      ),
    ),
    ...block('What is known of why', whyLines(view)),
    ...(message && stored
      ? block('The message', [
          `id              ${stored.id}`,
          `provider’s id   ${stored.provider_message_id ?? 'none'}`,
          `from            ${stored.sender}`,
          `to              ${stored.recipient}`,
          `asked for       ${stamp(stored.created_at)}`,
          `state           ${stored.state}`,
          `encoding        ${stored.encoding}, ${stored.parts} ${stored.parts === 1 ? 'part' : 'parts'}`,
          `text            ${JSON.stringify(stored.text)}`,
        ])
      : []),
    ...(leg
      ? block(
          'What happened to it',
          leg.hops.map(
            ({ place, what, at }) => `${at === undefined ? 'not yet                 ' : stamp(at)}  ${place}: ${what}`,
          ),
        )
      : []),
    ...evidence.flatMap(exchangeLines),
    ...contrastLines(view),
  ];
  const text = `${lines.join('\n').trimEnd()}\n`;
  return { text, file: `report-${message?.id ?? complaint.symptom}.txt` };
}

function whyLines({ verdict, cause, remaining }: DiagnosisView): string[] {
  if (cause) {
    const sureness = verdict === 'determined' ? '' : verdict === 'likely' ? ' (likely, as nothing else is left)' : '';
    return [`${cause.title}${sureness}.`, cause.explanation].filter(Boolean);
  }
  return remaining.length > 0
    ? ['It is not known. Possible are:', ...remaining.map(({ title }) => `- ${title}`)]
    : ['It is not known.'];
}

function contrastLines({ contrast }: DiagnosisView): string[] {
  if (contrast?.contrast.found !== 'split') return [];
  return block(
    'What those that fail have in common',
    contrast.contrast.splits.map(
      ({ attribute, value, failed, of, othersFailed, others, since }) =>
        `${attribute === 'since' ? 'all' : `${attribute} ${value}`}${since === undefined ? '' : ` since ${stamp(since)}`}: ${failed} of ${of} failed; of all others ${othersFailed} of ${others}`,
    ),
  );
}

function exchangeLines({ title, at, request, response }: EvidenceView): string[] {
  return block(title, [
    stamp(at),
    '',
    request.line,
    ...headerLines(request.headers),
    '',
    cut(request.body),
    '',
    ...(response ? [response.line, ...headerLines(response.headers), '', cut(response.body)] : ['No answer came.']),
  ]);
}

const headerLines = (headers: Readonly<Record<string, string>>) =>
  Object.entries(headers).map(([name, value]) => `${name}: ${value}`);

const cut = (body: string) =>
  body.length > MOST_BODY ? `${body.slice(0, MOST_BODY)}… (${body.length} characters)` : body;

function block(title: string, lines: readonly string[]): string[] {
  return [title, '-'.repeat(title.length), ...lines, ''];
}

/** In UTC and to the millisecond, as two sides compare their logs. */
const stamp = (at: number) => new Date(at).toISOString();
