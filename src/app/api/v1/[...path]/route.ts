import { serveApi } from '../../../../web/api/serve';

/** Where Next.js itself listens, as in development; else the server in front of it answers. */
export { serveApi as DELETE, serveApi as GET, serveApi as PATCH, serveApi as POST };
