import { FRESH } from './fresh';
import { suiteOf } from './suite';

suiteOf('written when more could be asked', FRESH);
