/** Makes a connector out of a trunk's profile. Texts go over the held link, see link.ts. */

import smpp from 'smpp';
import { explainStatus } from '../../core/trunk/refusals';
import type { AccountFacts, Connector, Credentials, Exchange, Outcome } from '../connector';
import { renderTemplate } from '../http/template';
import type { Outside } from '../outside/outside';
import { common } from '../profile/common';
import type { TrunkProfile } from '../profile/schema';
import { settingsOf, type TrunkDialect, type TrunkSettings, trunkSettings } from './dialect';
import { openLink } from './link';
import { answerOf, bindPdu, type LinkAddress, type PDU, readableFields, readDeliver, textual, urlOf } from './pdus';
import { connectSession, failureOf, NOT_ALLOWED, readyEvent } from './session';

const CHECK_TIMEOUT = 8000;

export function trunkConnector(profile: TrunkProfile, outside: Outside): Connector {
  const { trunk } = profile;
  const dialect: TrunkDialect = {
    defaults: trunkSettings.parse({ pace: trunk.mostPace, window: Math.min(10, trunk.mostWindow), ...trunk.settings }),
    most: { pace: trunk.mostPace, window: trunk.mostWindow },
    receiptErrors: trunk.receiptErrors,
  };
  const addressOf = (credentials: Credentials): LinkAddress => {
    const render = (template: string) => renderTemplate(template, { credentials });
    return {
      host: render(trunk.host),
      port: Number(render(trunk.port)),
      systemId: render(trunk.systemId),
      password: render(trunk.password),
      systemType: render(trunk.systemType),
    };
  };
  return {
    ...common(profile),
    addresses: (credentials) => [urlOf(addressOf(credentials))],
    challenges: false,
    inboundBelongsTo: 'account',
    inboundMethod: 'POST',
    mediaTypes: [],
    limits: { pace: trunk.mostPace, concurrency: trunk.mostWindow, longestText: 1600 },
    requires: { permissions: [], subscriptions: [], registrationCountries: [] },
    honoursReference: false,
    givesReceipts: true,
    codesFor: [],
    trunk: dialect,
    checkAccount: (credentials, settings) => tryBinds(addressOf(credentials), settingsOf(dialect, settings), outside),
    openTrunk: (credentials, settings, events) => openLink(addressOf(credentials), settings, events, outside),
    verify: () => 'bind',
    parse: (request, settings) => readDeliver(request, settingsOf(dialect, settings), dialect),
  };
}

/** As the profile says, and the other way where the carrier allows this login only that. */
async function tryBinds(
  address: LinkAddress,
  settings: TrunkSettings,
  outside: Outside,
): Promise<Outcome<AccountFacts>> {
  const ways = ['transceiver', 'transmitter and receiver'] as const;
  const preferred = settings.bind;
  const other = ways.find((way) => way !== preferred) ?? preferred;
  const first = await tryBind(address, { ...settings, bind: preferred }, outside);
  if (first.ok || first.failure.cause !== 'trunk-bind-wrong') return first;
  const second = await tryBind(address, { ...settings, bind: other }, outside);
  return second.ok ? { ...second, value: { ...second.value, bind: other } } : first;
}

/** Binds once and unbinds: the only thing that shows whether the carrier lets us in. */
function tryBind(
  address: LinkAddress,
  settings: TrunkSettings,
  { network, clock }: Outside,
): Promise<Outcome<AccountFacts>> {
  const at = clock.now();
  const began = clock.elapsed();
  const command = settings.bind === 'transceiver' ? 'bind_transceiver' : 'bind_transmitter';
  const bind = bindPdu(command, address);
  const exchange: Exchange = {
    at,
    elapsedMs: 0,
    request: { method: command, url: urlOf(address), headers: textual(readableFields(bind)), body: null },
    response: null,
  };
  return new Promise((resolve) => {
    const session = connectSession(address, settings, network);
    if (!session) return resolve({ ok: false, failure: NOT_ALLOWED });
    const end = (outcome: Outcome<AccountFacts>) => {
      timer.cancel();
      exchange.elapsedMs = Math.round(clock.elapsed() - began);
      session.destroy();
      resolve(outcome);
    };
    const timer = clock.limit(CHECK_TIMEOUT, () =>
      end({ ok: false, failure: { cause: 'provider-timeout', said: 'no answer to the bind' }, exchange }),
    );
    session.on('error', (error: NodeJS.ErrnoException) => end({ ok: false, failure: failureOf(error), exchange }));
    session.on('close', () =>
      end({
        ok: false,
        failure: { cause: 'provider-unreachable', said: 'the carrier closed the connection' },
        exchange,
      }),
    );
    session.on(readyEvent(settings), () => {
      session.send(bind, (answer: PDU) => {
        exchange.response = answerOf(answer);
        if (answer.command_status !== 0) {
          const { cause, name } = explainStatus(answer.command_status);
          return end({ ok: false, failure: { cause, said: name }, exchange });
        }
        session.send(new smpp.PDU('unbind'), () => end({ ok: true, value: { name: carrierName(answer) }, exchange }));
      });
    });
  });
}

function carrierName(answer: PDU): string | undefined {
  return typeof answer.system_id === 'string' && answer.system_id ? answer.system_id : undefined;
}
