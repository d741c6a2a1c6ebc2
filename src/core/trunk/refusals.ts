/** What the command_status of an answer means for us. Source: SMPP 3.4 §5.1.3. */
import type { CauseCode } from '../delivery/causes';

interface Refusal {
  name: string;
  cause: CauseCode;
}

const REFUSALS: Readonly<Record<number, Refusal>> = {
  1: { name: 'ESME_RINVMSGLEN', cause: 'content-refused' },
  4: { name: 'ESME_RINVBNDSTS', cause: 'trunk-bind-wrong' },
  5: { name: 'ESME_RALYBND', cause: 'trunk-bound-elsewhere' },
  8: { name: 'ESME_RSYSERR', cause: 'provider-error' },
  10: { name: 'ESME_RINVSRCADR', cause: 'sender-not-owned' },
  11: { name: 'ESME_RINVDSTADR', cause: 'address-malformed' },
  13: { name: 'ESME_RBINDFAIL', cause: 'credential-refused' },
  14: { name: 'ESME_RINVPASWD', cause: 'credential-secret-wrong' },
  15: { name: 'ESME_RINVSYSID', cause: 'credential-id-unknown' },
  20: { name: 'ESME_RMSGQFUL', cause: 'throttled' },
  67: { name: 'ESME_RINVESMCLASS', cause: 'trunk-long-text-refused' },
  69: { name: 'ESME_RSUBMITFAIL', cause: 'request-refused' },
  88: { name: 'ESME_RTHROTTLED', cause: 'throttled' },
  100: { name: 'ESME_RX_T_APPN', cause: 'provider-error' },
  101: { name: 'ESME_RX_P_APPN', cause: 'request-refused' },
  193: { name: 'ESME_ROPTPARNOTALLWD', cause: 'trunk-long-text-refused' },
  // §5.1.3 leaves 0x104 to the vendor range of 5.0; carriers of 3.4 use it for the same.
  260: { name: 'ESME_RINVDCS', cause: 'trunk-alphabet' },
};

export function explainStatus(status: number): Refusal {
  return REFUSALS[status] ?? { name: `status 0x${status.toString(16).padStart(8, '0')}`, cause: 'request-refused' };
}
