/** Callers, as limits count them. */
import ipaddr from 'ipaddr.js';

/** Who counts as one caller: an address, or of IPv6 the network a household is given (RFC 6177). */
export function clientOf(address: string): string {
  if (!ipaddr.isValid(address)) return address;
  const read = ipaddr.process(address);
  if (read.kind() === 'ipv4') return read.toString();
  return `${(read as ipaddr.IPv6).parts
    .slice(0, 4)
    .map((part) => part.toString(16))
    .join(':')}::/64`;
}
