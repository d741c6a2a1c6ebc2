/** Lockbook's address for webhooks and its own page. */
import { randomUUID } from 'node:crypto';
import { Hono } from 'hono';
import { html } from 'hono/html';
import { page } from '../page';
import type { Lockbook } from './lockbook';

export function lockbookSite(lockbook: Lockbook): Hono {
  const app = new Hono();

  app.post('/hooks/windgap', async (c) => {
    const body = await c.req.text();
    if (lockbook.faults.neverAnswers) return new Promise<Response>(() => undefined);
    const { faults } = lockbook;
    if (faults.answers404) return c.text('nothing here', 404);
    if (faults.answers410) return c.text('gone', 410);
    if (faults.redirects) return c.redirect('/hooks/windgap/', 308);
    if (faults.answersPage) return c.html('<!doctype html><title>Sign in</title><form><input name="user"></form>');
    const status = lockbook.receive(c.req.header(), body);
    if (status === 401) return c.text('No signature matches the secret', 401);
    return c.body(null, status as 204);
  });

  app.get('/', (c) =>
    c.html(page({ title: 'Lockbook', colours: ['#f4efe6', '#2b2118', '#7a4a21'], body: lockbookBody(lockbook) })),
  );

  app.post('/settings', async (c) => {
    const form = await c.req.parseBody();
    const { settings } = lockbook;
    settings.secret = String(form.secret ?? settings.secret).trim();
    settings.apiUrl = String(form.apiUrl ?? settings.apiUrl)
      .trim()
      .replace(/\/$/, '');
    settings.apiKey = String(form.apiKey ?? settings.apiKey).trim();
    settings.confirmsByItself = form.confirmsByItself === 'on';
    settings.bookingsTo = String(form.bookingsTo ?? '').trim();
    return c.redirect('/');
  });

  app.post('/reply', async (c) => {
    const form = await c.req.parseBody();
    await lockbook.send({ inReplyTo: String(form.inReplyTo), text: String(form.text) }, randomUUID());
    return c.redirect('/');
  });

  app.post('/book', async (c) => {
    const form = await c.req.parseBody();
    const text = (name: string) => String(form[name] ?? '').trim();
    await lockbook.book({
      lock: text('lock'),
      time: text('time'),
      skipper: text('skipper'),
      mobile: text('mobile'),
      boat: text('boat'),
    });
    return c.redirect('/');
  });

  app.post('/send', async (c) => {
    const form = await c.req.parseBody();
    const from = String(form.from ?? '').trim();
    await lockbook.send({ to: String(form.to), text: String(form.text), ...(from ? { from } : {}) }, randomUUID());
    return c.redirect('/');
  });

  return app;
}

function lockbookBody(lockbook: Lockbook) {
  const { settings } = lockbook;
  const received = lockbook.events.filter((event) => event.verified && event.type?.endsWith('message.received'));
  return html`
    <div class="side">
      <form method="post" action="/settings"><h2>Connection to Windgap</h2>
        <p>Our address for events: <code id="hook-address">/hooks/windgap on this address</code></p>
        <label>Signing secret <input name="secret" value="${settings.secret}"></label>
        <label>API address <input name="apiUrl" value="${settings.apiUrl}"></label>
        <label>API key <input name="apiKey" value="${settings.apiKey}"></label>
        <label><input type="checkbox" name="confirmsByItself" ${settings.confirmsByItself ? 'checked' : ''} style="width:auto"> Confirm texts that start with LOCK by itself</label>
        <label>Post booked passages to <input name="bookingsTo" value="${settings.bookingsTo ?? ''}"></label>
        <button>Save connection</button></form>
      <div>
        <form method="post" action="/reply"><h2>Answer a boater</h2>
          <label>Message <select name="inReplyTo">${received
            .slice(-20)
            .reverse()
            .map(
              (event) =>
                html`<option value="${event.message?.id}">${event.message?.from}: ${event.message?.text.slice(0, 60)}</option>`,
            )}</select></label>
          <label>Answer <input name="text" value="Your passage is booked."></label><button>Send answer</button></form>
        <form method="post" action="/send"><h2>Text a boater</h2>
          <label>Number <input name="to"></label>
          <label>From (channel number, optional) <input name="from"></label>
          <label>Text <input name="text"></label><button>Send text</button></form>
        <form method="post" action="/book"><h2>Book a passage</h2>
          <label>Lock <input name="lock" value="North lock"></label>
          <label>Time <input name="time" value="14:30"></label>
          <label>Skipper <input name="skipper" value="Ines Calder"></label>
          <label>Mobile <input name="mobile" value="07700 900123"></label>
          <label>Boat <input name="boat" value="Heron"></label><button>Book it</button></form>
      </div>
    </div>
    <div id="live">
      <h2>Events received</h2>
      <table><tr><th>Time</th><th>Event</th><th>Signature</th><th>Message</th></tr>
      ${lockbook.events
        .slice(-15)
        .reverse()
        .map(
          (event) =>
            html`<tr><td>${event.at.slice(11, 19)}</td><td>${event.type ?? '?'}</td><td class="${event.verified ? 'good' : 'bad'}">${event.verified ? 'verified' : (event.problem ?? 'wrong')}</td><td>${event.message ? `${event.message.direction} ${event.message.state}: ${event.message.text}` : ''}</td></tr>`,
        )}</table>
      <h2>Calls to Windgap</h2>
      <table><tr><th>Time</th><th>Call</th><th>Status</th><th>Answer</th></tr>
      ${lockbook.calls
        .slice(-10)
        .reverse()
        .map(
          (call) =>
            html`<tr><td>${call.at.slice(11, 19)}</td><td><code>${call.what}</code></td><td>${call.status}</td><td><code>${call.answer.slice(0, 400)}</code></td></tr>`,
        )}</table>
    </div>`;
}
