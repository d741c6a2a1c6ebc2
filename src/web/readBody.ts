/** The body, or undefined when it is larger than `most` bytes: unread when it says so itself, else as soon as it shows. */
export async function readBody(request: Request, most: number): Promise<Buffer | undefined> {
  const length = request.headers.get('content-length');
  if (length !== null) return Number(length) > most ? undefined : Buffer.from(await request.arrayBuffer());
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of (request.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
    size += chunk.length;
    if (size > most) return undefined;
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}
