import { displayAddress } from '../../../../../core/addresses/display';
import { hasRole } from '../../../../../operations/context';
import { besideTheLast, getTrail, type TrailLeg } from '../../../../../operations/log';
import { whySetAside } from '../../../../../operations/setAside';
import { languageName } from '../../../../../ui/compose/direction';
import { Cairn } from '../../../../../ui/domain/Cairn';
import { elapsedWords } from '../../../../../ui/domain/elapsed';
import { FindingLine } from '../../../../../ui/domain/Findings';
import { HopStrip } from '../../../../../ui/domain/HopStrip';
import { FileLinks, MediaLink } from '../../../../../ui/domain/MediaLink';
import { formatMoney } from '../../../../../ui/domain/money';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { buttonClass } from '../../../../../ui/primitives/Button';
import { Link } from '../../../../../ui/primitives/Link';
import { Page, Section } from '../../../../../ui/primitives/layout';
import { ClockTime } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { settleAction } from '../../../route/conversations/[id]/actions';
import { againAction } from './actions';
import { BesideTheLast } from './BesideTheLast';

interface Props {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ beside?: string }>;
}

export default async function TrailPage({ params, searchParams }: Props) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const trail = await orNotFound(getTrail(ctx, actor, id));
  const { message } = trail;
  const compared = (await searchParams).beside !== undefined;
  const beside = compared ? await besideTheLast(ctx, actor, id) : undefined;
  const admin = hasRole(actor, 'administrator');
  const uncertain = message.state === 'uncertain' && hasRole(actor, 'agent');
  const aside = await whySetAside(ctx, 'sends', id);
  return (
    <Page
      title="Trail"
      purpose={
        <>
          {message.direction === 'in' ? 'A message from ' : 'A message to '}
          <Link href={`/route/conversations/${message.conversationId}`}>{trail.contactName}</Link>{' '}
          <span className="font-mono text-[13px]">{message.id}</span>
        </>
      }
      actions={
        <>
          <Link
            href={`/prove/diagnosis?channel=${message.channelId}&phone=${encodeURIComponent(
              message.direction === 'in' ? message.sender : message.recipient,
            )}`}
            className={`plain ${buttonClass()}`}
          >
            Diagnose
          </Link>
          <a href={`/watch/messages/${id}/trail.json`} className={`plain ${buttonClass()}`}>
            Share as a file
          </a>
          <Link
            href={compared ? `/watch/messages/${id}` : `/watch/messages/${id}?beside=last`}
            className={`plain ${buttonClass()}`}
          >
            {compared ? 'Alone' : 'Compare with the last success'}
          </Link>
          {message.direction === 'in' && (
            <Link href={`/route/routes?message=${id}`} className={`plain ${buttonClass()}`}>
              Dry run
            </Link>
          )}
          {uncertain && (
            <>
              <ActionButton action={settleAction.bind(null, id, 'arrived')}>It arrived</ActionButton>
              <ActionButton
                action={settleAction.bind(null, id, 'send-again')}
                confirm={{
                  title: 'Send it again?',
                  consequence: 'If the provider did take it the first time, the person gets it twice.',
                  go: 'Send again',
                }}
              >
                Send again
              </ActionButton>
            </>
          )}
        </>
      }
    >
      <LiveRefresh since={since} topics={['message', 'delivery']} />
      {aside && (
        <p className="mb-4 max-w-[90ch] border-l-4 border-clay pl-3">
          <span className="font-semibold text-clay">Set aside.</span> Windgap could not process it: {aside}. It waits
          until somebody <Link href="/watch/set-aside">decides</Link>.
        </p>
      )}
      {compared && <BesideTheLast beside={beside} />}
      {trail.legs.map((leg) => (
        <Section
          key={leg.message.id}
          id={leg.message.id}
          title={leg.message.direction === 'in' ? 'In' : 'Out'}
          aside={<LegFacts leg={leg} />}
        >
          <div
            className={`mb-2 max-w-[90ch] border-l-2 pl-3 whitespace-pre-wrap ${leg.message.direction === 'in' ? 'border-heather' : 'border-ridge'}`}
          >
            {leg.message.subject && <p className="font-medium">{leg.message.subject}</p>}
            {leg.message.text}
            {leg.message.files ? (
              <FileLinks files={leg.message.files} />
            ) : (
              leg.message.media && <MediaLink media={leg.message.media} />
            )}
            {leg.message.automatic && <p className="text-[13px] text-soft">{leg.message.automatic}</p>}
          </div>
          {leg.message.template && (
            <MadeOf made={leg.message.template} name={trail.templates[leg.message.template.id]} />
          )}
          <HopStrip
            hops={leg.hops}
            evidence={trail.evidence}
            label={`Hops of ${leg.message.id}`}
            again={admin ? againButtons(leg) : undefined}
          />
        </Section>
      ))}
    </Page>
  );
}

/** What of a leg can be done again, each with its button. */
function againButtons({ hops, message }: TrailLeg) {
  const consequence = (again: string, place: string) =>
    again === message.id
      ? 'The same text is ordered anew, as a message of its own, and everything that may refuse it is asked again.'
      : `The same event goes to ${place} once more, with the same id: an app that keeps ids ignores what it has.`;
  return Object.fromEntries(
    hops.flatMap(({ again, place }) =>
      again
        ? [
            [
              again,
              <ActionButton
                key={again}
                action={againAction.bind(null, again)}
                confirm={{
                  title: 'Replay from this step?',
                  consequence: consequence(again, place),
                  go: 'Replay',
                }}
              >
                Replay from this step
              </ActionButton>,
            ],
          ]
        : [],
    ),
  );
}

/** Which template the text was made of, in which language, and with what. */
function MadeOf({ made, name }: { made: NonNullable<TrailLeg['message']['template']>; name: string | undefined }) {
  return (
    <div className="mb-2 text-[13px] text-soft">
      <p>
        Made of the template <Link href={`/compose/templates/${made.id}`}>{name ?? made.id}</Link>, version{' '}
        {made.version}, in {languageName(made.language)}
        {Object.entries(made.values).map(([variable, value]) => (
          <span key={variable}>
            {' · '}
            <span className="font-mono text-xs">{variable}</span> {value}
          </span>
        ))}
      </p>
      {made.insteadOf && (
        <FindingLine
          finding={{
            code: 'template-language-missing',
            severity: 'attention',
            problem: `This person reads ${languageName(made.insteadOf)}, and the template has no variant in it; they got the first one.`,
            remedy: 'Add a variant in this language and submit it.',
          }}
        />
      )}
    </div>
  );
}

function LegFacts({ leg: { message, hops } }: { leg: TrailLeg }) {
  const times = hops.flatMap((hop) => (hop.at === undefined ? [] : [hop.at]));
  const total = times.length > 1 ? Math.max(...times) - Math.min(...times) : undefined;
  return (
    <span className="flex flex-wrap items-center gap-x-4">
      <Cairn state={message.state} />
      <span>
        {displayAddress(message.sender)} → {displayAddress(message.recipient)}
      </span>
      <ClockTime at={message.createdAt} />
      {message.priceMicros !== null && <span>{formatMoney(message.priceMicros, message.priceCurrency)}</span>}
      {total !== undefined && <span>{elapsedWords(total)} from end to end</span>}
    </span>
  );
}
