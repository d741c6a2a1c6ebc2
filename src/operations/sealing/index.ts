/** Replacing the key that seals secrets. Others come in here. */
export { type Resealed, replaceKey, resealAll, retireKeys, sealedBefore } from './rotation';
