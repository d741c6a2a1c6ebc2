/** Weir Desk's HTTP API and its own page. Errors are `{ fault: { kind, said } }`. */
import { type Context, Hono } from 'hono';
import { html } from 'hono/html';
import { page } from '../page';
import type { Ticket, WeirDesk } from './weir';

export function weirSite(weir: WeirDesk): Hono {
  const app = new Hono();
  const { settings } = weir;
  const fault = (c: Context, status: 400 | 401 | 404 | 500, kind: string, said: string) =>
    c.json({ fault: { kind, said } }, status);
  const linked = (c: Context, ticket: Ticket) => ({ ...ticket, link: new URL(`/#t${ticket.number}`, c.req.url).href });

  app.use('/desks/:desk/*', async (c, next) => {
    if (weir.faults.answers500) return fault(c, 500, 'ours', 'The desk is out of order');
    if (c.req.param('desk') !== settings.desk) return fault(c, 404, 'desk', 'There is no such desk');
    if (c.req.header('x-desk-key') !== settings.key) return fault(c, 401, 'key', 'The desk key is another one');
    await next();
  });
  app.get('/desks/:desk/', (c) => c.json({ desk: { title: settings.title } }));
  app.get('/desks/:desk/tickets/tally', (c) =>
    c.json({ tally: { open: weir.tally(c.req.query('requester') ?? '', c.req.query('state') ?? 'open') } }),
  );
  app.post('/desks/:desk/tickets', async (c) => {
    const given = (await c.req.json().catch(() => ({}))) as Record<string, unknown>;
    const made = weir.open(given, c.req.header('x-once'));
    if (typeof made === 'string') return fault(c, 400, 'ticket', made);
    if (weir.faults.takesAndHangs) return new Promise<Response>(() => undefined);
    return c.json({ ticket: linked(c, made.ticket) }, made.fresh ? 201 : 200);
  });

  app.get('/', (c) =>
    c.html(page({ title: 'Weir Desk', colours: ['#f3efe9', '#2a2320', '#6b4a3a'], body: body(weir, c) })),
  );
  app.post('/tickets/:number/close', (c) => {
    const ticket = settings.tickets.find((entry) => entry.number === Number(c.req.param('number')));
    if (ticket) ticket.state = 'closed';
    return c.redirect('/');
  });
  return app;
}

function body({ settings }: WeirDesk, c: Context) {
  return html`
    <h2>Integrations</h2>
    <p>Address <code id="address">${new URL('/', c.req.url).origin}</code>, desk <code id="desk">${settings.desk}</code>, desk key <code id="key">${settings.key}</code></p>
    <div id="live"><h2>Tickets</h2>
      <table><tr><th>Number</th><th>Subject</th><th>First note</th><th>Asked by</th><th>State</th><th></th></tr>
      ${settings.tickets
        .slice(-20)
        .reverse()
        .map(
          (ticket) =>
            html`<tr id="t${ticket.number}"><td>${ticket.number}</td><td>${ticket.subject}</td><td>${ticket.body}</td><td>${ticket.requester}</td><td>${ticket.state}</td><td>${ticket.state === 'open' ? html`<form method="post" action="/tickets/${ticket.number}/close"><button>Close</button></form>` : ''}</td></tr>`,
        )}</table></div>`;
}
