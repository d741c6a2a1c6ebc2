/** Passwords as they are kept, and the one place where they are derived: few at a time, and a short queue. */
import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';
import pLimit from 'p-limit';
import { invalidText, OperationError } from '../context';

const scryptOf = promisify(scrypt) as (
  password: string,
  salt: Buffer,
  length: number,
  options: object,
) => Promise<Buffer>;

/** OWASP Password Storage: scrypt with N=2^17 wants 128 MB; 2^15 with p=3 is its equal in 32 MB. */
const COST = { N: 2 ** 15, r: 8, p: 3, maxmem: 64 * 1024 * 1024 };
/** A derivation holds one of the four threads that the database needs, too. */
const AT_ONCE = 2;
/** So many wait their turn; whoever comes later is asked to come again. */
const MOST_WAITING = 16;
/** Nobody types more, and whatever is longer is no password of anybody here. */
const LONGEST = 1024;

const turns = pLimit(AT_ONCE);

/** Throws `too-often` when too many wait already, before anything is computed. */
async function derive(password: string, salt: Buffer): Promise<Buffer> {
  if (turns.pendingCount >= MOST_WAITING)
    throw new OperationError('too-often', 'Too many people are signing in at this moment. Try again in a few seconds.');
  return turns(() => scryptOf(password.normalize('NFKC'), salt, 32, COST));
}

/** `scrypt.` salt `.` hash, base64url. */
export async function hashPassword(password: string): Promise<string> {
  if (password.length > LONGEST)
    throw invalidText('password', `The password has more than ${LONGEST} characters.`, 'Use a shorter one.');
  const salt = randomBytes(16);
  const hash = await derive(password, salt);
  return `scrypt.${salt.toString('base64url')}.${hash.toString('base64url')}`;
}

/** Compared when nobody has the e-mail, so that the answer takes as long. */
const NOBODY = `scrypt.${Buffer.alloc(16).toString('base64url')}.${Buffer.alloc(32).toString('base64url')}`;

/** Whether the password is the one that was kept; without one it takes as long, and is never right. */
export async function isPassword(password: string, kept: string = NOBODY): Promise<boolean> {
  // Whoever was invited and has not chosen a password has none that is right.
  const [, salt = '', hash = ''] = (kept === '' ? NOBODY : kept).split('.');
  const tooLong = password.length > LONGEST;
  const derived = await derive(tooLong ? '' : password, Buffer.from(salt, 'base64url'));
  return timingSafeEqual(derived, Buffer.from(hash, 'base64url')) && !tooLong;
}
