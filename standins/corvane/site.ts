/** Corvane's HTTP API, version 3, whose errors are `{ error: { slug, detail } }`, and its own page. */
import { type Context, Hono } from 'hono';
import { html } from 'hono/html';
import { page } from '../page';
import type { Corvane, CorvaneHouse, CorvanePart } from './corvane';

type Env = { Variables: { house: CorvaneHouse } };

export function corvaneApi(corvane: Corvane): Hono<Env> {
  const api = new Hono<Env>();
  api.use(async (c, next) => {
    const house = corvane.houses.find(({ key }) => key === c.req.header('corvane-key'));
    if (!house) return refuse(c, 401, 'no-key', 'This key opens no house');
    c.set('house', house);
    await next();
  });
  api.get('/me', (c) => {
    const { id, title, hook } = c.get('house');
    return c.json({ house: { id, title, hook: hook || null } });
  });
  api.get('/desks', (c) => c.json({ desks: c.get('house').desks }));
  api.put('/hook', async (c) => {
    const { url = '' } = (await c.req.json().catch(() => ({}))) as { url?: string };
    if (!/^https?:\/\//.test(url)) return refuse(c, 400, 'no-url', 'url is needed');
    c.get('house').hook = url;
    return c.json({ hook: url });
  });
  api.post('/desks/:desk/say', async (c) => {
    const body = (await c.req.json().catch(() => ({}))) as { person?: string; parts?: CorvanePart[]; ref?: string };
    const said = corvane.say(c.get('house'), c.req.param('desk'), body);
    if ('slug' in said) return refuse(c, said.status, said.slug, said.detail);
    return c.json({ said: { id: said.id } }, 201);
  });
  return api;
}

function refuse(c: Context, status: 400 | 401 | 403 | 404 | 429, slug: string, detail: string) {
  return c.json({ error: { slug, detail } }, status);
}

export function corvanePage(corvane: Corvane): Hono {
  const app = new Hono();
  app.get('/', (c) =>
    c.html(
      page({
        title: 'Corvane houses',
        colours: ['#f2f0ea', '#20221c', '#5c5a2f'],
        body: html`${corvane.houses.map(
          ({ id, title, key, signSecret, hook, desks }) => html`<h2>${title}</h2><table>
            <tr><th>House</th><td><code class="house">${id}</code></td></tr>
            <tr><th>Key</th><td><code class="key">${key}</code></td></tr>
            <tr><th>Signing secret</th><td><code class="secret">${signSecret}</code></td></tr>
            <tr><th>Hook</th><td>${hook || 'not set'}</td></tr>
            <tr><th>Desks</th><td>${desks.map(({ handle }) => handle).join(', ')}</td></tr></table>`,
        )}
        <div id="live"><h2>Messages</h2><table><tr><th>Time</th><th>Way</th><th>Person</th><th>Words</th><th>State</th></tr>
        ${corvane.messages
          .slice(-15)
          .reverse()
          .map(
            ({ at, direction, person, parts, state }) =>
              html`<tr><td>${at.slice(11, 19)}</td><td>${direction}</td><td><code>${person}</code></td><td>${parts
                .map((part) =>
                  part.kind === 'text' ? part.text : part.kind === 'taps' ? `[${part.taps.join('] [')}]` : '[picture]',
                )
                .join(' ')}</td><td>${state}</td></tr>`,
          )}</table></div>`,
      }),
    ),
  );
  return app;
}
