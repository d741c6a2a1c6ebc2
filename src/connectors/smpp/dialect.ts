/** The settings of a trunk: what carriers vary, and within which bounds an administrator may set it. */
import { z } from 'zod';
import { ID_BASES } from '../../core/trunk/receipts';
import { LONG_TEXT_WAYS } from '../../core/trunk/submits';
import { certificatesIn } from '../outside/encryption';

export const trunkSettings = z.strictObject({
  bind: z.enum(['transceiver', 'transmitter and receiver']).default('transceiver'),
  /** What data_coding 0x00 means to the carrier. */
  defaultAlphabet: z.enum(['gsm-7', 'latin-1']).default('gsm-7'),
  longText: z.enum(LONG_TEXT_WAYS).default('header'),
  encryption: z.enum(['none', 'tls']).default('none'),
  /** Certificates believed in place of the public authorities, PEM. */
  believed: z
    .string()
    .max(20_000)
    .default('')
    .superRefine((pem, issues) => {
      try {
        if (pem.trim()) certificatesIn(pem);
      } catch (error) {
        issues.addIssue({ code: 'custom', message: (error as Error).message });
      }
    }),
  receiptIds: z.enum(ID_BASES).default('same'),
  /** Unanswered submits at once. */
  window: z.number().int().min(1).max(200).default(10),
  /** Messages a second. */
  pace: z.number().positive().max(10_000).default(10),
  keepAliveSeconds: z.number().int().min(1).max(600).default(30),
  /** Seconds without an answer after which a request counts as lost. */
  answerSeconds: z.number().min(0.2).max(120).default(10),
});

export type TrunkSettings = z.infer<typeof trunkSettings>;

export interface TrunkDialect {
  defaults: TrunkSettings;
  /** The carrier's limits; a setting may be below them and never above. */
  most: { window: number; pace: number };
  /** The carrier's codes in receipts. */
  receiptErrors: Readonly<Record<string, import('../../core/delivery/causes').CauseCode>>;
}

/** Saved settings over the profile's, never above the carrier's limits. */
export function settingsOf(dialect: TrunkDialect, saved: unknown): TrunkSettings {
  const merged = trunkSettings.parse({ ...dialect.defaults, ...(saved as object) });
  return {
    ...merged,
    window: Math.min(merged.window, dialect.most.window),
    pace: Math.min(merged.pace, dialect.most.pace),
  };
}
