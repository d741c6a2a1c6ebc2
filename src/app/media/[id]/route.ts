/** Files of templates, for the platforms that fetch them and for the preview. */
import { readMedia } from '../../../operations/conversations';
import { windgap } from '../../_server/windgap';

export async function GET(_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  const file = await readMedia(await windgap(), (await params).id);
  if (!file) return new Response(null, { status: 404 });
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
