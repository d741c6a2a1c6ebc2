/**
 * What machines call, as a route: where Next.js itself listens, as in development. Else the server
 * in front of it answers, which knows who calls.
 */
export function asRoute(serve: (request: Request, from: string) => Promise<Response>) {
  return (request: Request): Promise<Response> => serve(request, request.headers.get('x-forwarded-for') ?? 'unknown');
}
