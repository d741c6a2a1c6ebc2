import { chatHouse } from './faultSuite/chat';
import { suiteOf } from './faultSuite/suite';

suiteOf('chat, trunk and mail', chatHouse);
