import { displayAddress } from '../../core/addresses/display';

/** A channel as it is offered to send from: its name and address, and where nobody can answer it, that. */
export function senderName({
  channel,
  answered,
}: {
  channel: { name: string; address: string };
  answered: boolean;
}): string {
  const address = displayAddress(channel.address);
  return `${channel.name} (${address}${answered ? '' : '; cannot be answered'})`;
}
