/** Somebody who may sign in, as the others see them. */
import type { Role, UserRow } from '../../store/schema/rows';

export interface Person {
  id: string;
  name: string;
  email: string;
  role: Role;
}

export function toPerson({ id, name, email, role }: UserRow): Person {
  return { id, name, email, role };
}
