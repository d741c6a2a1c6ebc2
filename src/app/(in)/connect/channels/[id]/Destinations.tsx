import { countryName } from '../../../../../core/addresses/display';
import { type AllowedDestinations, COSTLY_KINDS, COSTLY_WORDS } from '../../../../../core/limits/destination';
import { CheckField, TextAreaField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import { Link } from '../../../../../ui/primitives/Link';
import { Facts, Section } from '../../../../../ui/primitives/layout';
import { destinationsAction } from '../actions';

interface Props {
  channelId: string;
  channelName: string;
  allowed: AllowedDestinations & { chosen: boolean };
  admin: boolean;
}

/** The countries and the costly kinds of numbers that a channel may text. */
export function Destinations({ channelId, channelName, allowed, admin }: Props) {
  const { countries, costly, chosen } = allowed;
  const names = countries.map((code) => countryName(code)).sort((a, b) => a.localeCompare(b, 'en'));
  return (
    <Section
      title="Where it may text"
      id="destinations"
      aside={
        admin && (
          <DialogForm
            open="Change"
            label="Change where it may text"
            title={`Where ${channelName} may text`}
            description="Whoever wrote to you within 30 days may be answered in any country. Without any line the countries of your own numbers count."
            submit="Save"
            action={destinationsAction.bind(null, channelId)}
          >
            <TextAreaField name="countries" label="Countries, each on a line" rows={6} initial={names.join('\n')} />
            {COSTLY_KINDS.map((kind) => (
              <CheckField
                key={kind}
                name={kind}
                label={COSTLY_WORDS[kind].many}
                initial={costly.includes(kind)}
                help={kind === 'premium' ? 'Each of these costs many times a text.' : undefined}
              />
            ))}
          </DialogForm>
        )
      }
    >
      <Facts
        items={[
          ['Countries', names.join(', ') || 'none'],
          ['Costly numbers', costly.map((kind) => COSTLY_WORDS[kind].many).join('; ') || 'refused'],
          ['Chosen', chosen ? 'for this channel' : 'the countries you work in'],
          [
            'How much',
            <Link key="limits" href="/send/limits">
              The limits on sending
            </Link>,
          ],
        ]}
      />
    </Section>
  );
}
