import { LATER } from './later';
import { suiteOf } from './suite';

suiteOf('written last', LATER);
