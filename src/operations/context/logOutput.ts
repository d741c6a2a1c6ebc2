/**
 * Lets a process go on when nobody reads its log any more. Each line then fails with EPIPE;
 * unheard, that error would be logged itself, and so without end.
 */
export function outliveTheLog(): void {
  for (const stream of [process.stdout, process.stderr]) stream.on('error', () => undefined);
}
