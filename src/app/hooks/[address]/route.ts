import { serveHook } from '../../../web/hooks';
import { asRoute } from '../../_server/asRoute';

const take = asRoute(serveHook);

export { take as DELETE, take as GET, take as PATCH, take as POST, take as PUT };
