/** Files by their address: for platforms that fetch what is sent, for apps and people who open what came. */
import { readMedia } from '../../../operations/conversations';
import { windgap } from '../../_server/windgap';

export async function GET(_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  const kept = await readMedia(await windgap(), (await params).id);
  if (!kept) return new Response(null, { status: 404 });
  if ('awaited' in kept)
    return new Response('It is still being fetched from the provider.', {
      status: 503,
      headers: { 'retry-after': '5' },
    });
  if ('failed' in kept) return new Response(kept.failed, { status: 410 });
  const { file } = kept;
  return new Response(new Uint8Array(file.content), {
    headers: {
      'content-type': file.type || 'application/octet-stream',
      'content-length': String(file.bytes),
      'cache-control': 'private, max-age=31536000, immutable',
      'x-content-type-options': 'nosniff',
      // Whatever it is, it runs nothing here.
      'content-security-policy': "default-src 'none'; sandbox",
      ...(file.type.startsWith('image/') ? {} : { 'content-disposition': 'attachment' }),
    },
  });
}
