/** A new id for a part of what is being written. `crypto.randomUUID` is missing where a page came over plain HTTP. */
export function newPartId(prefix: string): string {
  const bytes = crypto.getRandomValues(new Uint8Array(10));
  return `${prefix}_${[...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('')}`;
}
