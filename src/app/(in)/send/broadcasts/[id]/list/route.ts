/** Takes the list of a broadcast, which may be larger than what a form's action takes. */
import { giveList, LARGEST_LIST } from '../../../../../../operations/broadcasts';
import { OperationError, requireRole } from '../../../../../../operations/context';
import { answerForm } from '../../../../../_server/forms';
import { signedIn } from '../../../../../_server/session';
import { formWithFile } from '../../../../../_server/upload';

export async function POST(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return Response.json(
    await answerForm(async () => {
      const { ctx, actor } = await signedIn();
      // Before any of it is read.
      requireRole(actor, 'agent');
      const { id } = await params;
      const form = await formWithFile(request, LARGEST_LIST);
      if (!form) throw new OperationError('invalid', 'The list is over 50 MB. Import it as contacts with a tag.');
      const file = form.get('file');
      const given =
        file instanceof File && file.size > 0
          ? { name: file.name, content: Buffer.from(await file.arrayBuffer()) }
          : { table: String(form.get('table') ?? '') };
      const { lines, column } = await giveList(ctx, actor, id, { ...given, version: Number(form.get('version')) });
      return { status: 'done', message: `${lines} lines, with addresses in “${column}”` };
    }),
  );
}
