import { CarryValue } from '../../../../ui/primitives/CopyButton';
import { Link } from '../../../../ui/primitives/Link';
import { Page, Section } from '../../../../ui/primitives/layout';
import { API, type Operation } from '../../../../web/api/catalogue';
import { openApiDocument } from '../../../../web/api/openapi';
import { signedIn } from '../../../_server/session';
import { Operations, type OperationView } from './Operations';

export const metadata = { title: 'API' };

interface Described {
  paths: Record<
    string,
    Record<string, { responses: Record<string, { content?: Record<string, { schema: object }> }> }>
  >;
  components: { schemas: Record<string, object> };
}

/** The API as its document describes it, to be read and tried. Nothing is asked of anybody else. */
export default async function ApiPage() {
  const { w } = await signedIn();
  const root = `${w.config.publicUrl}/api/v1`;
  const document = openApiDocument(root) as unknown as Described;
  const operations = (Object.values(API) as Operation[]).map((operation) => view(operation, document));
  const groups = [...new Set(operations.map(({ group }) => group))];
  return (
    <Page
      title="API"
      purpose={
        <>
          What apps can ask of Windgap. Keys are made on each <Link href="/apps">app’s page</Link>; a call does what it
          says, also from here.
        </>
      }
    >
      <div className="mb-6 grid gap-3 lg:grid-cols-2">
        <CarryValue label="API address" direction="Apps call this; Windgap owns it" value={root} />
        <CarryValue
          label="OpenAPI 3.1 document"
          direction="For tools that make clients"
          value={`${root}/openapi.json`}
        />
      </div>
      <Section title="Operations" id="operations" aside="Open one to see its shapes and to try it.">
        <Operations root={root} groups={groups} operations={operations} />
      </Section>
    </Page>
  );
}

function view(operation: Operation, document: Described): OperationView {
  const { id, method, path, summary, description, scope, example } = operation;
  const entry = document.paths[path]?.[method];
  const done = Object.entries(entry?.responses ?? {}).find(([status]) => status.startsWith('2'));
  const schema = done?.[1].content?.['application/json']?.schema;
  return {
    id,
    method: method.toUpperCase(),
    path,
    group: path.split('/')[1] ?? '',
    summary,
    description,
    scope,
    query: operation.query ? Object.keys((operation.query as unknown as { shape: object }).shape) : [],
    body: example && JSON.stringify(example, null, 2),
    status: done?.[0] ?? '204',
    answer: schema ? JSON.stringify(resolved(schema, document.components.schemas), null, 2) : undefined,
    problems: Object.keys(entry?.responses ?? {}).filter((status) => !status.startsWith('2')),
  };
}

/** Names of schemas are followed once, so that a reader sees the shape and not where it stands. */
function resolved(schema: unknown, known: Record<string, object>): unknown {
  if (Array.isArray(schema)) return schema.map((entry) => resolved(entry, known));
  if (typeof schema !== 'object' || schema === null) return schema;
  const { $ref } = schema as { $ref?: string };
  if ($ref) return resolved(known[$ref.split('/').at(-1) ?? ''] ?? {}, known);
  return Object.fromEntries(Object.entries(schema).map(([name, value]) => [name, resolved(value, known)]));
}
