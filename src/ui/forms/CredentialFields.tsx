import { TextField } from './ActionForm';

interface CredentialField {
  name: string;
  label: string;
  help: string;
  /** What is filled in already; secrets never are. */
  initial?: string;
}

/** One field for each credential a provider or an app asks for, written exactly as it was given out. */
export function CredentialFields({ fields }: { fields: readonly CredentialField[] }) {
  return fields.map(({ name, label, help, initial }) => (
    <TextField key={name} name={name} label={label} help={help} initial={initial} exact />
  ));
}
