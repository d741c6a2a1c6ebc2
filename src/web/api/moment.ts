/** Epoch milliseconds as the API writes times: ISO 8601 in UTC, or null. */
export function moment(at: number | null | undefined): string | null {
  return at === null || at === undefined ? null : new Date(at).toISOString();
}
