/** Mossgate's public website: another origin, with room for a snippet somebody else provides. */
import { Hono } from 'hono';
import { html, raw } from 'hono/html';

export interface Website {
  snippet: string;
}

export function websitePages(site: Website): Hono {
  const app = new Hono();
  app.get('/', (c) =>
    c.html(
      html`<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
        <title>Mossgate Waterways</title>
        <style>body{margin:0;font:17px/1.6 Georgia,'DejaVu Serif',serif;color:#20302b;background:#fbfaf5}header{background:#24483f;color:#fff;padding:28px 48px}main{padding:24px 48px;max-width:720px}</style></head>
        <body><header><h1>Mossgate Waterways</h1><p>Canals, locks and two harbours</p></header>
        <main><h2>Stoppages this week</h2><p>Tollgate lock is closed on Thursday from 08:00 to 12:00 for repairs to the lower gates.</p>
        <h2>Passage through Heron Staircase</h2><p>Passages are booked by text or on the quay. Ask us anything about your journey.</p>
        <p><a href="/snippet">For the people who look after this website</a></p></main>
        ${raw(site.snippet)}</body></html>`,
    ),
  );
  app.get('/snippet', (c) =>
    c.html(
      html`<!doctype html><html lang="en"><head><title>Mossgate website desk</title></head><body>
        <h1>Website desk</h1><form method="post" action="/snippet"><label>Snippet before the end of every page<br>
        <textarea name="snippet" rows="5" cols="100">${site.snippet}</textarea></label><br><button>Publish</button></form></body></html>`,
    ),
  );
  app.post('/snippet', async (c) => {
    site.snippet = String((await c.req.parseBody()).snippet ?? '');
    return c.redirect('/');
  });
  return app;
}
