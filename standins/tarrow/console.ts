/** Tarrow's own console: token, ids, callback with its word, events, stage, billing and lines. */
import { Hono } from 'hono';
import { html } from 'hono/html';
import { page } from '../page';
import { TARROW_EVENTS, type Tarrow, type TarrowBusiness } from './tarrow';

const COLOURS: [string, string, string] = ['#f6efe9', '#2a1d14', '#8a4b2a'];

export function tarrowConsole(tarrow: Tarrow): Hono {
  const app = new Hono();
  const find = (id: string) => tarrow.businesses.find((business) => business.id === id);

  app.get('/', (c) =>
    c.html(
      page({
        title: 'Tarrow for business',
        colours: COLOURS,
        body: html`<h2>Businesses</h2><ul>${tarrow.businesses.map((business) => html`<li><a href="/console/${business.id}">${business.name}</a></li>`)}</ul>`,
      }),
    ),
  );

  app.get('/:id', (c) => {
    const business = find(c.req.param('id'));
    if (!business) return c.notFound();
    return c.html(page({ title: `Tarrow: ${business.name}`, colours: COLOURS, body: body(tarrow, business) }));
  });

  app.post('/:id/callback', async (c) => {
    const business = find(c.req.param('id'));
    if (!business) return c.notFound();
    const form = await c.req.parseBody();
    await tarrow.setCallback(business, String(form.url).trim(), String(form.word).trim()).catch(() => false);
    return c.redirect(`/console/${business.id}`);
  });

  app.post('/:id/settings', async (c) => {
    const business = find(c.req.param('id'));
    if (!business) return c.notFound();
    const form = await c.req.parseBody({ all: true });
    business.events = TARROW_EVENTS.filter((event) => [form.events].flat().includes(event));
    business.stage = form.stage === 'live' ? 'live' : 'building';
    business.billing = form.billing === 'set' ? 'set' : 'absent';
    for (const line of business.lines) line.trial.open = [form.trial].flat().includes(line.id);
    return c.redirect(`/console/${business.id}`);
  });

  return app;
}

function body(tarrow: Tarrow, business: TarrowBusiness) {
  const messages = tarrow.messages
    .filter((message) => message.business === business.id)
    .slice(-10)
    .reverse();
  const log = tarrow.log
    .filter((line) => line.business === business.id)
    .slice(-20)
    .reverse();
  const checked = (on: boolean) => (on ? 'checked' : '');
  return html`
    <h2>Access</h2>
    <table>
      <tr><th>Token</th><td><code id="token">${business.token.value}</code></td></tr>
      <tr><th>Token ends</th><td>${business.token.ends}; may: ${business.token.may.join(', ')}</td></tr>
      <tr><th>Business id</th><td><code id="business-id">${business.id}</code></td></tr>
      <tr><th>Signing key</th><td><code id="signing-key">${business.signingKey}</code></td></tr>
      ${business.lines.map((line) => html`<tr><th>Line</th><td><code data-line="${line.phone}">${line.id}</code> ${line.phone}, ${line.standing}, ${line.startsADay} starts a day${line.trial.open ? html`; on trial, join word <strong>${line.trial.joinWord}</strong>` : ''}${line.code ? html`; code sent: <code data-code="${line.id}">${line.code}</code>` : ''}</td></tr>`)}
    </table>
    <div class="side">
    <form method="post" action="/console/${business.id}/callback"><h2>Callback</h2>
      <label>Callback address <input name="url" value="${business.callback.url}"></label>
      <label>Verification word <input name="word" value="${business.callback.word}"></label>
      <button>Verify and save</button>
      <p>State: <strong id="callback-state" class="${business.callback.confirmed ? 'good' : 'bad'}">${business.callback.confirmed ? 'confirmed' : business.callback.url ? 'not confirmed' : 'none'}</strong></p></form>
    <form method="post" action="/console/${business.id}/settings"><h2>Settings</h2>
      ${TARROW_EVENTS.map((event) => html`<label><input type="checkbox" style="width:auto" name="events" value="${event}" ${checked(business.events.includes(event))}> Event ${event}</label>`)}
      <label>Stage <select name="stage"><option value="building" ${business.stage === 'building' ? 'selected' : ''}>Building (testers only)</option><option value="live" ${business.stage === 'live' ? 'selected' : ''}>Live</option></select></label>
      <label>Billing <select name="billing"><option value="absent" ${business.billing === 'absent' ? 'selected' : ''}>None</option><option value="set" ${business.billing === 'set' ? 'selected' : ''}>Card on file</option></select></label>
      ${business.lines.map((line) => html`<label><input type="checkbox" style="width:auto" name="trial" value="${line.id}" ${checked(line.trial.open)}> ${line.phone} on trial</label>`)}
      <button>Save settings</button></form>
    </div>
    <div id="live"><h2>Messages</h2>
      <table><tr><th>Time</th><th>Way</th><th>Person</th><th>Words</th><th>State</th></tr>
      ${messages.map((message) => html`<tr><td>${message.at.slice(11, 19)}</td><td>${message.direction}</td><td>${message.person}</td><td>${message.text}</td><td>${message.state}</td></tr>`)}</table>
      <h2>Patterns</h2><table><tr><th>Title</th><th>Edition</th><th>Use</th><th>Standing</th><th>Objections</th></tr>
      ${tarrow.patterns.of(business.id).flatMap((pattern) => pattern.all.map((edition) => html`<tr><td>${pattern.title}</td><td>${edition.edition}</td><td>${edition.use}</td><td>${edition.standing}</td><td>${edition.objections.map(({ tongue, words }) => html`${tongue}: ${words} `)}</td></tr>`))}</table>
      <h2>Log</h2><table><tr><th>Time</th><th>What</th><th>Status</th></tr>
      ${log.map((line) => html`<tr><td>${line.at.slice(11, 19)}</td><td>${line.what}</td><td>${line.status}</td></tr>`)}</table></div>`;
}
