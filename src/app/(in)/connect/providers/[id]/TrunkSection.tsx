import { displayAddress } from '../../../../../core/addresses/display';
import { cause } from '../../../../../core/delivery/causes';
import type { TrunkView } from '../../../../../operations/trunks';
import { elapsedWords } from '../../../../../ui/domain/elapsed';
import { ProofMark } from '../../../../../ui/domain/ProofMark';
import { SelectField, TextAreaField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { EncryptionFields } from '../../../../../ui/forms/EncryptionFields';
import { Link } from '../../../../../ui/primitives/Link';
import { Panel, Section } from '../../../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import { addNumbersAction, trunkSettingsAction } from '../actions';

interface Props {
  accountId: string;
  trunk: TrunkView;
  connectorName: string;
  countries: [string, string][];
  admin: boolean;
}

const STATE_WORDS = {
  binding: 'Binding',
  bound: 'Bound',
  waiting: 'Not bound; trying again',
  refused: 'Refused by the carrier',
  off: 'Off',
} as const;

export function TrunkSection({ accountId, trunk, connectorName, countries, admin }: Props) {
  const { state, stale, settings } = trunk;
  const shown = stale ? undefined : state;
  return (
    <Section
      title="The trunk"
      id="trunk"
      aside={
        admin && (
          <span className="flex gap-2">
            <AddNumbers accountId={accountId} connectorName={connectorName} countries={countries} />
            <TrunkSettings accountId={accountId} trunk={trunk} connectorName={connectorName} />
          </span>
        )
      }
    >
      <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,420px)_minmax(0,1fr)]">
        <Panel className="p-4">
          <p className="flex items-center gap-2 font-medium" data-trunk-state={shown?.state ?? 'unknown'}>
            <ProofMark
              state={shown?.state === 'bound' ? 'proven' : shown?.state === 'refused' ? 'broken' : 'unproven'}
              label=""
            />
            {shown ? STATE_WORDS[shown.state] : 'The engine says nothing of this trunk'}
            {shown && (
              <span className="font-normal text-soft">
                {' '}
                since <Age at={shown.since} />
              </span>
            )}
          </p>
          {shown?.cause && (
            <p className="mt-1 text-[13px]">
              <span className="text-clay">
                {cause(shown.cause).title}
                {shown.said ? ` (${shown.said})` : ''}.
              </span>{' '}
              {cause(shown.cause).remedy}
            </p>
          )}
          {shown?.nextTryAt && shown.state !== 'bound' && (
            <p className="mt-1 text-[13px] text-soft">
              Next try <Age at={shown.nextTryAt} />.
            </p>
          )}
          <Pace now={shown?.sentLastSecond ?? 0} pace={settings.pace} />
          <dl className="mt-3 grid grid-cols-2 gap-x-4 gap-y-1 text-[13px]">
            {[
              [
                'In the queue',
                `${trunk.queued}${trunk.queued > 0 ? `, gone in ${elapsedWords(trunk.forecastMs)}` : ''}`,
              ],
              ['Unanswered', `${shown?.unanswered ?? 0} of ${settings.window}`],
              ['Accepted', shown?.accepted ?? 0],
              ['Refused', shown?.refused ?? 0],
              ['Bound since the engine started', shown?.reconnects === 1 ? 'once' : `${shown?.reconnects ?? 0} times`],
            ].map(([label, value]) => (
              <div key={label} className="contents">
                <dt className="text-soft">{label}</dt>
                <dd className="tabular-nums">{value}</dd>
              </div>
            ))}
          </dl>
          {trunk.strays.length > 0 && (
            <div className="mt-3 border-l-4 border-ochre pl-3 text-[13px]">
              <p className="font-medium">Texts came for numbers that no channel has</p>
              {trunk.strays.map((stray) => (
                <p key={stray.id}>
                  <Link href={`/watch/inbound/${stray.id}`}>{displayAddress(stray.to)}</Link>,{' '}
                  <Age at={stray.receivedAt} />
                </p>
              ))}
              <p>A number may be mistyped here, or missing. Correct or add it, and make it a channel.</p>
            </div>
          )}
        </Panel>
        <PduLog pdus={trunk.pdus} />
      </div>
    </Section>
  );
}

/** Messages in the last second against the pace. */
function Pace({ now, pace }: { now: number; pace: number }) {
  const share = Math.min(100, (now / pace) * 100);
  return (
    <div className="mt-3">
      <p className="flex justify-between text-[13px]">
        <span className="text-soft">Last second</span>
        <span className="tabular-nums">
          {now} of {pace} a second
        </span>
      </p>
      <div className="mt-1 h-2 rounded-sm bg-bank" aria-hidden>
        <div className="h-2 rounded-sm bg-ridge" style={{ width: `${share}%` }} />
      </div>
    </div>
  );
}

