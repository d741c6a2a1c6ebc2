import { reportRuns } from '../../../../operations/deliveryTests';
import { signedIn } from '../../../_server/session';

/** Runs as a file for another system: JUnit XML, or what is stored as JSON. */
export async function reportFile(which: { run: string } | 'latest', kind: 'xml' | 'json'): Promise<Response> {
  const { ctx, actor } = await signedIn();
  const { runs, junit } = await reportRuns(ctx, actor, which);
  const name = which === 'latest' ? 'delivery-tests' : which.run;
  const body = kind === 'xml' ? junit : JSON.stringify({ runs }, null, 2);
  return new Response(body, {
    headers: {
      'content-type': kind === 'xml' ? 'application/xml; charset=utf-8' : 'application/json; charset=utf-8',
      'content-disposition': `attachment; filename="${name}.${kind}"`,
    },
  });
}
