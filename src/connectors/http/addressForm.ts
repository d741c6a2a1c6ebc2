/** Phone numbers as a provider writes them, and as we do: E.164 with its plus sign. */
export type AddressForm = 'plus' | 'digits';

/** Short codes and names are the same on both sides. */
export function fromProvider(text: string, form: AddressForm): string {
  return form === 'digits' && /^[1-9]\d{8,14}$/.test(text) ? `+${text}` : text;
}

export function toProvider(text: string, form: AddressForm): string {
  return form === 'digits' ? text.replace(/^\+(?=\d)/, '') : text;
}
