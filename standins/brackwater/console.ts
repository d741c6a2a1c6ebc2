/** Brackwater's own console: access data, numbers with their inbound address, texts and the request log. */
import { Hono } from 'hono';
import { html } from 'hono/html';
import { page } from '../page';
import type { BrackwaterAccount, BrackwaterNumber } from './accounts';
import type { Brackwater } from './brackwater';

export function brackwaterConsole(brackwater: Brackwater): Hono {
  const app = new Hono();

  app.get('/', (c) =>
    c.html(
      page({
        title: 'Brackwater console',
        colours: ['#eef3f1', '#10241f', '#1f6b5c'],
        body: html`<h2>Accounts</h2><ul>${brackwater.accounts.map((account) => html`<li><a href="/console/${account.id}">${account.name}</a> (${account.id})</li>`)}</ul>`,
      }),
    ),
  );

  app.get('/:account', (c) => {
    const account = brackwater.account(c.req.param('account'));
    if (!account) return c.notFound();
    return c.html(
      page({
        title: `Brackwater console: ${account.name}`,
        colours: ['#eef3f1', '#10241f', '#1f6b5c'],
        body: accountBody(brackwater, account),
      }),
    );
  });

  app.post('/:account/numbers/:handle', async (c) => {
    const account = brackwater.account(c.req.param('account'));
    const number = account?.numbers.find((entry) => entry.handle === c.req.param('handle'));
    if (!account || !number) return c.notFound();
    const form = await c.req.parseBody();
    number.inbound = {
      method: form.method === 'GET' ? 'GET' : 'POST',
      primary: String(form.primary ?? '').trim(),
      fallback: String(form.fallback ?? '').trim(),
    };
    brackwater.note({
      account: account.id,
      kind: 'api',
      summary: `inbound address of ${number.number} saved in the console`,
      status: 'saved',
    });
    return c.redirect(`/console/${account.id}`);
  });

  return app;
}

function accountBody(brackwater: Brackwater, account: BrackwaterAccount) {
  const texts = brackwater.texts
    .filter((text) => text.account === account.id)
    .slice(-12)
    .reverse();
  const log = brackwater.log
    .filter((line) => line.account === account.id)
    .slice(-25)
    .reverse();
  return html`
    <h2>API access</h2>
    <table>
      <tr><th>API address</th><td><code data-copy="api">/v2 on this address</code></td></tr>
      <tr><th>Account id</th><td><code id="account-id">${account.id}</code></td></tr>
      <tr><th>API secret</th><td><code id="account-secret">${account.secret}</code></td></tr>
      <tr><th>Regions</th><td>${account.regions.join(', ') || 'none'}</td></tr>
      <tr><th>Standing</th><td>${account.trial ? html`on trial; verified phones: ${account.verifiedPhones.join(', ') || 'none'}` : 'full account'}</td></tr>
      <tr><th>Registrations</th><td>${account.registrations.map((entry) => html`${entry.country}: brand ${entry.brand}, use ${entry.use}. `)}</td></tr>
      <tr><th>Credit</th><td>${(account.credit / 1e6).toFixed(2)} ${account.currency}</td></tr>
    </table>
    <h2>Numbers</h2>
    ${account.numbers.map((number) => numberForm(account, number))}
    <div id="live">
      <h2>Texts</h2>
      <table><tr><th>Time</th><th>Way</th><th>From</th><th>To</th><th>Text</th><th>Parts</th><th>State</th></tr>
      ${texts.map((text) => html`<tr><td>${text.at.slice(11, 19)}</td><td>${text.direction}</td><td>${text.from}</td><td>${text.to}</td><td>${text.text}</td><td>${text.parts}</td><td>${text.state}</td></tr>`)}</table>
      <h2>Requests</h2>
      <table><tr><th>Time</th><th>Kind</th><th>What</th><th>Status</th></tr>
      ${log.map((line) => html`<tr><td>${line.at.slice(11, 19)}</td><td>${line.kind === 'api' ? 'to us' : 'from us'}</td><td>${line.summary}</td><td>${line.status}</td></tr>`)}</table>
    </div>`;
}

function numberForm(account: BrackwaterAccount, number: BrackwaterNumber) {
  return html`<form method="post" action="/console/${account.id}/numbers/${number.handle}">
    <strong>${number.number}</strong> can ${number.can.join(', ') || 'nothing'}
    <label>Method <select name="method"><option ${number.inbound.method === 'POST' ? 'selected' : ''}>POST</option><option ${number.inbound.method === 'GET' ? 'selected' : ''}>GET</option></select></label>
    <label>Primary address <input name="primary" value="${number.inbound.primary}"></label>
    <label>Fallback address <input name="fallback" value="${number.inbound.fallback}"></label>
    <button>Save address</button></form><hr>`;
}
