'use client';

import { useRouter } from 'next/navigation';
import { Field, TextAreaField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import type { FormState } from '../../../../../ui/forms/formState';

/** Gives a broadcast a list of its own: a file, or lines that are pasted. */
export function ListForm({ id, version, lines }: { id: string; version: number; lines: number }) {
  const router = useRouter();

  async function give(form: FormData): Promise<FormState> {
    form.set('version', String(version));
    const answer = await fetch(`/send/broadcasts/${id}/list`, { method: 'POST', body: form });
    if (!answer.ok) return { status: 'refused', message: `The list was not taken (${answer.status}).`, findings: [] };
    const state = (await answer.json()) as FormState;
    if (state.status === 'done') router.refresh();
    return state;
  }

  return (
    <div>
      <DialogForm
        open={lines > 0 ? 'Replace the list' : 'Give it a list'}
        title="A list for this broadcast"
        description="A table whose first line has headings. One column holds numbers or e-mail addresses, the others can be put into the text. Numbers that contacts have are theirs, with all they agreed to and declined."
        submit="Take it"
        busy="Reading…"
        action={give}
      >
        <Field name="file" label="File" help="CSV or XLSX, up to 200,000 lines.">
          {(attributes) => <input {...attributes} type="file" accept=".csv,.tsv,.txt,.xlsx" />}
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
