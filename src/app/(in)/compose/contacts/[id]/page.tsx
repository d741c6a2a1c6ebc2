import { redirect } from 'next/navigation';
import { countryName, displayAddress } from '../../../../../core/addresses/display';
import { CONSENT_WAYS, WAY_WORDS } from '../../../../../core/consent/ways';
import { identityKind, nameOf } from '../../../../../core/identities/identityKinds';
import { type ContactPage as ContactView, getContactPage, movesOf } from '../../../../../operations/contacts';
import { hasRole } from '../../../../../operations/context';
import { ConsentMarks } from '../../../../../ui/compose/ConsentMarks';
import { languageName } from '../../../../../ui/compose/direction';
import { Cairn } from '../../../../../ui/domain/Cairn';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { ActionForm, SelectField, TextAreaField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { buttonClass } from '../../../../../ui/primitives/Button';
import { Link } from '../../../../../ui/primitives/Link';
import { Facts, Page, Panel, Section } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import { LiveRefresh } from '../../../../../ui/shell/LiveRefresh';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { changeContactAction, enterConsentAction, undoMergeAction } from '../actions';
import { Addresses, Moves } from './Addresses';

const HOW = {
  word: 'by a word',
  'by-hand': 'entered by hand',
  import: 'with a file',
  'web-chat': 'on the website',
  api: 'through the API',
  merge: 'with a merge',
  provider: 'told to the provider',
  link: 'by the link in a mail',
};
const WHAT = { given: 'opted in to', withdrawn: 'opted out of', retracted: 'claim taken back about' };

export default async function ContactPage({ params }: { params: Promise<{ id: string }> }) {
  const { ctx, actor, since } = await signedIn();
  const { id } = await params;
  const page = await orNotFound(getContactPage(ctx, actor, id));
  const { contact, identities, attributes, tags, consents, ledger, conversationId, messages, latest, merges } = page;
  if (contact.mergedInto) redirect(`/compose/contacts/${contact.mergedInto}`);
  const agent = hasRole(actor, 'agent');
  const [first] = identities;
  const moves = await movesOf(ctx, actor, id);
  const from = (source: string | null) =>
    source === 'number' ? 'as the number suggests' : source ? `said by ${source}` : '';
  return (
    <Page
      title={contact.name ?? (first ? nameOf(first) : 'A contact')}
      purpose={<ConsentMarks consents={consents} />}
      actions={
        <>
          {conversationId && (
            <Link href={`/route/conversations/${conversationId}`} className={`plain ${buttonClass()}`}>
              Conversation
            </Link>
          )}
          {agent && (
            <Link href={`/send/message?to=${contact.id}`} className={`plain ${buttonClass()}`}>
              Write to them
            </Link>
          )}
          {agent && (
            <DialogForm
              open="Record consent"
              title="Record an opt-in or opt-out with its evidence"
              submit="Record it"
              action={enterConsentAction.bind(null, id)}
            >
              <SelectField
                name="what"
                label="The contact"
                options={[
                  ['given', 'opted in to'],
                  ['withdrawn', 'opted out of'],
                ]}
              />
              <SelectField
                name="way"
                label="Channel kind"
                options={CONSENT_WAYS.map((way): [string, string] => [way, WAY_WORDS[way]])}
              />
              <TextAreaField
                name="wording"
                label="Evidence: where and in which words"
                rows={3}
                help="This is the evidence; it cannot be changed afterwards."
              />
            </DialogForm>
          )}
        </>
      }
    >
      <LiveRefresh since={since} topics={['contact']} subject={id} />
      <div className="grid gap-x-6 lg:grid-cols-[minmax(0,1fr)_340px]">
        <Section title="Details" id="known">
          <Panel className="p-4">
            <ActionForm action={changeContactAction.bind(null, id)} submit="Save">
              <fieldset disabled={!agent} className="grid gap-4 sm:grid-cols-2">
                <TextField name="name" label="Name" initial={contact.name ?? ''} />
                <TextField name="tags" label="Tags" initial={tags.join(', ')} help="Separated by commas." />
                <TextField
                  name="language"
                  label="Language"
                  exact
                  initial={contact.language ?? ''}
                  help={
                    contact.language
                      ? `${languageName(contact.language)}, ${from(contact.languageFrom)}`
                      : 'A tag such as en or sv'
                  }
                />
                <TextField
                  name="zone"
                  label="Time zone"
                  exact
                  initial={contact.zone ?? ''}
                  help={contact.zone ? from(contact.zoneFrom) : 'Such as Europe/London; the number does not tell.'}
                />
                <div className="sm:col-span-2">
                  <TextAreaField
                    name="attributes"
                    label="Attributes"
                    exact
                    rows={Math.max(3, Object.keys(attributes).length + 1)}
                    initial={Object.entries(attributes)
                      .map(([name, value]) => `${name}: ${value}`)
                      .join('\n')}
                    help="One a line, as name: value."
                  />
                </div>
              </fieldset>
            </ActionForm>
          </Panel>
        </Section>
        <Section title="Addresses" id="reached">
          <Panel className="p-4">
            <Addresses contactId={id} identities={identities} agent={agent} />
            <Facts
              items={[
                ...(contact.country
                  ? ([['Country', countryName(contact.country)]] as [string, React.ReactNode][])
                  : []),
                ...(identities.some(({ kind }) => identityKind(kind).telephone) ? [carrierOf(contact)] : []),
                ['Messages', String(messages)],
                ['Last wrote', contact.seenAt === null ? 'never' : <Age key="seen" at={contact.seenAt} past />],
                ['Known since', <Age key="since" at={contact.createdAt} past />],
              ]}
            />
          </Panel>
        </Section>
      </div>
      <Moves contactId={id} moves={moves} agent={agent} />
      {merges.length > 0 && (
        <Section title="Merged into this" id="merges">
          <Table
            caption="Contacts merged into this"
            rows={merges}
            keyOf={({ merge }) => merge.id}
            columns={[
              { head: 'When', className: 'whitespace-nowrap', cell: ({ merge }) => <ClockTime at={merge.at} /> },
              { head: 'Who', className: 'whitespace-nowrap', cell: ({ gone }) => gone ?? 'without a name' },
              { head: 'Reason', className: 'w-full', cell: ({ merge }) => merge.why },
              { head: 'By', className: 'whitespace-nowrap', cell: ({ merge }) => merge.by },
              {
                head: '',
                cell: ({ merge }) =>
                  agent && <ActionButton action={undoMergeAction.bind(null, merge.id)}>Undo</ActionButton>,
              },
            ]}
          />
        </Section>
      )}
      <Section title="Latest messages" id="messages">
        {latest.length === 0 ? (
          <p className="text-soft">Nothing was written either way.</p>
        ) : (
          <Table
            caption="Latest messages"
            rows={latest}
            keyOf={(message) => message.id}
            columns={[
              { head: 'When', className: 'whitespace-nowrap', cell: ({ createdAt }) => <ClockTime at={createdAt} /> },
              {
                head: 'Direction',
                className: 'whitespace-nowrap',
                cell: ({ direction, channel }) => `${direction === 'in' ? 'wrote to' : 'got from'} ${channel}`,
              },
              {
                head: 'Text',
                className: 'w-full',
                cell: ({ id: message, text }) => (
                  <Link href={`/watch/messages/${message}`}>{text.slice(0, 110) || 'a file'}</Link>
                ),
              },
              {
                head: 'State',
                className: 'whitespace-nowrap',
                cell: ({ direction, state }) => (direction === 'out' ? <Cairn state={state} /> : 'Received'),
              },
            ]}
          />
        )}
      </Section>
      <Section
        title="Consent ledger"
        id="ledger"
        aside={
          ledger.length > 0 &&
          hasRole(actor, 'administrator') && (
            <a href={`/compose/contacts/export?consents=${id}`} download>
              Export as evidence
            </a>
          )
        }
      >
        {ledger.length === 0 ? (
          <p className="text-soft">No consent is recorded yet: neither an opt-in nor an opt-out.</p>
        ) : (
          <Table
            caption="Consent ledger"
            rows={ledger}
            keyOf={({ id: entry }) => entry}
            columns={[
              { head: 'When', className: 'whitespace-nowrap', cell: ({ at }) => <ClockTime at={at} /> },
              {
                head: 'What',
                className: 'whitespace-nowrap',
                cell: ({ what, way }) => `${WHAT[what]} ${WAY_WORDS[way]}`,
              },
              { head: 'How', className: 'whitespace-nowrap', cell: ({ how }) => HOW[how] },
              {
                head: 'Wording',
                className: 'w-full',
                cell: ({ wording, ref }) => (
                  <>
                    “{wording}”
                    {ref?.startsWith('msg_') && (
                      <>
                        {' '}
                        <Link href={`/watch/messages/${ref}`}>Trail</Link>
                      </>
                    )}
                  </>
                ),
              },
              { head: 'By', className: 'whitespace-nowrap', cell: ({ by }) => displayAddress(by) },
            ]}
          />
        )}
      </Section>
    </Page>
  );
}

function carrierOf({ carrier, carrierAt, createdAt }: ContactView['contact']): [string, React.ReactNode] {
  const known = carrier && (
    <>
      {carrier}, <Age at={carrierAt ?? createdAt} />
    </>
  );
  return ['Carrier', known || 'not looked up'];
}
