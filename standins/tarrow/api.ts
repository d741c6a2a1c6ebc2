/** Tarrow's HTTP API, generation 7. Errors are `{ reason, words }`. */
import { type Context, Hono } from 'hono';
import { now } from '../clock';
import type { Edition } from './reviewer';
import { reviewOf, TARROW_EVENTS, type Tarrow, type TarrowBusiness, type TarrowLine } from './tarrow';

type Env = { Variables: { business: TarrowBusiness } };

export function tarrowApi(tarrow: Tarrow): Hono<Env> {
  const api = new Hono<Env>();

  api.use(async (c, next) => {
    if (tarrow.faults.answers500) return c.json({ reason: 'ours', words: 'Something broke on our side' }, 500);
    const token = /^Bearer (.+)$/.exec(c.req.header('authorization') ?? '')?.[1] ?? '';
    const business = tarrow.byToken(token);
    if (!business) return refuse(c, 401, 'token_unknown', 'Nobody has this token');
    if (tarrow.faults.tokenEnded || Date.parse(business.token.ends) <= now())
      return refuse(c, 401, 'token_ended', 'This token has ended');
    c.set('business', business);
    await next();
    tarrow.note(business.id, `${c.req.method} ${c.req.path}`, c.res.status);
  });

  const may = (c: Context<Env>, permission: string) => c.get('business').token.may.includes(permission);
  const lacks = (c: Context<Env>, permission: string) =>
    refuse(c, 403, 'token_may_not', `The token lacks ${permission}`);
  const lineOf = (c: Context<Env>): TarrowLine | undefined =>
    c.get('business').lines.find((line) => line.id === c.req.param('line'));

  api.get('/businesses/:id', (c) => {
    const business = c.get('business');
    if (business.id !== c.req.param('id'))
      return refuse(c, 404, 'business_unknown', 'This token is of another business');
    return c.json({
      business: {
        id: business.id,
        name: business.name,
        stage: tarrow.stageOf(business),
        billing: tarrow.billingOf(business),
        events: tarrow.eventsOf(business),
        callback: { url: business.callback.url || null, confirmed: business.callback.confirmed },
      },
      token: { ends: business.token.ends, may: business.token.may },
    });
  });

  api.get('/businesses/:id/lines', (c) =>
    c.json({
      lines: c.get('business').lines.map(({ id, phone, standing, trial, startsADay }) => ({
        id,
        phone,
        standing,
        starts_a_day: startsADay,
        trial: { open: trial.open, since: trial.since, join_word: trial.joinWord },
      })),
    }),
  );

  api.put('/businesses/:id/callback', async (c) => {
    if (!may(c, 'settings')) return lacks(c, 'settings');
    const { url = '', word = '' } = (await c.req.json().catch(() => ({}))) as { url?: string; word?: string };
    if (!/^https?:\/\//.test(url) || !word) return refuse(c, 400, 'callback_malformed', 'url and word are needed');
    const confirmed = await tarrow.setCallback(c.get('business'), url, word);
    if (!confirmed) return refuse(c, 409, 'callback_unconfirmed', 'The address did not give the echo back');
    return c.json({ callback: { url, confirmed } });
  });

  api.put('/businesses/:id/events', async (c) => {
    if (!may(c, 'settings')) return lacks(c, 'settings');
    const { events = '' } = (await c.req.json().catch(() => ({}))) as { events?: string | string[] };
    const wanted = (Array.isArray(events) ? events : events.split(',')).filter((event) =>
      (TARROW_EVENTS as readonly string[]).includes(event),
    );
    c.get('business').events = wanted;
    return c.json({ events: wanted });
  });

  api.post('/lines/:line/messages', async (c) => {
    if (!may(c, 'messages')) return lacks(c, 'messages');
    const line = lineOf(c);
    if (!line) return refuse(c, 404, 'line_unknown', 'No such line');
    const body = (await c.req.json().catch(() => ({}))) as {
      to?: string;
      words?: string;
      ref?: string;
      pattern?: { id: string; edition: number | string; tongue: string; fill?: string[] };
    };
    const { to = '', words: text = '', ref, pattern } = body;
    const result = tarrow.send(c.get('business'), line, { to, text, ref, pattern });
    return 'reason' in result
      ? refuse(c, result.status, result.reason, result.words)
      : c.json({ message: { id: result.id } }, 201);
  });

  const handIn = async (c: Context<Env>) => {
    if (!may(c, 'settings')) return lacks(c, 'settings');
    const content = (await c.req.json().catch(() => ({}))) as { title?: string; use?: string; editions?: Edition[] };
    const result = tarrow.patterns.handIn(c.get('business').id, content, c.req.param('pattern'));
    if ('reason' in result) {
      if (result.status === 429) c.header('retry-after', '60');
      return refuse(c, result.status, result.reason, result.words);
    }
    return c.json(
      { pattern: reviewOf(result.pattern, result.edition), usual_minutes: tarrow.patterns.desk.reviewMs / 60_000 },
      201,
    );
  };
  api.post('/businesses/:id/patterns', handIn);
  api.put('/businesses/:id/patterns/:pattern', handIn);

  api.get('/businesses/:id/patterns', (c) => {
    const title = c.req.query('title');
    const patterns = tarrow.patterns.of(c.get('business').id).filter((each) => !title || each.title === title);
    return c.json({ patterns: patterns.flatMap((each) => each.all.map((edition) => reviewOf(each, edition))) });
  });

  api.get('/businesses/:id/patterns/:pattern', (c) => {
    const pattern = tarrow.patterns.of(c.get('business').id).find(({ id }) => id === c.req.param('pattern'));
    if (!pattern) return refuse(c, 404, 'pattern_unknown', 'No such pattern');
    return c.json({ patterns: pattern.all.map((edition) => reviewOf(pattern, edition)) });
  });

  api.delete('/businesses/:id/patterns/:pattern', (c) => {
    if (!may(c, 'settings')) return lacks(c, 'settings');
    const done = tarrow.patterns.withdraw(c.get('business').id, c.req.param('pattern'));
    return done ? c.json({ withdrawn: true }) : refuse(c, 404, 'pattern_unknown', 'No such pattern');
  });

  api.post('/lines/:line/trial/close', (c) => {
    const line = lineOf(c);
    if (!line) return refuse(c, 404, 'line_unknown', 'No such line');
    if (!may(c, 'settings')) return lacks(c, 'settings');
    line.trial.open = false;
    return c.json({ line: line.id });
  });

  api.post('/lines/:line/code', (c) => {
    const line = lineOf(c);
    if (!line) return refuse(c, 404, 'line_unknown', 'No such line');
    if (line.standing === 'elsewhere')
      return refuse(c, 409, 'line_elsewhere', 'This phone is on the network in another way');
    tarrow.startCode(line);
    return c.json({ sent: true });
  });

  api.post('/lines/:line/code/confirm', async (c) => {
    const line = lineOf(c);
    const { code } = (await c.req.json().catch(() => ({}))) as { code?: string };
    if (!line?.code || line.code !== code) return refuse(c, 400, 'code_wrong', 'This is not the code');
    line.standing = 'usable';
    line.code = undefined;
    return c.json({ line: line.id });
  });

  return api;
}

function refuse(c: Context, status: 400 | 401 | 402 | 403 | 404 | 409 | 429, reason: string, words: string) {
  return c.json({ reason, words }, status);
}
