import { reportFile } from '../../../report';

export async function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return reportFile({ run: (await params).id }, 'xml');
}
