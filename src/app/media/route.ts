/** Takes files of templates and replies from the people who write them. */

import { LARGEST_FILE } from '../../core/delivery/media';
import { isOperationError } from '../../operations/context';
import { keepMedia } from '../../operations/conversations';
import { signedIn } from '../_server/session';
import { formWithFile } from '../_server/upload';

export async function POST(request: Request): Promise<Response> {
  const { ctx, actor } = await signedIn();
  const form = await formWithFile(request, LARGEST_FILE);
  if (!form) return Response.json({ problem: 'The file is over 20 MB. Make it smaller.' }, { status: 413 });
  const file = form.get('file');
  if (!(file instanceof File)) return Response.json({ problem: 'There is no file.' }, { status: 400 });
  try {
    return Response.json(
      await keepMedia(ctx, actor, { name: file.name, content: Buffer.from(await file.arrayBuffer()) }),
    );
  } catch (error) {
    if (!isOperationError(error)) throw error;
    return Response.json({ problem: error.message }, { status: error.kind === 'forbidden' ? 403 : 400 });
  }
}
