import { suiteOf } from './suite';
import { VISIBLE } from './visible';

suiteOf('half that was looked at', VISIBLE);
