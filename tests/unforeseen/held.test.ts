import { HELD } from './held';
import { suiteOf } from './suite';

suiteOf('half that was held back', HELD);
