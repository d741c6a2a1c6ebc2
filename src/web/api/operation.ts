/** One operation of the API, as it is declared. */
import type { z } from 'zod';
import type { Scope } from '../../operations/context';

export interface Operation<Query = unknown, Body = unknown> {
  id: string;
  method: 'get' | 'post' | 'patch' | 'delete';
  /** Under /api/v1, with `{name}` for what the address carries. */
  path: string;
  summary: string;
  description?: string;
  /** Absent where any key will do. */
  scope?: Scope;
  header?: z.ZodObject;
  query?: z.ZodType<Query>;
  body?: z.ZodType<Body>;
  /** A body as callers would send it. */
  example?: Record<string, unknown>;
  /** Absent where nothing is answered (204). */
  answer?: z.ZodType;
  status?: number;
}

export const operation = <Query = undefined, Body = undefined>(given: Operation<Query, Body>) => given;
