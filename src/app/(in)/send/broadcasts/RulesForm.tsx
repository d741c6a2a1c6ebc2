import { writeQuietTable } from '../../../../core/broadcast/quietHours';
import type { BroadcastRules } from '../../../../operations/broadcasts';
import { SelectField, TextAreaField, TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { broadcastRulesAction } from './actions';

/** What an owner sets for all broadcasts. */
export function RulesForm({ rules: { approval, roles, cap, quiet } }: { rules: BroadcastRules }) {
  return (
    <DialogForm open="Change" title="Rules for all broadcasts" submit="Save" action={broadcastRulesAction}>
      <div className="grid gap-3 sm:grid-cols-3">
        <SelectField
          name="prepare"
          label="Who may write them"
          initial={roles.prepare}
          options={[
            ['agent', 'agents too'],
            ['administrator', 'administrators'],
          ]}
        />
        <SelectField
          name="start"
          label="Who may start them"
          initial={roles.start}
          options={[
            ['agent', 'agents too'],
            ['administrator', 'administrators'],
          ]}
        />
        <SelectField
          name="approve"
          label="Who may approve them"
          initial={roles.approve}
          options={[
            ['administrator', 'administrators'],
            ['owner', 'owners only'],
          ]}
        />
      </div>
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField
          name="people"
          label="A second person above so many people"
          initial={approval.people === null ? '' : String(approval.people)}
          help="Empty: however many they are."
          exact
        />
        <TextField
          name="cost"
          label="Or above a cost of"
          initial={approval.micros === null ? '' : String(approval.micros / 1e6)}
          help="In whatever currency. Empty: whatever it costs."
          exact
        />
        <TextField name="most" label="Marketing to one person at most" initial={String(cap.most)} exact />
        <TextField name="days" label="in so many days" initial={String(cap.days)} exact />
      </div>
      <TextAreaField
        name="quiet"
        label="Quiet hours"
        rows={4}
        initial={writeQuietTable(quiet)}
        exact
        help="A country and its hours in each line, * for all others. The same time twice: no quiet hours there."
      />
    </DialogForm>
  );
}
