/**
 * Returns a file piece by piece, as fast as it is taken. The first piece is made before the answer begins, so that whoever
 * may not have it is told so, and not cut off.
 */
export async function streamed(
  pieces: AsyncGenerator<string, void, undefined>,
  type: string,
  name: string,
): Promise<Response> {
  const encoder = new TextEncoder();
  let ready: IteratorResult<string, void> | undefined = await pieces.next();
  const stream = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = ready ?? (await pieces.next());
      ready = undefined;
      if (done) controller.close();
      else controller.enqueue(encoder.encode(value));
    },
    async cancel() {
      await pieces.return(undefined);
    },
  });
  return attached(stream, type, name);
}

export function attached(body: BodyInit, type: string, name: string): Response {
  return new Response(body, {
    headers: { 'content-type': type, 'content-disposition': `attachment; filename="${name}"` },
  });
}
