import { getApp, listRefusedCalls } from '../../../../operations/apps';
import { listChannels } from '../../../../operations/channels';
import { hasRole } from '../../../../operations/context';
import { FindingLine } from '../../../../ui/domain/Findings';
import { ProofPanel } from '../../../../ui/domain/ProofRow';
import { ActionButton } from '../../../../ui/forms/ActionButton';
import { OneTimeValue } from '../../../../ui/forms/OneTimeValue';
import { CarryValue } from '../../../../ui/primitives/CopyButton';
import { Empty, Page, Panel, Section } from '../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../_server/orNotFound';
import { proofViews } from '../../../_server/proofViews';
import { signedIn } from '../../../_server/session';
import { routeAction } from '../actions';
import { subscribeAction } from '../webhookActions';
import { Automations } from './Automations';
import { AddHook, Hooks } from './Hooks';
import { Keys, MakeKey } from './Keys';
import { RefusedCalls } from './RefusedCalls';
import { Subscription } from './Subscription';
import { SubscriptionFields } from './SubscriptionFields';

export default async function AppPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const view = await orNotFound(getApp(ctx, actor, id));
  const { app } = view;
  const refused = await listRefusedCalls(ctx, actor, id);
  const admin = hasRole(actor, 'administrator');
  const channels = (await listChannels(ctx, actor)).map(({ channel }): [string, string] => [channel.id, channel.name]);
  return (
    <Page title={app.name} purpose={app.description}>
      <LiveRefresh since={since} topics={['app', 'delivery']} />
      <Section title="What is proven" id="proof">
        <ProofPanel proofs={proofViews(view.proofs)} />
        {view.findings.map((finding) => (
          <FindingLine key={finding.problem} finding={finding} />
        ))}
      </Section>
      <Section
        title={`${app.name} calls Windgap`}
        id="in"
        aside="With an API key it sends messages and reads what became of them; to a send hook it posts a record and a message goes out."
      >
        <Panel className="grid gap-4 p-4">
          <CarryValue
            label="API address"
            direction={`${app.name} calls this; Windgap owns it`}
            value={view.apiUrl}
            note="Described at /api/v1/openapi.json; to be read and tried under Apps, API."
          />
          {view.hooks.length > 0 && <Hooks appId={id} hooks={view.hooks} />}
          {view.apiKeys.length > 0 && <Keys keys={view.apiKeys} admin={admin} now={ctx.now()} />}
          {admin && (
            <div className="flex gap-2">
              <MakeKey appId={id} appName={app.name} />
              <AddHook appId={id} appName={app.name} />
            </div>
          )}
        </Panel>
        <Automations appId={id} way="in" list={view.automations} />
      </Section>
      <RefusedCalls calls={refused} />
      <Section
        title={`Windgap calls ${app.name}`}
        id="out"
        aside="With a webhook subscription it is told what happens, signed and with retries."
      >
        <Panel className="mb-3 flex flex-wrap items-center justify-between gap-3 px-4 py-3">
          <span>
            Route “Everything to the shared desk”: inbound messages{' '}
            {view.routed ? 'also go to this app.' : 'do not go to this app.'}
          </span>
          {admin && (
            <ActionButton action={routeAction.bind(null, id, !view.routed)}>
              {view.routed ? 'Take it off the route' : 'Route messages to it'}
            </ActionButton>
          )}
        </Panel>
        <Automations appId={id} way="out" list={view.automations} />
        {view.webhooks.map((subscription) => (
          <Subscription
            key={subscription.id}
            appName={app.name}
            subscription={subscription}
            channels={channels}
            admin={admin}
          />
        ))}
        {view.webhooks.length === 0 && (
          <Empty
            what={`${app.name} receives no events yet. Its people give you an address; you give them the signing secret.`}
          />
        )}
        {admin && (
          <div className="mt-3">
            <OneTimeValue
              open="Add a webhook subscription"
              title={`Send events to ${app.name}`}
              submit="Subscribe"
              action={subscribeAction.bind(null, id)}
              value="secret"
              valueLabel="Signing secret"
              direction={`${app.name} verifies our events with this`}
              note="Shown this once. Standard Webhooks: any library that follows it can verify."
            >
              <SubscriptionFields appName={app.name} channels={channels} />
              <label className="flex items-center gap-2">
                <input type="checkbox" name="route" defaultChecked /> Route inbound messages to {app.name}
              </label>
            </OneTimeValue>
          </div>
        )}
      </Section>
    </Page>
  );
}
