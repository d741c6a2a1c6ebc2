import type { Role } from '../../store/schema/rows';
import { OperationError } from './errors';

export type { Role } from '../../store/schema/rows';

/** Whoever is doing something. */
export type Actor =
  | { kind: 'user'; id: string; name: string; role: Role }
  | { kind: 'app'; id: string; name: string; keyId: string; scopes: readonly Scope[]; version?: string }
  | { kind: 'system'; id: string; name: string }
  /** A published route; whoever may publish has decided what it does. */
  | { kind: 'route'; id: string; name: string };

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
] as const;
export type Scope = (typeof SCOPES)[number];

/** What an app needs; what only some need (codes, a pipeline's tests, the messages of all apps) is ticked for those. */
export const APP_SCOPES: readonly Scope[] = SCOPES.filter(
  (scope) => !['tests:run', 'codes:send', 'messages:all'].includes(scope),
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

export function requireScope(actor: Actor, scope: Scope): void {
  if (actor.kind !== 'app') return;
  if (!actor.scopes.includes(scope)) throw new OperationError('forbidden', `The API key lacks the scope ${scope}.`);
}
