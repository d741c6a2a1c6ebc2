'use client';

import { displayAddress } from '../../../../../core/addresses/display';
import { type ChannelKind, channelKind } from '../../../../../core/connect/channelKinds';
import { identityKind } from '../../../../../core/identities/identityKinds';
import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { proveInboundAction, proveOutboundAction } from '../actions';

type Phones = readonly { number: string; owner: string }[];

/** Sends a text to a phone that can be looked at; its receipt proves the next hop as well. */
export function ProveOutbound({
  channelId,
  channelName,
  kind,
  phones,
}: {
  channelId: string;
  channelName: string;
  kind: ChannelKind;
  phones: Phones;
}) {
  const { name, telephone, open } = identityKind(channelKind(kind).identity);
  if (!open)
    return (
      <p className="text-[13px]">
        People write first here: answer one of them in <Link href="/route/conversations">Conversations</Link>.
      </p>
    );
  return (
    <DialogForm
      open="Prove now"
      label="Prove outbound and receipt now"
      title={`Send a message over ${channelName}`}
      description="To somebody whose device you can see. Outbound is proven when the receipt says it arrived, and the receipt hop with it."
      submit="Send it"
      action={proveOutboundAction.bind(null, channelId)}
    >
      <TextField name="to" label={name} initial={phones[0]?.number ?? ''} help={bench(phones, telephone)} exact />
      <TextField name="text" label="Text" initial="This text proves a path." />
    </DialogForm>
  );
}

function bench(phones: Phones, telephone: boolean): string {
  const onBench = phones.map(({ owner, number }) => `${owner} ${displayAddress(number)}`).join(', ');
  return [telephone && 'With its country code.', onBench && `On the bench: ${onBench}.`].filter(Boolean).join(' ');
}

/** From the bench where there is one; otherwise what to do with a phone of one's own. */
export function ProveInbound({
  channelId,
  address,
  kind,
  phones,
}: {
  channelId: string;
  address: string;
  kind: ChannelKind;
  phones: Phones;
}) {
  const shown = displayAddress(address);
  if (phones.length === 0)
    return (
      <p className="text-[13px]">
        {channelKind(kind).writeTo} {shown} from your own phone; this page shows when it arrives.
      </p>
    );
  return (
    <DialogForm
      open="Prove now"
      label="Prove inbound now"
      title={`Write to ${shown} from a handset`}
      description="From the bench, over the same wires as a real phone. The mark fills when the message has arrived."
      submit="Write from it"
      action={proveInboundAction.bind(null, channelId)}
    >
      <SelectField
        name="handset"
        label="Handset"
        options={phones.map(({ number, owner }) => [number, `${owner}, ${displayAddress(number)}`])}
      />
    </DialogForm>
  );
}
