/** Lists of addresses and networks that something may be used from. */
import ipaddr from 'ipaddr.js';

export type AddressList = { ok: true; addresses: string[] } | { ok: false; bad: string };

/** Reads addresses and networks (CIDR, RFC 4632 and RFC 4291 §2.3), separated by spaces, commas or lines. */
export function readAddressList(text: string): AddressList {
  const parts = text.split(/[\s,;]+/).filter(Boolean);
  const bad = parts.find((part) => !ipaddr.isValid(part) && !ipaddr.isValidCIDR(part));
  return bad === undefined ? { ok: true, addresses: [...new Set(parts)] } : { ok: false, bad };
}

/** Whether an address is one of a list, or within one of its networks. IPv4 written as IPv6 is IPv4 (RFC 4291 §2.5.5.2). */
export function isWithin(address: string, list: readonly string[]): boolean {
  if (!ipaddr.isValid(address)) return false;
  const caller = ipaddr.process(address);
  return list.some((each) => {
    if (!each.includes('/')) return ipaddr.isValid(each) && ipaddr.process(each).toString() === caller.toString();
    if (!ipaddr.isValidCIDR(each)) return false;
    const [network, bits] = ipaddr.parseCIDR(each);
    return network.kind() === caller.kind() && caller.match([network, bits] as never);
  });
}
