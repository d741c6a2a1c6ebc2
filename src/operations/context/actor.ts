import type { Role } from '../../store/schema/rows';
import type { AppContext } from './appContext';
import { OperationError } from './errors';

export type { Role } from '../../store/schema/rows';

/** Whoever is doing something. */
export type Actor =
  | { kind: 'user'; id: string; name: string; role: Role; session?: SessionOfActor }
  | {
      kind: 'app';
      id: string;
      name: string;
      keyId: string;
      scopes: readonly Scope[];
      version?: string;
      forTests?: boolean;
    }
  | { kind: 'system'; id: string; name: string }
  /** A published route; whoever may publish has decided what it does. */
  | { kind: 'route'; id: string; name: string }
  /** A broadcast that somebody started; it may nothing but send. */
  | { kind: 'broadcast'; id: string; name: string };

/** The browser session somebody acts through. */
export interface SessionOfActor {
  id: string;
  /** When they last showed that it is they; real time. */
  confirmedAt: number;
}

export const SCOPES = [
  'messages:send',
  'messages:read',
  'messages:all',
  'conversations:read',
  'channels:read',
  'webhooks:read',
  'webhooks:write',
  'codes:send',
  'tests:run',
  'broadcasts:read',
  'broadcasts:write',
] as const;
export type Scope = (typeof SCOPES)[number];

/** What an app needs; what only some need (codes, a pipeline's tests, broadcasts, the messages of all apps) is ticked for those. */
export const APP_SCOPES: readonly Scope[] = SCOPES.filter(
  (scope) => !['tests:run', 'codes:send', 'messages:all', 'broadcasts:read', 'broadcasts:write'].includes(scope),
);

export const SYSTEM: Actor = { kind: 'system', id: 'windgap', name: 'Windgap' };

/** Each role may do what the ones after it may. */
const ORDER: readonly Role[] = ['owner', 'administrator', 'agent', 'viewer'];

export function hasRole(actor: Actor, least: Role): boolean {
  if (actor.kind === 'route') return true;
  return actor.kind === 'system' || (actor.kind === 'user' && ORDER.indexOf(actor.role) <= ORDER.indexOf(least));
}

/** Throws unless the actor is a signed-in person with at least this role. Apps act through scopes. */
export function requireRole(actor: Actor, least: Role): void {
  if (!hasRole(actor, least)) {
    throw new OperationError('forbidden', `This needs the role ${least}.`);
  }
}

/** People by their role, apps by the scope of their key. */
export function requireAccess(actor: Actor, least: Role, scope: Scope): void {
  if (actor.kind === 'app') requireScope(actor, scope);
  else requireRole(actor, least);
}

/** For so long after signing in, or after being asked again, somebody is not asked. */
export const CONFIRMED_FOR = 10 * 60_000;

/** Throws `unconfirmed` where a session has not shown lately that its person sits there: before secrets, people and keys are touched. */
export function requireConfirmed(ctx: Pick<AppContext, 'now' | 'clock'>, actor: Actor): void {
  if (actor.kind !== 'user' || !actor.session) return;
  if (realNow(ctx) - actor.session.confirmedAt > CONFIRMED_FOR)
    throw new OperationError('unconfirmed', 'Show once more that it is you.');
}

/** Sessions and people go by the real time, also where a bench has moved everything else on. */
export function realNow({ now, clock }: Pick<AppContext, 'now' | 'clock'>): number {
  return now() - clock.ahead();
}

export function requireScope(actor: Actor, scope: Scope): void {
  if (actor.kind !== 'app') return;
  if (!actor.scopes.includes(scope)) throw new OperationError('forbidden', `The API key lacks the scope ${scope}.`);
}
