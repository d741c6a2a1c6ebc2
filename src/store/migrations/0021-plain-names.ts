import type { Migration } from './migration';

/** What is kept under names that were private ones: a finding’s remedy, and the circuit breaker before an app in trouble. */
export const plainNames: Migration = {
  name: '0021-plain-names',
  statements: [
    `UPDATE hook_posts SET findings = replace(findings, '"mend":', '"remedy":') WHERE findings LIKE '%"mend":%'`,
    `UPDATE readiness_parts SET findings = replace(findings, '"mend":', '"remedy":') WHERE findings LIKE '%"mend":%'`,
    `ALTER TABLE webhook_subscriptions RENAME COLUMN gate TO breaker`,
    `UPDATE webhook_subscriptions SET breaker = replace(breaker, '"closed":', '"open":') WHERE breaker IS NOT NULL`,
  ],
};
