/** Fennick's look-up over HTTP, and its own page. */
import { Hono } from 'hono';
import { html } from 'hono/html';
import { page } from '../page';
import type { Fennick, FennickAccount } from './fennick';

/** Ids of what is on the page once for each account. */
const of = ({ posts }: FennickAccount): string => (posts === 'whole' ? 'mailbox-' : '');

export function fennickSite(fennick: Fennick, smtpPort: number): Hono {
  const app = new Hono();

  app.get('/lookup', (c) => {
    if (fennick.faults.lookupDown) return c.json({ fault: 'asleep' }, 503);
    if (!fennick.accounts.some((account) => account.lookupKey === c.req.header('fennick-key')))
      return c.json({ fault: 'key' }, 401);
    const phone = c.req.query('phone') ?? '';
    const carrier = fennick.carriers.find((entry) => entry.phones.includes(phone));
    return carrier ? c.json({ phone, network: carrier.name }) : c.json({ fault: 'not-found' }, 404);
  });

  app.get('/', (c) =>
    c.html(
      page({
        title: 'Fennick mail',
        colours: ['#eef0f5', '#171d2b', '#33508a'],
        body: html`${fennick.accounts.map(
          (
            account,
            index,
          ) => html`<h2>${account.posts === 'whole' ? 'Mailbox' : 'Account for texts by mail'}</h2><table>
            <tr><th>Mail server</th><td><code>127.0.0.1</code> <code id="${of(account)}smtp-port">${smtpPort}</code></td></tr>
            <tr><th>User</th><td><code id="${of(account)}user">${account.user}</code></td></tr>
            <tr><th>Password</th><td><code id="${of(account)}password">${account.password}</code></td></tr>
            <tr><th>Address</th><td><code id="${of(account)}address">${account.address}</code></td></tr>
            ${account.lookupKey ? html`<tr><th>Look-up key</th><td><code id="lookup-key">${account.lookupKey}</code></td></tr>` : ''}</table>
          <form method="post" action="/hook/${index}">
            <label>Post incoming mail and returns to <input name="url" value="${account.hook.url}"></label>
            <label>Word that goes with it <input name="word" value="${account.hook.word}"></label>
            <button>Save post address</button></form>`,
        )}
        <h2>Records of your domains</h2><table><tr><th>Name</th><th>Text</th></tr>
        ${[...fennick.zone.records].map(([name, texts]) => html`<tr><td><code>${name}</code></td><td><code style="word-break:break-all">${texts.join(' | ')}</code></td></tr>`)}</table>
        <form method="post" action="/records">
          <label>Name <input name="name" size="40"></label> <label>Text <input name="text" size="60"></label>
          <button>Publish</button> <small>Without a text the record is taken away.</small></form>
        <h2>Gateways of carriers</h2><table><tr><th>Carrier</th><th>Domain</th><th>Local part</th></tr>
        ${fennick.carriers.map((carrier) => html`<tr><td>${carrier.name}</td><td>${carrier.domain}</td><td>${carrier.form}</td></tr>`)}</table>
        <div id="live"><h2>Mail</h2><table><tr><th>Time</th><th>From</th><th>To</th><th>Subject</th><th>Text</th><th>State</th></tr>
        ${fennick.mails
          .slice(-15)
          .reverse()
          .map(
            (mail) =>
              html`<tr><td>${mail.at.slice(11, 19)}</td><td>${mail.from}</td><td>${mail.to}</td><td>${mail.subject ?? ''}</td><td>${mail.text}</td><td>${mail.state}</td></tr>`,
          )}</table></div>`,
      }),
    ),
  );

  app.post('/hook/:index', async (c) => {
    const account = fennick.accounts[Number(c.req.param('index'))];
    if (!account) return c.notFound();
    const form = await c.req.parseBody();
    account.hook = { url: String(form.url).trim(), word: String(form.word).trim() };
    return c.redirect('/');
  });

  app.post('/records', async (c) => {
    const form = await c.req.parseBody();
    const name = String(form.name).trim().toLowerCase();
    const text = String(form.text).trim();
    if (name && text) fennick.zone.records.set(name, [text]);
    else fennick.zone.records.delete(name);
    return c.redirect('/');
  });

  return app;
}
