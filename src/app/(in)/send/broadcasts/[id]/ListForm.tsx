'use client';

import { Field, TextAreaField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import type { FormState } from '../../../../../ui/forms/formState';
import { giveListAction } from '../actions';

const LARGEST = 1_000_000;

/** What no post may hold is said here, before it is sent. */
async function giveUnlessTooLarge(id: string, version: number, form: FormData): Promise<FormState> {
  const file = form.get('file');
  const size = (file instanceof File ? file.size : 0) + String(form.get('table') ?? '').length;
  if (size <= LARGEST) return giveListAction(id, version, form);
  const problem = 'The list is over 1 MB.';
  const remedy = 'Import it as contacts with a tag, and choose that tag as the audience.';
  return {
    status: 'refused',
    message: problem,
    findings: [{ field: 'file', finding: { code: 'list-too-large', severity: 'error', problem, remedy } }],
  };
}

/** Gives a broadcast a list of its own: a file, or lines that are pasted. */
export function ListForm({ id, version, lines }: { id: string; version: number; lines: number }) {
  return (
    <div>
      <DialogForm
        open={lines > 0 ? 'Replace the list' : 'Give it a list'}
        title="A list for this broadcast"
        description="A table whose first line has headings. One column holds numbers or e-mail addresses, the others can be put into the text. Numbers that contacts have are theirs, with all they agreed to and declined."
        submit="Take it"
        busy="Reading…"
        action={(form) => giveUnlessTooLarge(id, version, form)}
      >
        <Field
          name="file"
          label="File"
          help="CSV, up to 1 MB. Import longer ones as contacts with a tag, and choose that tag."
        >
          {(attributes) => <input {...attributes} type="file" accept=".csv,.txt,text/csv" />}
        </Field>
        <TextAreaField
          name="table"
          label="Or lines"
          rows={6}
          exact
          help="phone,name and so on in the first line, then a line for each person."
        />
      </DialogForm>
      <p className="mt-1 text-[13px] text-soft">
        {lines > 0
          ? `It has a list of ${lines.toLocaleString('en')} lines. Save what you wrote before you replace it.`
          : 'For people who are no contacts, or for columns of their own. Save what you wrote first.'}
      </p>
    </div>
  );
}
