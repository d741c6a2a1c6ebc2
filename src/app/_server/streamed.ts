/** Returns a file piece by piece, as fast as it is taken. */
export function streamed(pieces: AsyncGenerator<string, void, undefined>, type: string, name: string): Response {
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = await pieces.next();
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
