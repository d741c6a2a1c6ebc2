import type { RuleView } from '../../../../../operations/alerts';
import { SelectField, TextAreaField, TextField } from '../../../../../ui/forms/ActionForm';
import { Ticks } from '../../../../../ui/forms/Ticks';

interface Props {
  teams: string[];
  apps: [string, string][];
  /** Of the organisation. */
  zone: string;
  present?: RuleView;
}

type Ways = RuleView['ways'];

const mailsOf = (ways: Ways = []) =>
  ways.flatMap((way) => (way.by === 'mail' ? [way.to.replace(/^team /, '')] : [])).join('\n');
const phonesOf = (ways: Ways = []) => ways.flatMap((way) => (way.by === 'text' ? [way.phone] : [])).join(', ');
const timeOf = (minutes: number | undefined) =>
  minutes === undefined
    ? ''
    : `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;

/** The fields of a rule: of what, whom, when not, and whom where nobody takes it. */
export function RuleFields({ teams, apps, zone, present }: Props) {
  return (
    <div className="grid gap-4">
      <TextField name="name" label="Name" initial={present?.name} />
      <div className="grid gap-4 sm:grid-cols-2">
        <SelectField
          name="from"
          label="Tell of"
          options={[
            ['error', 'what is broken'],
            ['attention', 'what is broken or at risk'],
          ]}
          initial={present?.from ?? 'error'}
        />
        <TextField
          name="afterMinutes"
          label="Once it has lasted, in minutes"
          initial={String(present?.afterMinutes ?? 2)}
        />
      </div>
      {teams.length > 0 && (
        <SelectField
          name="team"
          label="About"
          options={[
            ['', 'everything'],
            ...teams.map((team): [string, string] => [team, `what belongs to the team ${team}`]),
          ]}
          initial={present?.team ?? ''}
        />
      )}
      <TextAreaField
        name="mailTo"
        label="Mail to"
        rows={2}
        initial={mailsOf(present?.ways)}
        help="An address, “administrators” or a team, each on a line."
      />
      <TextField
        name="phones"
        label="Text to"
        initial={phonesOf(present?.ways)}
        help="Phones with their country code, separated by commas."
      />
      {apps.length > 0 && (
        <Ticks
          legend="Apps"
          name="apps"
          options={apps}
          ticked={(present?.ways ?? []).flatMap((way) => (way.by === 'app' ? [way.app] : []))}
        />
      )}
      <div className="grid gap-4 sm:grid-cols-3">
        <TextField
          name="quietFrom"
          label="Quiet from"
          initial={timeOf(present?.quiet?.from)}
          help="Such as 22:00; empty for never."
        />
        <TextField name="quietUntil" label="Quiet until" initial={timeOf(present?.quiet?.until)} />
        <TextField name="zone" label="Time zone" exact initial={present?.quiet?.zone ?? zone} />
      </div>
      <Ticks
        legend="In quiet hours"
        name="quietBut"
        options={[['errors', 'what is broken is told all the same']]}
        ticked={(present?.quiet?.butErrors ?? true) ? ['errors'] : []}
      />
      <div className="grid gap-4 sm:grid-cols-2">
        <TextField
          name="escalateAfter"
          label="Where nobody takes it in so many minutes"
          initial={present?.escalate ? String(present.escalate.afterMinutes) : ''}
          help="Empty: nobody else is told."
        />
        <TextField name="escalatePhones" label="Text to, then" initial={phonesOf(present?.escalate?.ways)} />
      </div>
      <TextAreaField name="escalateMailTo" label="Mail to, then" rows={2} initial={mailsOf(present?.escalate?.ways)} />
      <Ticks
        legend="The rule"
        name="on"
        options={[['on', 'is in force']]}
        ticked={(present?.enabled ?? true) ? ['on'] : []}
      />
    </div>
  );
}
