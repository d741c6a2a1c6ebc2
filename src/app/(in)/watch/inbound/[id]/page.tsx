import { cause } from '../../../../../core/delivery/causes';
import { hasRole } from '../../../../../operations/context';
import { wouldBeTakenNow } from '../../../../../operations/inbound';
import { getInboundRequest } from '../../../../../operations/log';
import { EvidenceBlock } from '../../../../../ui/domain/EvidenceBlock';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { Link } from '../../../../../ui/primitives/Link';
import { Facts, Page, Panel, Section } from '../../../../../ui/primitives/layout';
import { ClockTime } from '../../../../../ui/primitives/Time';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { reworkAction } from '../../../connect/channels/actions';

export default async function InboundRequestPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor } = await signedIn();
  const { id } = await params;
  const { request, evidence, channelName } = await orNotFound(getInboundRequest(ctx, actor, id));
  const outcome = request.outcome as {
    messages?: string[];
    repeats?: number;
    unmatched?: number;
    reason?: string;
  } | null;
  const trouble = request.cause ? cause(request.cause) : undefined;
  return (
    <Page
      title="Request from a provider"
      purpose={
        <>
          Posted to <Link href={`/connect/channels/${request.channelId}`}>{channelName}</Link>
        </>
      }
      actions={
        hasRole(actor, 'administrator') &&
        (await wouldBeTakenNow(ctx, id)) && (
          <ActionButton action={reworkAction.bind(null, id)}>Process again</ActionButton>
        )
      }
    >
      {trouble && (
        <div className="mb-4 border-l-4 border-clay pl-3">
          <p className="font-semibold text-clay">{trouble.title}</p>
          <p>{trouble.explain({ said: outcome?.reason })}</p>
          <p>
            <span className="font-medium">How to fix it: </span>
            {trouble.remedy}
          </p>
        </div>
      )}
      <Section title="Outcome" id="outcome">
        <Panel className="p-4">
          <Facts
            items={[
              ['Received', <ClockTime key="r" at={request.receivedAt} millis />],
              ['Signature', request.signature],
              ['Answered', String(request.answerStatus)],
              ['Processed', request.processedAt ? <ClockTime key="p" at={request.processedAt} millis /> : 'not yet'],
              [
                'Messages',
                outcome?.messages?.length
                  ? outcome.messages.map((message) => (
                      <Link key={message} href={`/watch/messages/${message}`} className="mr-3 font-mono text-[13px]">
                        {message}
                      </Link>
                    ))
                  : 'none',
              ],
              ...(outcome?.repeats
                ? ([['Repeats', `${outcome.repeats}, already known and ignored`]] as [string, string][])
                : []),
              ...(outcome?.unmatched
                ? ([
                    ['Receipts', `${outcome.unmatched} for a message Windgap does not know; kept in case it is early`],
                  ] as [string, string][])
                : []),
            ]}
          />
        </Panel>
      </Section>
      <Section title="Raw request" id="raw">
        <EvidenceBlock evidence={evidence} />
      </Section>
    </Page>
  );
}
