import { SelectField } from './ActionForm';
import { BelievedField } from './BelievedField';

/** How the link of a trunk is encrypted, and whose certificate is believed. */
export function EncryptionFields({ encryption, believed }: { encryption: 'none' | 'tls'; believed?: string }) {
  return (
    <>
      <SelectField
        name="encryption"
        label="Encryption"
        help="With TLS nothing is said before the carrier’s certificate was found right."
        initial={encryption}
        options={[
          ['none', 'none: SMPP as it is'],
          ['tls', 'TLS'],
        ]}
      />
      <BelievedField initial={believed} />
    </>
  );
}
