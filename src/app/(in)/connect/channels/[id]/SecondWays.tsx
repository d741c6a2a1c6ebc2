import { FALLBACK_SCOPES } from '../../../../../core/delivery/fallback';
import type { FallbackRuleView } from '../../../../../operations/outbound';
import { ActionButton } from '../../../../../ui/forms/ActionButton';
import { CheckField, SelectField, TextAreaField, TextField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Section } from '../../../../../ui/primitives/layout';
import { addFallbackAction, removeFallbackAction } from '../actions';

interface Props {
  channelId: string;
  channelName: string;
  rules: FallbackRuleView[];
  /** Ids and names of the other channels. */
  others: [string, string][];
  admin: boolean;
}

/** Over which other channel messages go when this one does not deliver them. */
export function SecondWays({ channelId, channelName, rules, others, admin }: Props) {
  return (
    <Section
      title="If it is not delivered"
      id="second-way"
      aside={
        admin &&
        others.length > 0 && (
          <DialogForm
            open="Add a second way"
            title={`What ${channelName} does not deliver`}
            description="It goes over another channel, to the same person. Whatever may not be sent over that one is not."
            submit="Save"
            action={addFallbackAction.bind(null, channelId)}
          >
            <SelectField name="to" label="It goes over" options={others} />
            <TextField
              name="minutes"
              label="If it is not delivered within so many minutes"
              help="Empty: only once it has certainly failed. A provider that takes a last moment is told to try no longer."
              exact
            />
            <SelectField name="what" label="For" options={Object.entries(FALLBACK_SCOPES)} />
            <TextAreaField
              name="countries"
              label="Only to these countries, each on a line"
              rows={2}
              help="Empty: to all."
            />
            <CheckField
              name="twice"
              label="Twice is better than never"
              help="Without it nothing goes a second way as long as the first may have arrived: no answer, no receipt."
            />
          </DialogForm>
        )
      }
    >
      {rules.length === 0 ? (
        <p className="text-soft">What fails is shown as failed. Nothing is sent another way.</p>
      ) : (
        <ol className="grid gap-2">
          {rules.map((rule) => (
            <li key={rule.id} className="flex items-start justify-between gap-3">
              <p>
                {sentence(rule)}
                <span className="block text-[13px] text-soft">
                  {rule.twice
                    ? 'Also where the first may have arrived: it may be there twice.'
                    : 'Not as long as the first may have arrived.'}
                </span>
                {rule.sameAccount && (
                  <span className="block text-[13px] text-ochre-ink">
                    ▲ Both go through one account: what stops it stops both.
                  </span>
                )}
              </p>
              {admin && (
                <ActionButton action={removeFallbackAction.bind(null, channelId, rule.id)}>Remove</ActionButton>
              )}
            </li>
          ))}
        </ol>
      )}
    </Section>
  );
}

function sentence({ what, countryNames, after, toName }: FallbackRuleView): string {
  const subject = FALLBACK_SCOPES[what];
  const where = countryNames.length > 0 ? ` to ${countryNames.join(', ')}` : '';
  const minutes = (after ?? 0) / 60_000;
  const when = after === null ? 'once it has failed' : `after ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}`;
  return `${subject.charAt(0).toUpperCase()}${subject.slice(1)}${where} goes over ${toName} ${when}.`;
}
