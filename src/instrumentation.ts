/** What Next.js tells of errors while it draws pages: of those only refused access is noted here, others it logs itself. */
import type { Instrumentation } from 'next';

export const onRequestError: Instrumentation.onRequestError = async (error, request) => {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  if (!(error instanceof Error) || error.name !== 'OperationError') return;
  const { noteRefusedPage } = await import('./app/_server/refusedPage');
  await noteRefusedPage(error, request.path, String(request.headers.cookie ?? ''));
};
