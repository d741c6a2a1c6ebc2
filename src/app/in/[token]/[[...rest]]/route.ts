import { receiveInbound } from '../../../../web/inbound';
import { asRoute } from '../../../_server/asRoute';

const receive = asRoute(receiveInbound);

export { receive as DELETE, receive as GET, receive as PATCH, receive as POST, receive as PUT };
