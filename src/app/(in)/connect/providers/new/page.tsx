import { CHANNEL_KINDS, channelKind } from '../../../../../core/connect/channelKinds';
import { WEB_CHAT_START } from '../../../../../core/connect/webChat';
import { type ConnectorView, listConnectors } from '../../../../../operations/accounts';
import { listChannels, type ReservedView, reservedAddress } from '../../../../../operations/channels';
import { hasRole } from '../../../../../operations/context';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { buttonClass } from '../../../../../ui/primitives/Button';
import { CarryValue } from '../../../../../ui/primitives/CopyButton';
import { Link } from '../../../../../ui/primitives/Link';
import { Page, Panel, Section } from '../../../../../ui/primitives/layout';
import { signedIn } from '../../../../_server/session';
import { reserveAction } from '../actions';
import { ConnectForm, WebChatForm } from './ConnectForm';

interface Search {
  connector?: string;
  /** Set once the preconditions were read. */
  ready?: string;
}

export default async function ConnectPage({ searchParams }: { searchParams: Promise<Search> }) {
  const { ctx, actor } = await signedIn();
  const connectors = await listConnectors(ctx, actor);
  const { connector: wanted, ready } = await searchParams;
  const chosen = connectors.find((entry) => entry.id === wanted);
  if (!chosen) return <Choose connectors={connectors} />;
  if (!ready) {
    const admin = hasRole(actor, 'administrator');
    return (
      <Preconditions
        connector={chosen}
        admin={admin}
        reserved={admin ? await reservedAddress(ctx, actor, chosen.id) : undefined}
      />
    );
  }
  if (channelKind(chosen.kind).hosted) {
    const texts = (await listChannels(ctx, actor)).filter(({ channel }) => channelKind(channel.kind).reachesAnyPhone);
    return (
      <Page title="Put a chat on a website" purpose={chosen.summary}>
        <Panel className="max-w-[720px] p-5">
          <WebChatForm initial={WEB_CHAT_START} textChannels={texts.map(({ channel }) => [channel.id, channel.name])} />
        </Panel>
      </Page>
    );
  }
  return (
    <Page title={`Connect ${chosen.name}`} purpose={chosen.summary}>
      <div className="grid gap-6 lg:grid-cols-[minmax(0,1fr)_340px]">
        <Panel className="p-5">
          <ConnectForm connector={chosen} />
        </Panel>
        <Section title="What happens next" id="next">
          <ol className="grid list-decimal gap-2 pl-5">
            <li>Saving calls {chosen.name} with these values. Nothing is kept unless it accepts them.</li>
            <li>A number of the account becomes a channel.</li>
            {chosen.handover.length > 0 && (
              <li>The inbound URL is handed over, before or after; the order does not matter.</li>
            )}
            <li>Traffic fills the four marks. Until then Windgap says what is still open.</li>
          </ol>
          <p className="mt-3 text-[13px]">
            <Link href={`?connector=${chosen.id}`}>What to have ready</Link>
          </p>
        </Section>
      </div>
    </Page>
  );
}

function Choose({ connectors }: { connectors: ConnectorView[] }) {
  return (
    <Page title="Connect" purpose="Choose what carries the messages. Each says first what you will need.">
      <div className="grid gap-5">
        {CHANNEL_KINDS.map((kind) => {
          const entries = connectors.filter((entry) => entry.kind === kind);
          if (entries.length === 0) return null;
          return (
            <section key={kind} aria-labelledby={`kind-${kind}`}>
              <h2 id={`kind-${kind}`} className="mb-1.5 text-[15px] font-semibold">
                {channelKind(kind).name}
              </h2>
              <ul className="grid gap-2 md:grid-cols-2">
                {entries.map((entry) => (
                  <li key={entry.id}>
                    <Link
                      href={`?connector=${entry.id}`}
                      className="plain block h-full rounded-md border border-line bg-panel px-4 py-3 hover:border-ridge"
                    >
                      <span className="font-medium">{entry.name}</span>
                      <span className="block text-soft">{entry.summary}</span>
                    </Link>
                  </li>
                ))}
              </ul>
            </section>
          );
        })}
      </div>
      <p className="mt-5 text-[13px]">
        The provider is not among them? <Link href="/connect/profiles/new">Describe it in a profile</Link>; no code is
        needed.
      </p>
    </Page>
  );
}

/** What will be needed, before anybody starts and stops half-way. */
function Preconditions({
  connector,
  admin,
  reserved,
}: {
  connector: ConnectorView;
  admin: boolean;
  reserved?: ReservedView;
}) {
  const hasAddress = connector.handsOverAddress;
  return (
    <Page title={`Before you connect ${connector.name}`} purpose={connector.summary}>
      <Section title="Have ready before you start" id="before">
        <Panel className="max-w-[820px] divide-y divide-line">
          {connector.preconditions.map(({ text, help }) => (
            <label key={text} className="flex items-start gap-3 px-4 py-2.5">
              <input type="checkbox" className="mt-1" />
              <span>
                {text}
                {help && <span className="block text-[13px] text-soft">{help}</span>}
              </span>
            </label>
          ))}
        </Panel>
        <p className="mt-4 flex flex-wrap items-center gap-3">
          <Link href={`?connector=${connector.id}&ready=1`} className={`plain ${buttonClass('primary')}`}>
            I have these: go on
          </Link>
          <span className="text-[13px] text-soft">The ticks are for you; nothing is kept of them.</span>
        </p>
      </Section>
      {admin && hasAddress && (
        <Section title={`Does ${connector.name} ask for your address first?`} id="reserve">
          <Panel className="grid max-w-[820px] gap-4 p-4">
            {reserved ? (
              <>
                <CarryValue
                  label="Inbound URL"
                  direction={`${connector.name} calls this; Windgap owns it`}
                  value={reserved.inboundUrl}
                  note="Reserved: the next channel you make here takes it over. Until then it verifies, and asks for patience with messages."
                />
                {reserved.challengeWord ? (
                  <CarryValue
                    label="Verification word"
                    direction={`${connector.name} sends this when it verifies the address`}
                    value={reserved.challengeWord}
                  />
                ) : (
                  <CarryValue
                    label="Fallback URL"
                    direction={`${connector.name} calls this when the first fails`}
                    value={reserved.fallbackUrl}
                  />
                )}
              </>
            ) : (
              <div className="flex flex-wrap items-center justify-between gap-3">
                <span>An inbound URL can be given to them before there is an account here.</span>
                <ActionButton action={reserveAction.bind(null, connector.id)}>Reserve an inbound URL</ActionButton>
              </div>
            )}
          </Panel>
        </Section>
      )}
    </Page>
  );
}
