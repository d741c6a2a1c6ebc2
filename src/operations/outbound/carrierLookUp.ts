/** Texts by mail need the recipient's carrier: looked up once, kept on the contact with its age. */
import type { Connector, Credentials, Outcome } from '../../connectors/connector';
import { normaliseAddress } from '../../core/addresses/address';
import type { CarrierGatewayRow, MessageRow } from '../../store/schema/rows';
import {
  type Actor,
  type AppContext,
  asViews,
  exchangeRows,
  invalidText,
  noteChanges,
  recordAudit,
  requireRole,
  type View,
} from '../context';

/** People change carriers and keep their number; after that long the look-up is done again. */
const CARRIER_AGE = 90 * 86_400_000;

/** Where mail for a message's recipient goes. A failure says whether the carrier or its gateway is what is missing. */
export async function mailAddressFor(
  ctx: AppContext,
  connector: Connector,
  credentials: Credentials,
  message: MessageRow,
): Promise<Outcome<string>> {
  const carrier = await carrierOf(ctx, connector, credentials, message);
  if (!carrier.ok) return carrier;
  const gateway = await ctx.store.gateways.one({ carrier: carrier.value });
  if (!gateway) {
    return { ok: false, failure: { cause: 'gateway-unknown', said: carrier.value }, exchange: carrier.exchange };
  }
  return { ok: true, value: `${localPart(message.recipient, gateway)}@${gateway.domain}` };
}

async function carrierOf(
  ctx: AppContext,
  connector: Connector,
  credentials: Credentials,
  message: MessageRow,
): Promise<Outcome<string>> {
  const contact = await ctx.store.contacts.one({ id: message.contact_id });
  const fresh = contact?.carrier && ctx.now() - (contact.carrier_at ?? 0) < CARRIER_AGE;
  if (contact?.carrier && fresh) return { ok: true, value: contact.carrier };
  const looked = connector.lookUpCarrier
    ? await connector.lookUpCarrier(credentials, message.recipient)
    : ({ ok: false, failure: { cause: 'carrier-unknown' } } as const);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.exchanges.insert(exchangeRows('look-up', message.id, looked));
    if (looked.ok) await unit.contacts.change({ id: message.contact_id }, { carrier: looked.value, carrier_at: at });
  });
  // An old answer is better than none.
  if (!looked.ok && contact?.carrier) return { ok: true, value: contact.carrier };
  return looked;
}

/** `{number}` of `{number}@gateway`: with the country's digits, or as dialled inside the country. */
function localPart(recipient: string, { local_part, country }: CarrierGatewayRow): string {
  if (local_part === 'international') return recipient.replace(/\D/g, '');
  const normalised = normaliseAddress(recipient, { defaultCountry: country });
  const national = normalised.ok ? normalised.address.national : undefined;
  return (national ?? recipient).replace(/\D/g, '');
}

export async function listGateways(ctx: AppContext, actor: Actor): Promise<View<CarrierGatewayRow>[]> {
  requireRole(actor, 'viewer');
  return asViews(await ctx.store.gateways.all(undefined, { order: [['carrier', 'ASC']] }));
}

export async function saveGateway(
  ctx: AppContext,
  actor: Actor,
  input: { carrier: string; country: string; domain: string; localPart: string },
): Promise<void> {
  requireRole(actor, 'administrator');
  const carrier = input.carrier.trim();
  const domain = input.domain.trim().toLowerCase().replace(/^@/, '');
  if (!carrier) throw invalidText('carrier', 'The carrier has no name.', 'Write it as the look-up service does.');
  if (!/^[a-z0-9-]+(\.[a-z0-9-]+)+$/.test(domain))
    throw invalidText('domain', 'This is not a mail domain.', 'What stands behind the @, such as text.example.');
  const local_part = input.localPart === 'national' ? 'national' : 'international';
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.gateways.put({ carrier, country: input.country, domain, local_part, changed_at: at });
    await recordAudit(unit, actor, at, {
      action: 'gateway.saved',
      subject: carrier,
      summary: `Mail for phones of ${carrier} goes to ${domain}`,
    });
    await noteChanges(unit, at, [['account', carrier]]);
  });
}

export async function removeGateway(ctx: AppContext, actor: Actor, carrier: string): Promise<void> {
  requireRole(actor, 'administrator');
  await ctx.store.write(async (unit) => {
    await unit.gateways.remove({ carrier });
    const note = {
      action: 'gateway.removed',
      subject: carrier,
      summary: `Took ${carrier} out of the table of gateways`,
    };
    await recordAudit(unit, actor, ctx.now(), note);
    await noteChanges(unit, ctx.now(), [['account', carrier]]);
  });
}
