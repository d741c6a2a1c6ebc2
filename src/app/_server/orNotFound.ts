import 'server-only';
import { notFound } from 'next/navigation';
import { isOperationError } from '../../operations/context';
import { noteRefused } from './refusals';

/** The result, or the 404 page when the operation did not find what the address names, or whoever asks may not see it. */
export async function orNotFound<T>(work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    if (!isOperationError(error)) throw error;
    await noteRefused(error);
    if (error.kind === 'not-found' || error.kind === 'forbidden') notFound();
    throw error;
  }
}
