/** Micro-units and ISO 4217 code → "12.50 GBP"; a dash when nothing is known. Small prices keep their digits. */
export function formatMoney(micros: number | null | undefined, currency: string | null | undefined): string {
  if (micros === null || micros === undefined || !currency) return '—';
  const amount = micros / 1e6;
  const digits = Math.abs(amount) < 1 && amount !== 0 ? 4 : 2;
  return `${amount.toFixed(digits)} ${currency}`;
}
