import { displayAddress } from '../../../../../core/addresses/display';
import type { MoveView, SideOfMove } from '../../../../../operations/channels';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { SelectField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { CopyButton } from '../../../../../ui/primitives/CopyButton';
import { Panel, Section } from '../../../../../ui/primitives/layout';
import { Age, ClockTime } from '../../../../../ui/primitives/Time';
import {
  endMoveAction,
  handOverOtherAction,
  prepareMoveAction,
  rehearseMoveAction,
  swapSidesAction,
  timeCutOverAction,
} from '../moveActions';

interface Props {
  channel: { id: string; name: string; address: string };
  view: MoveView | undefined;
  /** Accounts it could move to. */
  choices: [string, string][];
  phones: { number: string; owner: string }[];
  admin: boolean;
}

/** Takes a number to another provider: both sides are listened to, and either can send. */
export function MoveNumber({ channel, view, choices, phones, admin }: Props) {
  if (!view) {
    if (!admin || choices.length === 0) return null;
    return (
      <Section
        title="Another provider"
        id="move"
        aside={
          <DialogForm
            open="Move the number"
            title={`Move ${displayAddress(channel.address)}`}
            description="Both providers are listened to from now on; which one sends changes when you say so, or at a time you give, and back again. Conversations and routes stay."
            submit="Begin"
            action={prepareMoveAction.bind(null, channel.id)}
          >
            <SelectField name="account" label="To" options={choices} />
          </DialogForm>
        }
      >
        <p className="text-soft">The number can move to another account and stay this channel.</p>
      </Section>
    );
  }
  const [sending, other] = view.sides;
  const prepared = view.move.state === 'prepared';
  const { id, cutOverAt, said } = view.move;
  return (
    <Section title={prepared ? 'On its way to another provider' : 'Moved from another provider'} id="move">
      <Panel className="grid gap-4 p-4">
        <Side side={sending} />
        <Side side={other} />
        {said && <p className="border-l-4 border-ochre pl-3">{said}</p>}
        {prepared && cutOverAt !== null && (
          <p>
            It begins to send through {other.account} at <ClockTime at={cutOverAt} />.
          </p>
        )}
        {admin && (
          <div className="flex flex-wrap items-center gap-2">
            {other.canSetAddress && other.has !== 'ours' && (
              <ActionButton action={handOverOtherAction.bind(null, channel.id, id)}>
                Set the address at {other.account}
              </ActionButton>
            )}
            {prepared && other.canRehearse && phones.length > 0 && (
              <DialogForm
                open="Rehearse"
                title={`One text through ${other.account}`}
                description="From this number, to a phone you can see. A provider that has not got the number yet refuses it, and says so."
                submit="Send it"
                action={rehearseMoveAction.bind(null, channel.id, id)}
              >
                <SelectField
                  name="to"
                  label="To"
                  options={phones.map(({ number, owner }) => [number, `${owner}, ${displayAddress(number)}`])}
                />
              </DialogForm>
            )}
            <ActionButton
              action={swapSidesAction.bind(null, channel.id, id)}
              confirm={{
                title: prepared ? `Send through ${other.account} from now on?` : `Back to ${other.account}?`,
                consequence:
                  'What waits goes through it, and each hop is to be proven again. What comes in is taken over both sides. One click brings it back.',
                go: prepared ? 'Cut over' : 'Move back',
              }}
            >
              {prepared ? 'Cut over now' : 'Move back'}
            </ActionButton>
            {prepared && (
              <DialogForm
                open={cutOverAt === null ? 'Cut over at a time' : 'Change the time'}
                title="When it begins to send over the other side"
                description="If that account does not accept its credentials then, it stays where it is and says so."
                submit="Save"
                action={timeCutOverAction.bind(null, channel.id, id)}
              >
                <TextField
                  name="at"
                  label="Time, with zone"
                  initial={cutOverAt === null ? '' : new Date(cutOverAt).toISOString().slice(0, 16).concat('Z')}
                  help="Such as 2027-02-01T06:00Z. Empty: when somebody says so."
                  exact
                />
              </DialogForm>
            )}
            <ActionButton
              action={endMoveAction.bind(null, channel.id, id)}
              confirm={{
                title: prepared ? 'Call the move off?' : `Stop listening to ${other.account}?`,
                consequence: prepared
                  ? `All stays as it is; what ${other.account} posts is refused from then on.`
                  : `What still comes over ${other.account} is refused from then on, and it is moved back no more.`,
                go: prepared ? 'Call it off' : 'End the move',
              }}
            >
              {prepared ? 'Call it off' : 'End the move'}
            </ActionButton>
          </div>
        )}
      </Panel>
    </Section>
  );
}

const HAS = {
  ours: 'It has this address.',
  another: 'It has another address.',
  nothing: 'It has no address yet.',
  'not-told': 'It does not tell which address it has.',
} as const;

function Side({ side }: { side: SideOfMove }) {
  return (
    <div>
      <p className="font-medium">
        {side.account}{' '}
        <span className="font-normal text-soft">{side.sends ? 'sends and is listened to' : 'is listened to'}</span>
      </p>
      {side.refused && <p className="text-clay">Nothing would be sent: {side.refused}.</p>}
      {side.url ? (
        <p className="flex flex-wrap items-center gap-2">
          <code className="break-all">{side.url}</code>
          <CopyButton value={side.url} what={`the inbound URL for ${side.account}`} />
          <span className="text-[13px] text-soft">{HAS[side.has]}</span>
        </p>
      ) : (
        <p className="text-[13px] text-soft">Over its bind.</p>
      )}
      <p className="text-[13px] text-soft">
        {side.came === 0 ? (
          'Nothing has come over it since the move began.'
        ) : (
          <>
            {side.came} {side.came === 1 ? 'request' : 'requests'} since the move began, the last{' '}
            {side.lastAt !== undefined && <Age at={side.lastAt} />}
          </>
        )}
      </p>
    </div>
  );
}
