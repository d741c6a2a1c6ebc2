import { appsHouse } from './faultSuite/apps';
import { suiteOf } from './faultSuite/suite';

suiteOf('apps', appsHouse);
