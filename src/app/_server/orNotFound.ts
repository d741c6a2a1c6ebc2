import 'server-only';
import { notFound } from 'next/navigation';
import { isOperationError } from '../../operations/context';

/** The result, or the 404 page when the operation did not find what the address names. */
export async function orNotFound<T>(work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    if (isOperationError(error) && error.kind === 'not-found') notFound();
    throw error;
  }
}
