import { cause } from '../../../../../core/delivery/causes';
import type { MailboxView } from '../../../../../operations/mailboxes';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { Panel, Section } from '../../../../../ui/primitives/layout';
import { Age } from '../../../../../ui/primitives/Time';

const WORDS = {
  opening: 'Being opened',
  open: 'Open: what comes is read at once',
  waiting: 'Not open; trying again',
  refused: 'Refused by the mail server',
} as const;

/** How the mailbox stands that mail is read from. */
export function MailboxSection({ mailbox, connectorName }: { mailbox: MailboxView; connectorName: string }) {
  const { state, since, cause: code, said, nextTryAt, taken, lastAt } = mailbox;
  return (
    <Section title="The mailbox" id="mailbox">
      <Panel className="max-w-[720px] p-4">
        <p className="flex items-center gap-2 font-medium" data-mailbox-state={state}>
          <ProofMark state={state === 'open' ? 'proven' : state === 'opening' ? 'unproven' : 'broken'} label="" />
          {WORDS[state]}
          <span className="font-normal text-soft">
            since <Age at={since} />
          </span>
        </p>
        {!code && said && <p className="mt-1 text-[13px]">{said}</p>}
        {code && (
          <p className="mt-1 text-[13px]">
            <span className="text-clay">
              {cause(code).title}
              {said ? ` (${said})` : ''}.
            </span>{' '}
            {cause(code).remedy}
          </p>
        )}
        {nextTryAt && state !== 'open' && (
          <p className="mt-1 text-[13px] text-soft">
            Next try <Age at={nextTryAt} />.
          </p>
        )}
        <p className="mt-2 text-[13px]">
          {taken === 0 ? (
            'No mail has come since reading began.'
          ) : (
            <>
              {taken} {taken === 1 ? 'mail' : 'mails'} read
              {lastAt && (
                <>
                  , the last of them came <Age at={lastAt} />
                </>
              )}
              .
            </>
          )}{' '}
          <span className="text-soft">
            What was there before is not read, and nothing in {connectorName}’s mailbox is changed or marked.
          </span>
        </p>
      </Panel>
    </Section>
  );
}
