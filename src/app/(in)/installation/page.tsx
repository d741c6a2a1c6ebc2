import { notFound } from 'next/navigation';
import { countryName } from '../../../core/addresses/display';
import { hasRole } from '../../../operations/context';
import { readOrganisation } from '../../../operations/organisation';
import { viewRetention } from '../../../operations/retention';
import { getInstallation } from '../../../operations/shell';
import { ActionForm, TextAreaField, TextField } from '../../../ui/forms/ActionForm';
import { Facts, Page, Panel, Section } from '../../../ui/primitives/layout';
import { signedIn } from '../../_server/session';
import { nameAction, organisationAction, retentionAction } from './actions';

export default async function InstallationPage() {
  const { ctx, actor } = await signedIn();
  if (!hasRole(actor, 'administrator')) notFound();
  const [{ name, named, address, kind }, organisation, retention] = await Promise.all([
    getInstallation(ctx),
    readOrganisation(ctx.store),
    viewRetention(ctx, actor),
  ]);
  return (
    <Page
      title="Installation"
      purpose="Its name, what is said of the organisation once for all places, and how long it keeps its own records."
    >
      <Panel className="mb-5 max-w-[560px] p-4">
        <Facts
          items={[
            ['Address', <code key="address">{address}</code>],
            [
              'Kind',
              kind === 'test'
                ? 'test: the simulated outside is attached, no real phone is reached'
                : 'live: what is sent reaches real phones',
            ],
          ]}
        />
      </Panel>
      <Panel className="max-w-[560px] p-4">
        <ActionForm action={nameAction} submit="Save">
          <TextField name="name" label="Name" initial={named ? name : ''} help="Without one its host stands there." />
        </ActionForm>
      </Panel>
      <div className="mt-6">
        <Section title="Organisation" id="organisation">
          <p className="mb-2 max-w-[70ch] text-soft">Used wherever nothing nearer is known of a person or a number.</p>
          <Panel className="max-w-[560px] p-4">
            <ActionForm action={organisationAction} submit="Save organisation">
              <TextField
                name="zone"
                label="Time zone"
                initial={organisation.zone}
                help="Such as Europe/London. New office hours and calendars begin with it."
              />
              <TextAreaField
                name="countries"
                label="Countries it works in, each on a line"
                rows={3}
                initial={organisation.countries
                  .map((code) => countryName(code))
                  .sort()
                  .join('\n')}
                help="Beside those of its numbers: channels may text there unless they say otherwise."
              />
              <TextField
                name="language"
                label="Language of people of whom none is known"
                initial={organisation.language}
                help="A code, such as en or sv."
              />
              <TextField
                name="help"
                label="What HELP and INFO are answered"
                initial={organisation.help}
                help="Who you are and where help is had. How to opt out, and what the country demands, is added. Empty: they are messages like any other."
              />
            </ActionForm>
          </Panel>
        </Section>
      </div>
      <div className="mt-6">
        <Section title="Retention" id="retention">
          <p className="mb-2 max-w-[70ch] text-soft">
            Evidence and bookkeeping are removed after so many days. Messages, contacts and the audit stay.
          </p>
          <Panel className="max-w-[820px] p-4">
            <ActionForm action={retentionAction} submit="Save retention">
              <div className="grid gap-x-6 gap-y-4 md:grid-cols-2">
                {retention.map(({ name: kept, label, help, days, usual, least }) => (
                  <TextField
                    key={kept}
                    name={kept}
                    label={`${label}, days`}
                    initial={String(days)}
                    help={`${help} Usual: ${usual}; at least ${least}.`}
                  />
                ))}
              </div>
            </ActionForm>
          </Panel>
        </Section>
      </div>
    </Page>
  );
}
