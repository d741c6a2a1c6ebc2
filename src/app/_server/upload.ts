import 'server-only';

/** What a form puts around a file: boundaries and its other fields. */
const AROUND = 1_000_000;

/** The form with a file of at most so many bytes; undefined when more is announced, before any of it is read. */
export async function formWithFile(request: Request, most: number): Promise<FormData | undefined> {
  const announced = Number(request.headers.get('content-length') ?? Number.POSITIVE_INFINITY);
  return announced > most + AROUND ? undefined : request.formData();
}
