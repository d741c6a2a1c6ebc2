/** Takes a file of contacts, which may be larger than what a form's action takes. */
import { beginImport, LARGEST_IMPORT } from '../../../../../../operations/contacts';
import { OperationError, requireRole } from '../../../../../../operations/context';
import { answerForm } from '../../../../../_server/forms';
import { signedIn } from '../../../../../_server/session';
import { formWithFile } from '../../../../../_server/upload';

export async function POST(request: Request): Promise<Response> {
  return Response.json(
    await answerForm(async () => {
      const { ctx, actor } = await signedIn();
      // Before any of it is read.
      requireRole(actor, 'administrator');
      const form = await formWithFile(request, LARGEST_IMPORT);
      if (!form) throw new OperationError('invalid', 'The file is over 200 MB. Import it in parts.');
      const file = form.get('file');
      const content = file instanceof File ? Buffer.from(await file.arrayBuffer()) : Buffer.alloc(0);
      const country = String(form.get('country') ?? '');
      const { id } = await beginImport(ctx, actor, { name: file instanceof File ? file.name : '', content, country });
      return { status: 'done', values: { id } };
    }),
  );
}
