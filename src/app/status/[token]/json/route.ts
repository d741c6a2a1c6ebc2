import { readStatusPage } from '../../../../operations/status';
import { windgap } from '../../../_server/windgap';

/** The status page for machines. */
export async function GET(_: Request, { params }: { params: Promise<{ token: string }> }): Promise<Response> {
  const { token } = await params;
  const status = await readStatusPage(await windgap(), token);
  if (!status) return Response.json({ title: 'There is no such page' }, { status: 404 });
  const { at, ...said } = status;
  return Response.json({ ...said, at: new Date(at).toISOString() }, { headers: { 'cache-control': 'no-store' } });
}