function PduLog({ pdus }: { pdus: TrunkView['pdus'] }) {
  return (
    <section
      className="max-h-[340px] overflow-auto rounded-md border border-line bg-panel"
      aria-label="What went over the trunk"
      tabIndex={0}
    >
      <table className="w-full border-collapse text-xs">
        <caption className="sr-only">What went over the trunk, newest first</caption>
        <thead className="sticky top-0 bg-panel text-left text-soft">
          <tr>
            {['Time', 'Direction', 'PDU', 'Status', 'Fields'].map((head) => (
              <th key={head} scope="col" className="border-b border-line px-2 py-1.5 font-medium">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody className="font-mono">
          {pdus.map((pdu) => (
            <tr key={pdu.id} className="border-b border-line align-top last:border-0">
              <td className="px-2 py-1 whitespace-nowrap">
                <ClockTime at={pdu.at} millis />
              </td>
              <td className="px-2 py-1">{pdu.way === 'in' ? 'from carrier' : 'to carrier'}</td>
              <td className="px-2 py-1">{pdu.command}</td>
              <td className={`px-2 py-1 ${pdu.status ? 'text-clay' : ''}`}>
                {pdu.status ? `0x${pdu.status.toString(16)}` : 'ok'}
              </td>
              <td className="px-2 py-1 break-all">
                {Object.entries(pdu.fields)
                  .map(([name, value]) => `${name}=${String(value)}`)
                  .join(' ')}
              </td>
            </tr>
          ))}
          {pdus.length === 0 && (
            <tr>
              <td colSpan={5} className="px-2 py-3 text-soft">
                Nothing yet.
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </section>
  );
}

function AddNumbers({ accountId, connectorName, countries }: Pick<Props, 'accountId' | 'connectorName' | 'countries'>) {
  return (
    <DialogForm
      open="Add numbers"
      title={`Numbers ${connectorName} has assigned`}
      description="One a line, written in any way. The carrier has no list that could be read, so what is typed wrongly shows when texts come."
      submit="Add them"
      action={addNumbersAction.bind(null, accountId)}
    >
      <TextAreaField name="numbers" label="Numbers" rows={5} exact />
      <TextAreaField
        name="names"
        label="Sender names"
        rows={2}
        help="Letters in the place of a number, each on a line. Nobody can answer a name; some countries refuse it or want it registered."
        exact
      />
      <SelectField
        name="country"
        label="Country of national numbers"
        options={[['', 'none: they are refused'], ...countries]}
      />
    </DialogForm>
  );
}

function TrunkSettings({
  accountId,
  trunk,
  connectorName,
}: {
  accountId: string;
  trunk: TrunkView;
  connectorName: string;
}) {
  const { settings, most } = trunk;
  return (
    <DialogForm
      open="Trunk settings"
      title="Trunk settings"
      description={`What carriers vary. ${connectorName} takes at most ${most.pace} messages a second and ${most.window} unanswered. The trunk binds again when they change.`}
      submit="Save and bind again"
      action={trunkSettingsAction.bind(null, accountId)}
    >
      <div className="grid gap-4 sm:grid-cols-2">
        <SelectField
          name="bind"
          label="Bind"
          initial={settings.bind}
          options={[
            ['transceiver', 'one transceiver'],
            ['transmitter and receiver', 'transmitter and receiver'],
          ]}
        />
        <SelectField
          name="defaultAlphabet"
          label="data_coding 0 means"
          initial={settings.defaultAlphabet}
          options={[
            ['gsm-7', 'GSM-7'],
            ['latin-1', 'Latin-1'],
          ]}
        />
        <SelectField
          name="longText"
          label="Parts of long texts are marked by"
          initial={settings.longText}
          options={[
            ['header', 'a header in the text'],
            ['sar', 'sar parameters'],
            ['payload', 'none: one message_payload'],
          ]}
        />
        <SelectField
          name="receiptIds"
          label="Ids in receipts are"
          initial={settings.receiptIds}
          options={[
            ['same', 'as in the answers'],
            ['decimal-in-receipts', 'decimal, hexadecimal in answers'],
            ['hex-in-receipts', 'hexadecimal, decimal in answers'],
          ]}
        />
        <TextField name="pace" label="Messages a second" initial={String(settings.pace)} exact />
        <TextField name="window" label="Unanswered at once" initial={String(settings.window)} exact />
        <TextField
          name="keepAliveSeconds"
          label="Seconds of silence before asking"
          initial={String(settings.keepAliveSeconds)}
          exact
        />
        <TextField
          name="answerSeconds"
          label="Seconds to wait for an answer"
          initial={String(settings.answerSeconds)}
          exact
        />
        <EncryptionFields encryption={settings.encryption} believed={settings.believed} />
      </div>
    </DialogForm>
  );
}
