/** The inbound URL where Next.js serves alone (development); otherwise the web process answers it in front of Next.js. */
import { receiveInbound } from '../../../../web/inbound';

const receive = (request: Request): Promise<Response> => receiveInbound(request);

export { receive as DELETE, receive as GET, receive as PATCH, receive as POST, receive as PUT };
