/** The profile format as JSON Schema 2020-12, for editors of any kind. */
import { profileSchemaDocument } from '../../../operations/profiles';

export function GET(): Response {
  return Response.json(profileSchemaDocument(), {
    headers: { 'content-type': 'application/schema+json', 'access-control-allow-origin': '*' },
  });
}
