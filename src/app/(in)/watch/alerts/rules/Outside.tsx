import { STATUS_WORDS } from '../../../../../core/installationStatus';
import type { HeartbeatView } from '../../../../../operations/status';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Ticks } from '../../../../../ui/forms/Ticks';
import { CopyButton } from '../../../../../ui/primitives/CopyButton';
import { Section } from '../../../../../ui/primitives/layout';
import { Age } from '../../../../../ui/primitives/Time';
import { beatNowAction, endHeartbeatAction, setHeartbeatAction, setStatusPageAction } from '../actions';

interface Props {
  heartbeat: HeartbeatView | undefined;
  status: { address: string; channels: boolean } | undefined;
}

/** What tells people who are not here: that Windgap lives, and whether messages go. */
export function Outside({ heartbeat, status }: Props) {
  return (
    <>
      <Section
        title="Heartbeat"
        id="heartbeat"
        aside={
          <span className="inline-flex gap-2">
            {heartbeat && (
              <>
                <ActionButton action={beatNowAction}>Post one now</ActionButton>
                <ActionButton action={endHeartbeatAction}>Stop</ActionButton>
              </>
            )}
            <DialogForm
              open={heartbeat ? 'Change' : 'Post a heartbeat'}
              label="Change the heartbeat"
              title="Heartbeat"
              submit="Save"
              action={setHeartbeatAction}
            >
              <div className="grid gap-4">
                <TextField
                  name="url"
                  label="Address"
                  exact
                  help={`The URL of a service that alerts you when no heartbeat arrives. It is stored sealed${heartbeat ? '; leave it empty to keep the present one' : ''}.`}
                />
                <TextField
                  name="everyMinutes"
                  label="Interval in minutes"
                  initial={String(heartbeat?.everyMinutes ?? 5)}
                />
              </div>
            </DialogForm>
          </span>
        }
      >
        <p className="text-[13px] text-soft">
          {heartbeat ? (
            <>
              Posted to {heartbeat.host} every {heartbeat.everyMinutes} min while the engine works
              {heartbeat.last?.takenAt && (
                <>
                  , accepted <Age at={heartbeat.last.takenAt} />
                </>
              )}
              .
              {heartbeat.last?.said && (
                <span className="text-clay"> The last one was not accepted: {heartbeat.last.said}.</span>
              )}
            </>
          ) : (
            'Nobody outside would notice if Windgap itself fell silent: alerts need a Windgap that works.'
          )}
        </p>
      </Section>
      <Section
        title="Status page"
        id="status"
        aside={
          <DialogForm
            open={status ? 'Change' : 'Open a status page'}
            label="Change the status page"
            title="Status page"
            submit="Save"
            action={setStatusPageAction}
          >
            <p className="mb-3 text-[13px] text-soft">
              It says without a sign-in whether “{STATUS_WORDS.well.toLowerCase()}”. With each change it gets a new
              address, and the former one leads nowhere.
            </p>
            <Ticks
              legend="The page"
              name="status"
              options={[
                ['open', 'is open to whoever has its address'],
                ['channels', 'names the channels'],
              ]}
              ticked={status ? ['open', ...(status.channels ? ['channels'] : [])] : ['open']}
            />
          </DialogForm>
        }
      >
        {status ? (
          <p className="flex flex-wrap items-center gap-2 text-[13px]">
            <a href={status.address} className="font-mono break-all">
              {status.address}
            </a>
            <CopyButton value={status.address} what="the address" />
          </p>
        ) : (
          <p className="text-[13px] text-soft">No status page is open.</p>
        )}
      </Section>
    </>
  );
}
