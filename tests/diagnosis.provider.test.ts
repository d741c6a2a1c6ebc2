import { providerHouse } from './faultSuite/provider';
import { suiteOf } from './faultSuite/suite';

suiteOf('provider’s side', providerHouse);
