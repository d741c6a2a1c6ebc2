'use client';

import { useRouter } from 'next/navigation';
import { Field, SelectField } from '../../../../../ui/forms/ActionForm';
import { DialogForm } from '../../../../../ui/forms/DialogForm';
import type { FormState } from '../../../../../ui/forms/formState';

export function BeginImport({ countries }: { countries: [string, string][] }) {
  const router = useRouter();

  async function send(form: FormData): Promise<FormState> {
    const answer = await fetch('/compose/contacts/imports/upload', { method: 'POST', body: form });
    if (!answer.ok) return { status: 'refused', message: `The file was not taken (${answer.status}).`, findings: [] };
    const state = (await answer.json()) as FormState;
    if (state.status === 'done') router.push(`/compose/contacts/imports/${state.values?.id}`);
    return state;
  }

  return (
    <DialogForm
      open="Choose a file"
      tone="primary"
      title="Import contacts"
      description="Nothing is written yet: every line is examined first."
      submit="Examine it"
      busy="Reading…"
      action={send}
    >
      <Field name="file" label="File" help="CSV, XLSX or vCard (.vcf); the first row of a sheet names its columns.">
        {(attributes) => <input {...attributes} type="file" accept=".csv,.tsv,.txt,.xlsx,.vcf" />}
      </Field>
      <SelectField
        name="country"
        label="Numbers without a country code are of"
        options={[['', 'no country: refuse them'], ...countries]}
      />
    </DialogForm>
  );
}
