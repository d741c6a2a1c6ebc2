/** Ostrel's own page: logins, their limits and numbers, and what went over the trunk. */
import { Hono } from 'hono';
import { html } from 'hono/html';
import { page } from '../page';
import type { Ostrel, OstrelLogin } from './ostrel';

const COLOURS: [string, string, string] = ['#f1eef4', '#221a2b', '#57427a'];

export function ostrelConsole(ostrel: Ostrel, port: number): Hono {
  const app = new Hono();
  app.get('/', (c) =>
    c.html(
      page({
        title: 'Ostrel trunk desk',
        colours: COLOURS,
        body: html`${ostrel.logins.map((login) => loginBody(login, port))}
          <div id="live"><h2>Now bound</h2>
          <ul>${ostrel.logins.map((login) => html`<li>${login.systemId}: ${ostrel.sessionsOf(login.systemId)} session(s)</li>`)}</ul>
          <h2>Texts taken</h2>
          <table><tr><th>Time</th><th>Login</th><th>From</th><th>To</th><th>Text</th><th>State</th></tr>
          ${ostrel.accepted
            .slice(-12)
            .reverse()
            .map(
              (entry) =>
                html`<tr><td>${new Date(entry.at).toISOString().slice(11, 19)}</td><td>${entry.login}</td><td>${entry.from}</td><td>${entry.to}</td><td>${entry.text}</td><td>${entry.state}</td></tr>`,
            )}</table>
          <h2>Link log</h2>
          <table><tr><th>Time</th><th>Login</th><th>Way</th><th>What</th><th>Status</th></tr>
          ${ostrel.log
            .slice(-20)
            .reverse()
            .map(
              (line) =>
                html`<tr><td>${line.at.slice(11, 19)}</td><td>${line.login}</td><td>${line.way === 'in' ? 'to us' : 'from us'}</td><td>${line.what}</td><td>${line.status}</td></tr>`,
            )}</table></div>`,
      }),
    ),
  );
  return app;
}

function loginBody(login: OstrelLogin, port: number) {
  return html`<h2>${login.name}</h2><table>
    <tr><th>Host and port</th><td><code>127.0.0.1</code> <code>${port}</code></td></tr>
    <tr><th>System id</th><td><code data-login="${login.systemId}">${login.systemId}</code></td></tr>
    <tr><th>Password</th><td><code data-password="${login.systemId}">${login.password}</code></td></tr>
    <tr><th>Bind</th><td>${login.binds === 'transceiver' ? 'one transceiver' : 'a transmitter and a receiver'}</td></tr>
    <tr><th>Limits</th><td>${login.perSecond} a second, ${login.window} unanswered</td></tr>
    <tr><th>Default alphabet</th><td>${login.alphabet === 'gsm-7' ? 'GSM-7' : 'Latin-1'}</td></tr>
    <tr><th>Long texts</th><td>by ${login.longText.join(', ')}</td></tr>
    <tr><th>Receipts</th><td>${login.receipts}; ids in answers ${login.ids.answers}, in receipts ${login.ids.receipts}</td></tr>
    <tr><th>Numbers</th><td>${login.numbers.join(', ')}</td></tr></table>`;
}
