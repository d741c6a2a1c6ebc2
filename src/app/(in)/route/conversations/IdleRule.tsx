import type { IdleRule as Rule } from '../../../../operations/conversations';
import { TextAreaField, TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { setIdleAction } from './actions';

/** When conversations end by themselves. */
export function IdleRule({ rule }: { rule: Rule }) {
  return (
    <DialogForm
      open={rule.on ? `Auto-close: after ${rule.hours} hours` : 'Auto-close: off'}
      tone="quiet"
      title="Close idle conversations automatically"
      description="Only where we wrote last and nothing came back. One that waits for us stays open, however old it is."
      submit="Save"
      action={setIdleAction}
    >
      <label className="flex items-center gap-2">
        <input type="checkbox" name="on" value="on" defaultChecked={rule.on} />
        Auto-close
      </label>
      <TextField name="hours" label="Hours without a message" initial={String(rule.hours)} exact />
      <TextAreaField
        name="notice"
        label="Notice to the contact before closing"
        rows={2}
        initial={rule.notice}
        help="Empty: no notice is sent."
      />
      <TextField name="noticeHours" label="Hours before closing" initial={String(rule.noticeHours)} exact />
    </DialogForm>
  );
}
