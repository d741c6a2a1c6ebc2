import type { MailKeyView } from '../../../../../operations/mailSigning';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { CarryValue } from '../../../../../ui/primitives/CopyButton';
import { Panel, Section } from '../../../../../ui/primitives/layout';
import { Age } from '../../../../../ui/primitives/Time';
import { lookForRecordAction, makeMailKeyAction, removeMailKeyAction } from '../actions';

const WORDS = {
  published: 'The record stands: mail is signed here',
  missing: 'There is no record yet: mail leaves here unsigned',
  differs: 'The record is not right: mail leaves here unsigned',
} as const;

/** The key mail is signed with, the record that has to stand at the domain, and whether it does. */
export function MailKeySection({ accountId, view, admin }: { accountId: string; view: MailKeyView; admin: boolean }) {
  const { domain, record } = view;
  return (
    <Section title="Signed mail" id="signing">
      <Panel className="grid max-w-[820px] gap-3 p-4">
        {!record ? (
          <>
            <p>
              Mail from {domain} is not signed here (DKIM). If the mail server does not sign it either, receivers cannot
              tell it from forged mail, and large mail services may refuse it. Only what is signed here carries the link
              by which people leave with one press.
            </p>
            {admin && (
              <p>
                <ActionButton tone="primary" action={makeMailKeyAction.bind(null, accountId)} busy="Making a key…">
                  Make a key
                </ActionButton>
              </p>
            )}
          </>
        ) : (
          <>
            <p className="flex items-center gap-2 font-medium" data-record-state={record.state}>
              <ProofMark
                state={record.state === 'published' ? 'proven' : record.state === 'differs' ? 'broken' : 'unproven'}
                label=""
              />
              {WORDS[record.state]}
              {record.said && <span className="font-normal text-clay">({record.said})</span>}
              {record.lookedAt && (
                <span className="font-normal text-soft">
                  looked for <Age at={record.lookedAt} />
                </span>
              )}
            </p>
            <CarryValue
              label="Name of the TXT record"
              direction={`Whoever keeps the records of ${domain} publishes this`}
              value={record.name}
            />
            <CarryValue
              label="Text of the record"
              direction="Receivers read it there"
              value={record.value}
              note="Over 255 characters: some record forms want it cut into strings, which belong together."
            />
            {admin && (
              <p className="flex flex-wrap gap-2">
                <ActionButton tone="primary" action={lookForRecordAction.bind(null, accountId)} busy="Looking…">
                  Look for it now
                </ActionButton>
                <ActionButton
                  action={makeMailKeyAction.bind(null, accountId)}
                  confirm={{
                    title: 'Make another key?',
                    consequence:
                      'Mail leaves here unsigned until the record of the new key stands. It has another name; leave the present record for a week, for mail that is under way.',
                    go: 'Make it',
                  }}
                >
                  Make another key
                </ActionButton>
                <ActionButton
                  tone="quiet"
                  action={removeMailKeyAction.bind(null, accountId)}
                  confirm={{
                    title: 'Sign no more?',
                    consequence:
                      'Mail leaves here unsigned from now on, and without the link by which people leave with one press.',
                    go: 'Remove the key',
                  }}
                >
                  Remove the key
                </ActionButton>
              </p>
            )}
          </>
        )}
      </Panel>
    </Section>
  );
}
