import { serveApi } from '../../../../web/api/serve';
import { asRoute } from '../../../_server/asRoute';

const serve = asRoute(serveApi);

export { serve as DELETE, serve as GET, serve as PATCH, serve as POST };
