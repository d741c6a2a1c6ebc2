import { TextAreaField } from './ActionForm';

/** Certificates that are believed in place of those everybody believes: an own authority, or the other side's very own. */
export function BelievedField({ initial }: { initial?: string }) {
  return (
    <TextAreaField
      name="believed"
      label="Certificates to trust (PEM)"
      help="Empty: those of the public authorities. Paste your own authority’s certificate, or the server’s very own to trust it and no other."
      initial={initial}
      rows={3}
      exact
    />
  );
}
