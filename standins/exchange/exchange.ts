/** The Quayside exchange, simulated: a telephone system that posts what becomes of calls. */
import { randomUUID } from 'node:crypto';
import { Hono } from 'hono';
import { html } from 'hono/html';
import { stamp } from '../clock';
import { page } from '../page';

interface PostedCall {
  at: string;
  event: string;
  caller: string;
  called: string;
  status: number | string;
  answer: string;
}

export interface ExchangeSettings {
  /** Where calls are posted. */
  address: string;
  calls: PostedCall[];
}

export function exchangeSite(settings: ExchangeSettings): Hono {
  const app = new Hono();
  app.get('/', (c) =>
    c.html(page({ title: 'Quayside exchange', colours: ['#eef2f1', '#16221f', '#2f6156'], body: body(settings) })),
  );
  app.post('/address', async (c) => {
    settings.address = String((await c.req.parseBody()).address ?? '').trim();
    return c.redirect('/');
  });
  app.post('/calls', async (c) => {
    const form = await c.req.parseBody();
    const event = String(form.event);
    const caller = String(form.caller).trim();
    const called = String(form.called).trim();
    const entry: PostedCall = { at: stamp(), event, caller, called, status: '…', answer: '' };
    settings.calls.push(entry);
    try {
      const answer = await fetch(settings.address, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ event, caller, called, call: randomUUID(), at: entry.at }),
        signal: AbortSignal.timeout(10_000),
      });
      entry.status = answer.status;
      entry.answer = (await answer.text()).slice(0, 300);
    } catch (error) {
      entry.status = (error as Error).name;
    }
    return c.redirect('/');
  });
  return app;
}

function body({ address, calls }: ExchangeSettings) {
  return html`<div class="side">
    <form method="post" action="/address"><h2>Events</h2>
      <label>Post what becomes of calls to <input name="address" value="${address}"></label><button>Save address</button></form>
    <form method="post" action="/calls"><h2>A call</h2>
      <label>Caller <input name="caller" value="+447700900123"></label>
      <label>Called <input name="called" value="+442079460114"></label>
      <label>What became of it <select name="event"><option>missed</option><option>incoming</option><option>voicemail-box</option></select></label>
      <button>Let it ring</button></form></div>
    <div id="live"><h2>Calls</h2><table><tr><th>Time</th><th>Event</th><th>Caller</th><th>Answered</th><th>Answer</th></tr>
    ${calls
      .slice(-15)
      .reverse()
      .map(
        (call) =>
          html`<tr><td>${call.at.slice(11, 19)}</td><td>${call.event}</td><td>${call.caller}</td><td>${call.status}</td><td><code>${call.answer}</code></td></tr>`,
      )}</table></div>`;
}
