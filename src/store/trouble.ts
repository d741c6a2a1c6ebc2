/**
 * Whether an error is the store's own trouble (the disk is full, cannot be written, the lock
 * is held), which is everybody's and passes, and not that of the rows at hand.
 */
export function isStoreTrouble(error: unknown): boolean {
  const { code, parent } = (error ?? {}) as { code?: unknown; parent?: { code?: unknown } };
  return TROUBLE.test(String(code ?? parent?.code ?? ''));
}

const TROUBLE = /^SQLITE_(BUSY|LOCKED|FULL|IOERR|NOMEM|READONLY|CANTOPEN|CORRUPT|NOTADB|PERM|PROTOCOL|INTERRUPT)/;
