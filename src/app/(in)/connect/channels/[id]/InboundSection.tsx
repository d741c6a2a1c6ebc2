import { displayAddress } from '../../../../../core/addresses/display';
import type { ChannelView } from '../../../../../operations/channels';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { CarryValue, CopyButton } from '../../../../../ui/primitives/CopyButton';
import { Panel, Section } from '../../../../../ui/primitives/layout';
import { Age } from '../../../../../ui/primitives/Time';
import { markHandedOverAction, replaceUrlAction, setForMeAction } from '../actions';

/** The hand-over of the inbound URL: values to carry, the button that sets them, and the same by hand. */
export function InboundSection({ view, admin }: { view: ChannelView; admin: boolean }) {
  const { channel, account } = view;
  const receives = view.proofs.find((proof) => proof.hop === 'inbound')?.state !== 'not-applicable';
  const hasFallback = view.inboundBelongsTo === 'number';
  return (
    <Section title="Inbound URL" id="handover" aside={<HandoverState view={view} />}>
      {!admin ? (
        <Panel className="p-4">Administrators hand the address over.</Panel>
      ) : (
        <>
          <Panel className="mb-4 grid gap-4 p-4">
            <CarryValue
              label="Inbound URL"
              direction={`${account.connectorName} calls this; Windgap owns it`}
              value={view.inboundUrl}
              note={`${hasFallback ? 'Primary address of the number' : 'One address for the whole account'}, method ${view.inboundMethod}.`}
            />
            {hasFallback && (
              <CarryValue
                label="Fallback URL"
                direction={`${account.connectorName} calls this when the first fails`}
                value={view.fallbackUrl}
              />
            )}
            {channel.challengeWord && (
              <CarryValue
                label="Verification word"
                direction={`${account.connectorName} sends this when it verifies the address`}
                value={channel.challengeWord}
              />
            )}
            <div className="flex flex-wrap gap-2">
              {view.canSetAddress && (
                <ActionButton
                  tone="primary"
                  action={setForMeAction.bind(null, channel.id)}
                  busy={`Telling ${account.connectorName}…`}
                >
                  Set it for me
                </ActionButton>
              )}
              <ActionButton action={markHandedOverAction.bind(null, channel.id)}>I have set it by hand</ActionButton>
              <ActionButton
                tone="quiet"
                action={replaceUrlAction.bind(null, channel.id)}
                confirm={{
                  title: 'Replace the inbound URL?',
                  consequence: `The present address stops working at once: texts to ${displayAddress(channel.address)} and receipts of messages already sent are lost to Windgap until ${account.connectorName} has the new one.`,
                  go: 'Replace it',
                }}
              >
                Replace the address
              </ActionButton>
            </div>
            {receives && <Waiting view={view} />}
          </Panel>
          <h3 className="mb-1 font-medium">By hand, at {account.connectorName}</h3>
          <ol className="grid list-decimal gap-1.5 pl-5">
            {view.handover.map((step) => (
              <li key={step.text}>
                {step.text}
                {step.value && (
                  <span className="ml-2 inline-block align-middle">
                    <CopyButton
                      value={carried(step.value, view)}
                      what={`${step.value.replaceAll('-', ' ')} for this step`}
                    />
                  </span>
                )}
              </li>
            ))}
          </ol>
        </>
      )}
    </Section>
  );
}

function carried(value: 'inbound-url' | 'fallback-url' | 'challenge-word', view: ChannelView): string {
  if (value === 'fallback-url') return view.fallbackUrl;
  return value === 'inbound-url' ? view.inboundUrl : (view.channel.challengeWord ?? '');
}

/** The hand-over stays open until traffic proves it. */
function Waiting({ view: { proofs } }: { view: ChannelView }) {
  const inbound = proofs.find((proof) => proof.hop === 'inbound');
  if (inbound?.state === 'proven') {
    return (
      <p className="text-[13px]" role="status">
        Real messages arrive here; the last one <Age at={inbound.evidenceAt ?? inbound.since} />.
      </p>
    );
  }
  return (
    <p className="flex items-center gap-2 text-[13px] text-ochre-ink" role="status" data-waiting>
      <span className="inline-block h-2 w-2 animate-pulse rounded-full bg-ochre" aria-hidden />
      {inbound?.state === 'broken'
        ? 'What came could not be taken; see above. Still waiting for a message that can.'
        : 'Waiting for the first real message…'}
    </p>
  );
}

function HandoverState({ view }: { view: ChannelView }) {
  const { channel, account, providerHas } = view;
  const what = view.inboundBelongsTo === 'number' ? 'this number' : 'this account';
  if (providerHas === 'another')
    return (
      <span className="text-clay">
        {account.connectorName} has another address for {what}
      </span>
    );
  if (providerHas === 'ours')
    return (
      <span>
        {account.connectorName} has this address
        {channel.challengedAt && (
          <>
            , verified <Age at={channel.challengedAt} />
          </>
        )}
      </span>
    );
  if (channel.handedOverAt) return <span>Said to be set by hand; traffic will prove it</span>;
  return (
    <span className="text-ochre-ink">
      Hand-over open: {account.connectorName} has no address for {what}
    </span>
  );
}
