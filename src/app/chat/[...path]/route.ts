import { serveChat } from '../../../web/webChat';
import { asRoute } from '../../_server/asRoute';

const serve = asRoute(serveChat);

export { serve as GET, serve as OPTIONS, serve as POST };
