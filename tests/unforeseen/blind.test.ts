import { BLIND } from './blind';
import { suiteOf } from './suite';

suiteOf('written blind', BLIND);
