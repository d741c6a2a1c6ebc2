/** Bollard's addresses: what it says of itself, its sign-in page, its tokens, signing out, and who is who. */
import { Hono } from 'hono';
import { deleteCookie, getCookie, setCookie } from 'hono/cookie';
import { html } from 'hono/html';
import { page } from '../page';
import type { Bollard } from './bollard';

const COOKIE = 'bollard';
const COLOURS: [string, string, string] = ['#f4f1ea', '#26232b', '#4b3a63'];

export function bollardSite(bollard: Bollard): Hono {
  const app = new Hono();
  const { issuer } = bollard;

  app.get('/.well-known/openid-configuration', (c) =>
    c.json({
      issuer,
      authorization_endpoint: `${issuer}/sign-in`,
      token_endpoint: `${issuer}/tokens`,
      jwks_uri: `${issuer}/keys`,
      end_session_endpoint: `${issuer}/sign-out`,
      response_types_supported: ['code'],
      grant_types_supported: ['authorization_code'],
      subject_types_supported: ['public'],
      id_token_signing_alg_values_supported: ['RS256'],
      token_endpoint_auth_methods_supported: ['client_secret_basic', 'client_secret_post'],
      code_challenge_methods_supported: ['S256'],
      scopes_supported: ['openid', 'email', 'profile', 'groups'],
      claims_supported: ['sub', 'email', 'email_verified', 'name', 'groups'],
    }),
  );

  app.get('/keys', async (c) => c.json(await bollard.publicKeys()));

  app.get('/sign-in', (c) => {
    const asked = new URL(c.req.url).searchParams;
    const problem = bollard.problemOf(asked);
    if (problem)
      return c.html(page({ title: 'Bollard', colours: COLOURS, body: html`<p class="bad">${problem}</p>` }), 400);
    const session = bollard.sessions.get(getCookie(c, COOKIE) ?? '');
    if (session && asked.get('prompt') !== 'login') return c.redirect(bollard.grant(asked, session), 303);
    return c.html(signInPage(asked, ''));
  });

  app.post('/sign-in', async (c) => {
    const asked = new URL(c.req.url).searchParams;
    const problem = bollard.problemOf(asked);
    if (problem) return c.text(problem, 400);
    const form = await c.req.parseBody();
    const person = bollard.personBy(String(form.email ?? ''), String(form.password ?? ''));
    if (!person) return c.html(signInPage(asked, 'E-mail and password do not fit together.'), 401);
    const id = bollard.begin(person.id);
    setCookie(c, COOKIE, id, { httpOnly: true, sameSite: 'Lax', path: '/' });
    const session = bollard.sessions.get(id);
    return session ? c.redirect(bollard.grant(asked, session), 303) : c.text('gone', 500);
  });

  app.post('/tokens', async (c) => {
    const form = new URLSearchParams(await c.req.text());
    const answer = await bollard.redeem(form, clientOf(c.req.header('authorization'), form));
    const status = 'error' in answer ? (answer.error === 'invalid_client' ? 401 : 400) : 200;
    return c.json(answer, status, { 'cache-control': 'no-store' });
  });

  app.get('/sign-out', (c) => {
    const id = getCookie(c, COOKIE) ?? '';
    bollard.sessions.delete(id);
    deleteCookie(c, COOKIE, { path: '/' });
    const back = c.req.query('post_logout_redirect_uri') ?? '';
    return bollard.mayReturnTo(back) ? c.redirect(back, 303) : c.text('You are signed out.');
  });

  app.get('/', (c) => {
    const { clientId, clientSecret, returns, people } = bollard.settings;
    return c.html(
      page({
        title: 'Bollard, identity provider',
        colours: COLOURS,
        body: html`<h2>For whoever relies on it</h2>
          <table><tr><th>Issuer</th><td><code>${issuer}</code></td></tr><tr><th>Client id</th><td><code>${clientId}</code></td></tr>
          <tr><th>Client secret</th><td><code>${clientSecret}</code></td></tr><tr><th>Return addresses</th><td>${returns.map((each) => html`<code>${each}</code> `)}</td></tr></table>
          <h2>People</h2><table><tr><th>Name</th><th>E-mail</th><th>Password</th><th>Groups</th></tr>
          ${people.map(
            (person) =>
              html`<tr><td>${person.name}</td><td>${person.email}${person.verified ? '' : ' (not verified)'}</td><td><code>${person.password}</code></td><td>${person.groups.join(', ')}</td></tr>`,
          )}</table>`,
      }),
    );
  });
  return app;
}

function signInPage(asked: URLSearchParams, problem: string) {
  return page({
    title: 'Bollard',
    colours: COLOURS,
    body: html`<h2>Sign in to go on to ${new URL(asked.get('redirect_uri') ?? 'http://nowhere.invalid').host}</h2>
      ${problem ? html`<p class="bad">${problem}</p>` : ''}
      <form method="post" action="/sign-in?${asked.toString()}">
      <label for="email">E-mail</label><input id="email" name="email" type="email" autocomplete="username">
      <label for="password">Password</label><input id="password" name="password" type="password" autocomplete="current-password">
      <br><button>Sign in</button></form>`,
  });
}

/** By HTTP Basic (RFC 6749 §2.3.1), or in the form. */
function clientOf(header: string | undefined, form: URLSearchParams): { id: string; secret: string } {
  const basic = /^Basic (\S+)$/i.exec(header ?? '')?.[1];
  if (!basic) return { id: form.get('client_id') ?? '', secret: form.get('client_secret') ?? '' };
  const [id = '', secret = ''] = Buffer.from(basic, 'base64').toString('utf8').split(':');
  return { id: decodeURIComponent(id), secret: decodeURIComponent(secret) };
}
