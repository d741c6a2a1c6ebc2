import { serveCall } from '../../../web/hooks';

/** Where Next.js itself listens, as in development; else the server in front of it answers. */
const take = (request: Request): Promise<Response> => serveCall(request);

export { take as DELETE, take as GET, take as PATCH, take as POST, take as PUT };
