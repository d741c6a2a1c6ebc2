import { API_VERSIONS } from '../../../../core/api/versions';
import { type EventType, sampleEvent } from '../../../../operations/apps/webhooks';
import { CarryValue } from '../../../../ui/primitives/CopyButton';
import { Link } from '../../../../ui/primitives/Link';
import { Page, Section } from '../../../../ui/primitives/layout';
import { Table } from '../../../../ui/primitives/Table';
import { API, type Operation } from '../../../../web/api/catalogue';
import { openApiDocument } from '../../../../web/api/openapi';
import { signedIn } from '../../../_server/session';
import { Operations, type OperationView } from './Operations';

interface Described {
  paths: Record<
    string,
    Record<string, { responses: Record<string, { content?: Record<string, { schema: object }> }> }>
  >;
  webhooks: Record<string, { post: { summary: string; requestBody: { content: Record<string, { schema: object }> } } }>;
  components: { schemas: Record<string, object> };
}

/** The API as its document describes it, to be read and tried. Nothing is asked of anybody else. */
export default async function ApiPage() {
  const { ctx } = await signedIn();
  const root = `${ctx.config.publicUrl}/api/v1`;
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
      <Section
        title="Events apps are told of"
        id="events"
        aside="Sent to webhook subscriptions as CloudEvents, signed by Standard Webhooks."
      >
        <div className="rounded-md border border-line bg-panel">
          {Object.entries(document.webhooks).map(([type, { post }]) => (
            <details key={type} className="border-b border-line last:border-0" data-event={type}>
              <summary className="flex cursor-pointer flex-wrap gap-3 px-3 py-2 text-[13px]">
                <code>{type}</code>
                <span className="text-soft">{post.summary}</span>
              </summary>
              <div className="grid gap-4 border-t border-line p-3 text-[13px] lg:grid-cols-2">
                <Shape title="A sample" content={sampleEvent(type as EventType)} />
                <Shape
                  title="Its shape"
                  content={resolved(Object.values(post.requestBody.content)[0]?.schema, document.components.schemas)}
                />
              </div>
            </details>
          ))}
        </div>
      </Section>
      <Section
        title="Versions"
        id="versions"
        aside="Keys and subscriptions stay with the one they were made for; the header Windgap-Version tries another."
      >
        <Table
          caption="Versions of the API"
          rows={[...API_VERSIONS].reverse()}
          keyOf={({ version }) => version}
          columns={[
            { head: 'Version', className: 'whitespace-nowrap align-top', cell: ({ version }) => version },
            {
              head: 'What is different',
              className: 'w-full',
              cell: ({ changes }) => (
                <ul className="grid gap-1">
                  {changes.map((change) => (
                    <li key={change}>{change}</li>
                  ))}
                </ul>
              ),
            },
            {
              head: 'Ends',
              className: 'whitespace-nowrap align-top',
              cell: ({ sunsetAt }) => (sunsetAt === undefined ? '—' : new Date(sunsetAt).toISOString().slice(0, 10)),
            },
          ]}
        />
      </Section>
    </Page>
  );
}

function Shape({ title, content }: { title: string; content: unknown }) {
  return (
    <div className="min-w-0">
      <p className="mb-1">{title}</p>
      <pre tabIndex={0} className="max-h-96 overflow-auto rounded border border-line bg-paper p-2 font-mono text-xs">
        {JSON.stringify(content, null, 2)}
      </pre>
    </div>
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
