/** What whoever writes a test can choose from. */
export interface TestChoices {
  /** E.164 with whose handset it is; those that can write from here first. */
  phones: [string, string][];
  channels: [string, string][];
  apps: [string, string][];
  routes: [string, string][];
  hooks: [string, string][];
  systems: [string, string][];
  feeds: [string, string][];
  /** `app record`, with what it is called. */
  records: [string, string][];
  causes: [string, string][];
  /** A record to begin with, by hook. */
  samples: Record<string, string>;
}
