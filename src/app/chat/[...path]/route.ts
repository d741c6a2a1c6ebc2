/** The web chat where Next.js serves alone (development); otherwise the web process answers it in front of Next.js. */
import { serveChat } from '../../../web/webChat';

const serve = (request: Request): Promise<Response> => serveChat(request);

export { serve as GET, serve as OPTIONS, serve as POST };
