/** What can be at the other end of a text. */
export type AddressKind =
  | 'mobile'
  | 'fixed'
  | 'fixed-or-mobile'
  | 'toll-free'
  | 'premium'
  | 'personal'
  | 'satellite'
  | 'voip'
  | 'other'
  | 'short-code'
  | 'sender-name';
