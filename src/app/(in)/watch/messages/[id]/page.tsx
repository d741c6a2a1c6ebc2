import { displayAddress } from '../../../../../core/addresses/display';
import { hasRole } from '../../../../../operations/actor';
import { getTrail, type TrailLeg } from '../../../../../operations/trail';
import { Cairn } from '../../../../../ui/domain/Cairn';
import { elapsedWords } from '../../../../../ui/domain/elapsed';
import { HopStrip } from '../../../../../ui/domain/HopStrip';
import { MediaLink } from '../../../../../ui/domain/MediaLink';
import { formatMoney } from '../../../../../ui/domain/money';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { Link } from '../../../../../ui/primitives/Link';
import { Page, Section } from '../../../../../ui/primitives/layout';
import { ClockTime } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { settleAction } from '../../../route/conversations/[id]/actions';

export const metadata = { title: 'Trail' };

export default async function TrailPage({ params }: { params: Promise<{ id: string }> }) {
  const { w, actor, since } = await signedIn();
  const { id } = await params;
  const trail = await orNotFound(getTrail(w, actor, id));
  const { message } = trail;
  const uncertain = message.state === 'uncertain' && hasRole(actor, 'agent');
  return (
    <Page
      title="Trail"
      purpose={
        <>
          {message.direction === 'in' ? 'A text from ' : 'A text to '}
          <Link href={`/route/conversations/${message.conversation_id}`}>{trail.contactName}</Link>{' '}
          <span className="font-mono text-[13px]">{message.id}</span>
        </>
      }
      actions={
        uncertain && (
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
        )
      }
    >
      <LiveRefresh since={since} topics={['message', 'delivery']} />
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
            {leg.message.text}
            {leg.message.media && <MediaLink media={leg.message.media} />}
          </div>
          <HopStrip hops={leg.hops} evidence={trail.evidence} label={`Hops of ${leg.message.id}`} />
        </Section>
      ))}
    </Page>
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
      <ClockTime at={message.created_at} />
      {message.price_micros !== null && <span>{formatMoney(message.price_micros, message.price_currency)}</span>}
      {total !== undefined && <span>{elapsedWords(total)} from end to end</span>}
    </span>
  );
}
