import { displayAddress } from '../../../../../core/addresses/display';
import { CALL_WORDS } from '../../../../../core/phone/calls';
import type { PhoneSystemView } from '../../../../../operations/apps/phone';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { ProofRow } from '../../../../../ui/domain/ProofRow';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { CarryValue } from '../../../../../ui/primitives/CopyButton';
import { Link } from '../../../../../ui/primitives/Link';
import { Panel } from '../../../../../ui/primitives/layout';
import { Table } from '../../../../../ui/primitives/Table';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import { proofViews } from '../../../../_server/proofViews';
import { AutomationHead } from '../../_parts/AutomationHead';
import { changePhoneSystemAction, switchPhoneSystemAction } from '../../phoneActions';
import { PhoneFields } from './PhoneFields';

interface Props {
  view: PhoneSystemView;
  appName: string;
  channels: [string, string][];
  countries: [string, string][];
  admin: boolean;
}

/** One telephone system: its address, what is done about which calls, and what was done about the latest. */
export function PhonePanel({ view, appName, channels, countries, admin }: Props) {
  const { system, url, proofs, calls } = view;
  return (
    <Panel className="grid gap-3 p-4">
      <CarryValue
        label="Address for calls"
        direction={`${appName} calls this; Windgap owns it`}
        value={url}
        note="POST event (incoming, missed or voicemail-box), caller, called and call, as a form or as JSON."
      />
      <AutomationHead
        admin={admin}
        id={system.id}
        disabledAt={system.disabledAt}
        onSwitch={switchPhoneSystemAction}
        actions={
          <DialogForm
            open="Change"
            title={system.name}
            submit="Save"
            action={changePhoneSystemAction.bind(null, system.id)}
          >
            <PhoneFields channels={channels} countries={countries} present={system} />
          </DialogForm>
        }
      >
        <p className="flex items-center gap-2">
          <ProofRow proofs={proofViews(proofs)} />
          {system.disabledAt === null ? (
            <>
              For calls that are {system.events.join(', ')}; a caller is answered at most once in {system.onceHours} h.
            </>
          ) : (
            <span className="text-clay">
              Switched off <Age at={system.disabledAt} />: posts are answered 410.
            </span>
          )}
        </p>
        {system.answer && <p className="mt-1">Caller: “{system.answer}”</p>}
        {system.alert && (
          <p className="mt-1">
            {[...system.alertPhones.map(displayAddress), ...system.alertMails].join(', ')}: “{system.alert}”
          </p>
        )}
      </AutomationHead>
      {calls.length > 0 && (
        <Table
          caption={`Calls of ${system.name}`}
          rows={calls}
          keyOf={({ call }) => call.id}
          columns={[
            {
              head: 'Received',
              className: 'whitespace-nowrap',
              cell: ({ call }) => <ClockTime at={call.receivedAt} />,
            },
            {
              head: 'Call',
              cell: ({ call }) =>
                call.event
                  ? `${call.caller ? displayAddress(call.caller) : 'A hidden number'} ${CALL_WORDS[call.event]}`
                  : 'not understood',
            },
            { head: 'Finished tasks', cell: (row) => <Done row={row} /> },
            { head: 'Answered', figures: true, cell: ({ call }) => call.answerStatus },
          ]}
        />
      )}
    </Panel>
  );
}

function Done({ row: { call, runs } }: { row: PhoneSystemView['calls'][number] }) {
  return (
    <>
      {runs.map((run) => {
        const last = run.results.at(-1);
        if (run.state === 'failed')
          return (
            <span key={run.id} className="block text-clay">
              <ProofMark state="broken" label="" size={11} /> {last?.finding?.problem ?? last?.said}
            </span>
          );
        return (
          <span key={run.id} className="block">
            {last?.ref?.startsWith('msg_') ? (
              <Link href={`/watch/messages/${last.ref}`}>{last.said}</Link>
            ) : (
              (last?.said ?? 'On its way')
            )}
          </span>
        );
      })}
      {call.reason && <span className={call.state === 'refused' ? 'text-clay' : 'text-soft'}>{call.reason}</span>}
    </>
  );
}
