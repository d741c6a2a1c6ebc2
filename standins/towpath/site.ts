/** Towpath's HTTP API, generation 3, and its own page. Errors are `{ error, message }`. */
import { type Context, Hono } from 'hono';
import { html } from 'hono/html';
import { page } from '../page';
import type { Person, Refusal, Towpath } from './towpath';

export function towpathSite(towpath: Towpath): Hono {
  const app = new Hono();
  const pageOf = (c: Context, person: Person) => ({ ...person, page: new URL(`/#${person.id}`, c.req.url).href });
  const refused = (c: Context, { status, error, message }: Refusal) => c.json({ error, message }, status as 422);

  app.use('/v3/*', async (c, next) => {
    const given = /^Bearer (.+)$/.exec(c.req.header('authorization') ?? '')?.[1];
    const token = towpath.settings.tokens.find((entry) => entry.token === given);
    if (!token) return refused(c, { status: 401, error: 'token_unknown', message: 'This token is not known' });
    if (towpath.faults.answers500) return refused(c, { status: 500, error: 'ours', message: 'Out of order' });
    if (token.ended || towpath.faults.tokenEnded)
      return refused(c, { status: 401, error: 'token_ended', message: 'This token has ended' });
    if (c.req.method !== 'GET' && token.may === 'read')
      return refused(c, { status: 403, error: 'read_only', message: 'This token may read and not write' });
    if (towpath.faults.slow) await new Promise((resolve) => setTimeout(resolve, 8000));
    await next();
  });
  app.get('/v3/whoami', (c) => c.json({ organisation: 'Mossgate customer records' }));
  app.get('/v3/people', (c) =>
    c.json({ people: towpath.byMobile(c.req.query('mobile') ?? '').map((person) => pageOf(c, person)) }),
  );
  app.post('/v3/people', async (c) => {
    const made = towpath.add(await given(c));
    return 'status' in made ? refused(c, made) : c.json({ person: pageOf(c, made) }, 201);
  });
  app.post('/v3/leads', async (c) => {
    const made = towpath.addLead(await given(c, 'lead'), c.req.header('towpath-once'));
    return 'status' in made ? refused(c, made) : c.json({ lead: made }, 201);
  });
  app.patch('/v3/people/:id', async (c) => {
    const changed = towpath.change(c.req.param('id'), await given(c));
    return 'status' in changed ? refused(c, changed) : c.json({ person: pageOf(c, changed) });
  });

  app.get('/', (c) =>
    c.html(page({ title: 'Towpath Records', colours: ['#eef1f4', '#1b2733', '#3d5a73'], body: body(towpath, c) })),
  );
  app.post('/tokens/:index', async (c) => {
    const token = towpath.settings.tokens[Number(c.req.param('index'))];
    const form = await c.req.parseBody();
    if (token) Object.assign(token, { may: form.may === 'read' ? 'read' : 'write', ended: form.ended === 'on' });
    return c.redirect('/');
  });
  return app;
}

/** The fields inside what is posted; anything else has none. */
async function given(c: Context, what = 'person'): Promise<Record<string, unknown>> {
  const body = (await c.req.json().catch(() => ({}))) as Record<string, unknown>;
  const inside = body[what];
  return typeof inside === 'object' && inside !== null ? (inside as Record<string, unknown>) : {};
}

function body(towpath: Towpath, c: Context) {
  const { tokens, people } = towpath.settings;
  return html`
    <h2>Access</h2>
    <p>Address <code id="address">${new URL('/v3', c.req.url).href}</code></p>
    ${tokens.map(
      (token, index) => html`<form method="post" action="/tokens/${index}">
        <p>Token <code class="token">${token.token}</code></p>
        <label><select name="may" style="width:auto"><option ${token.may === 'write' ? 'selected' : ''}>write</option><option ${token.may === 'read' ? 'selected' : ''}>read</option></select>
        <input type="checkbox" name="ended" style="width:auto" ${token.ended ? 'checked' : ''}> ended</label><button>Save</button></form>`,
    )}
    <div id="live"><h2>People</h2>
      <table><tr><th>Name</th><th>Mobile</th><th>Last message</th><th>Source</th><th>Changed</th></tr>
      ${people
        .slice(-20)
        .reverse()
        .map(
          (person) =>
            html`<tr id="${person.id}"><td>${person.full_name}</td><td>${person.mobile}</td><td>${person.last_message ?? ''}</td><td>${person.source ?? ''}</td><td>${person.changed.slice(0, 19)}</td></tr>`,
        )}</table>
      <h2>Leads</h2><table><tr><th>Name</th><th>Mobile</th><th>Wants</th></tr>
      ${towpath.settings.leads.slice(-10).map((lead) => html`<tr><td>${lead.full_name}</td><td>${lead.mobile}</td><td>${lead.wants}</td></tr>`)}</table></div>`;
}
