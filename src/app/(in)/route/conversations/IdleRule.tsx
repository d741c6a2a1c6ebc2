import type { IdleRule as Rule } from '../../../../operations/conversations/conversationWork';
import { TextAreaField, TextField } from '../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../ui/forms/DialogForm';
import { setIdleAction } from './actions';

/** When conversations end by themselves. */
export function IdleRule({ rule }: { rule: Rule }) {
  return (
    <DialogForm
      open={rule.on ? `Close after ${rule.hours} hours` : 'Nothing closes by itself'}
      tone="quiet"
      title="Conversations that end by themselves"
      description="Only where we wrote last and nothing came back. One that waits for us stays open, however old it is."
      submit="Save"
      action={setIdleAction}
    >
      <label className="flex items-center gap-2">
        <input type="checkbox" name="on" value="on" defaultChecked={rule.on} />
        Close them
      </label>
      <TextField name="hours" label="After so many hours" initial={String(rule.hours)} exact />
      <TextAreaField
        name="notice"
        label="Tell them before"
        rows={2}
        initial={rule.notice}
        help="Empty: they are not told."
      />
      <TextField name="noticeHours" label="So many hours before" initial={String(rule.noticeHours)} exact />
    </DialogForm>
  );
}
