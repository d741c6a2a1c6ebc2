import { countryChoices } from '../../../../../../core/addresses/display';
import { getHook } from '../../../../../../operations/apps/hooks';
import { listAudiences } from '../../../../../../operations/contacts';
import { hasRole } from '../../../../../../operations/context';
import { offeredTemplates } from '../../../../../../operations/templates';
import { FindingLine } from '../../../../../../ui/domain/Findings';
import { ProofPanel } from '../../../../../../ui/domain/ProofRow';
import { ActionButton } from '../../../../../../ui/forms/ActionButton';
import { SelectField, TextAreaField, TextField } from '../../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../../ui/forms/DialogForm';
import { OneTimeValue } from '../../../../../../ui/forms/OneTimeValue';
import { CarryValue } from '../../../../../../ui/primitives/CopyButton';
import { Link } from '../../../../../../ui/primitives/Link';
import { Page, Panel, Section } from '../../../../../../ui/primitives/layout';
import { LiveRefresh } from '../../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../../_server/orNotFound';
import { proofViews } from '../../../../../_server/proofViews';
import { signedIn } from '../../../../../_server/session';
import { phoneChannels } from '../../../_parts/appContext';
import { MessageOfRecord } from '../../../_parts/MessageOfRecord';
import { changeHookAction, guardHookAction, postTestAction, switchHookAction } from '../../../hookActions';
import { Posts } from './Posts';
import { SampleFields } from './SampleFields';

const GUARDS = {
  address: 'Whoever knows the address can post; nothing else is asked.',
  token: 'Posts must carry this hook’s bearer token.',
  signature: 'Posts must carry a Standard Webhooks signature.',
};

export default async function HookPage({ params }: { params: Promise<{ id: string; hookId: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { hookId } = await params;
  const view = await orNotFound(getHook(ctx, actor, hookId));
  const { hook, app, summary, samples, people, examination } = view;
  const admin = hasRole(actor, 'administrator');
  const channels = await phoneChannels(ctx, actor);
  const [templates, audiences] = await Promise.all([offeredTemplates(ctx, actor), listAudiences(ctx, actor)]);
  const latest = samples[0];
  return (
    <Page
      title={hook.name}
      purpose={
        <>
          Send hook of <Link href={`/apps/${app.id}`}>{app.name}</Link>: it posts a record, and a message goes out.
        </>
      }
      actions={
        admin && (
          <>
            <DialogForm
              open="Post a test"
              title="Post a test to this hook"
              description={
                hook.audienceId
                  ? 'Posted to the address below as the app would: it begins a broadcast to everybody in the audience.'
                  : 'Posted to the address below as the app would. A record that makes a message sends it: use a phone of your own.'
              }
              submit="Send it"
              busy="Posting…"
              action={postTestAction.bind(null, hookId)}
            >
              <TextAreaField
                name="body"
                label="Record"
                exact
                rows={12}
                initial={JSON.stringify(latest ?? {}, null, 2)}
              />
            </DialogForm>
            {hook.disabledAt === null ? (
              <DialogForm
                open="Switch off"
                title={`Switch “${hook.name}” off?`}
                description={`Posts are answered 410 and no message goes out. They are still noted here.`}
                submit="Switch it off"
                action={switchHookAction.bind(null, hookId, false)}
              >
                <TextField name="why" label="Reason" help={`${app.name} gets this in the answer.`} />
              </DialogForm>
            ) : (
              <ActionButton action={switchHookAction.bind(null, hookId, true)}>Switch on</ActionButton>
            )}
          </>
        )
      }
    >
      <LiveRefresh since={since} topics={['run']} />
      {hook.disabledAt !== null && (
        <FindingLine
          finding={{
            code: 'hook-off',
            severity: 'error',
            problem: `This hook is switched off${hook.disabledWhy ? `: ${hook.disabledWhy}` : ''}.`,
            remedy: `Posts of ${app.name} are answered 410 and send nothing. Switch it on when it is wanted again.`,
          }}
        />
      )}
      <div className="mb-7 grid gap-4 lg:grid-cols-[minmax(0,1fr)_310px]">
        <Panel className="grid content-start gap-3 p-4">
          <CarryValue
            label="Send hook"
            direction={`${app.name} calls this; Windgap owns it`}
            value={summary.url}
            note="POST one record, as a form or as JSON. Keep it to yourselves: it can send messages."
          />
          <div className="flex flex-wrap items-center justify-between gap-2 text-[13px]">
            <span>{GUARDS[hook.guard]}</span>
            {admin && (
              <OneTimeValue
                open="Change"
                title="How the app shows that it is the one"
                submit="Use this"
                action={guardHookAction.bind(null, hookId)}
                value="secret"
                valueLabel="Token or secret"
                direction={`${app.name} sends or signs with this`}
                note="Shown this once."
              >
                <SelectField
                  name="guard"
                  label="Posts must carry"
                  options={[
                    ['address', 'nothing: the address is secret enough'],
                    ['token', 'a bearer token in the Authorization header'],
                    ['signature', 'a Standard Webhooks signature'],
                  ]}
                  initial={hook.guard}
                />
              </OneTimeValue>
            )}
          </div>
        </Panel>
        <ProofPanel proofs={proofViews(summary.proofs)} meanings={{ 'call-in': 'A post became a message that left' }} />
      </div>
      <div className="grid gap-x-6 xl:grid-cols-[minmax(0,1fr)_420px]">
        <Section
          title="The message"
          id="message"
          aside={examination && `${examination.good} of the last ${examination.of} posts make one`}
        >
          <Panel className="p-4">
            <div className="mb-3">
              {view.templateProblem && <FindingLine finding={view.templateProblem} />}
              {examination?.findings.map((finding) => (
                <FindingLine key={`${finding.field} ${finding.problem} ${finding.place?.from}`} finding={finding} />
              ))}
            </div>
            <MessageOfRecord
              present={hook}
              action={changeHookAction.bind(null, hookId)}
              what="post"
              nameHelp={`The address says “${hook.slug}” and stays as it is.`}
              samples={samples}
              people={people}
              templates={templates}
              channels={channels}
              audiences={audiences.map(({ id, name }) => [id, name])}
              countries={countryChoices()}
              admin={admin}
            />
          </Panel>
        </Section>
        <Section title="What it posts" id="sample">
          <SampleFields samples={samples} appName={app.name} />
        </Section>
      </div>
      <Section
        title="Requests"
        id="posts"
        aside={`${summary.taken} accepted and ${summary.refused} refused in seven days`}
      >
        <Posts posts={view.posts} />
      </Section>
    </Page>
  );
}
