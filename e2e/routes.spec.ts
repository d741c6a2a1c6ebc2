/** Routes by clicking: written, dry-run, replayed, published, and what three handsets then meet. */
import { expect, type Locator, type Page } from '@playwright/test';
import { expectAccessible, goTo, signIn } from './helpers';
import { BENCH_PORT } from './places';
import { revealing, test } from './revealed';

const at = (offset: number) => `http://127.0.0.1:${BENCH_PORT + offset}`;
const INES = '+447700900123';
const TOMAS = '+46701740612';
const STRANGER = '+447700900377';

interface State {
  handsets: { number: string; entries: { direction: string; text: string }[] }[];
}

async function textsOn(number: string): Promise<string[]> {
  const { handsets } = (await (await fetch(at(0))).json()) as State;
  const own = handsets.find((handset) => handset.number === number);
  return (own?.entries ?? []).flatMap(({ direction, text }) => (direction === 'received' ? [text] : []));
}

async function says(number: string, text: string, to = '+442079460114') {
  const answer = await fetch(`${at(0)}/handsets/${encodeURIComponent(number)}/texts`, {
    method: 'POST',
    body: JSON.stringify({ to, text, way: 'text' }),
  });
  expect(answer.status).toBe(202);
}

const arrives = (number: string, text: string) =>
  expect.poll(async () => (await textsOn(number)).some((each) => each.includes(text))).toBe(true);

/** Connects an app's records, with an action only routes use. */
async function keepsRecords(
  page: Page,
  name: string,
  profile: string,
  fill: (page: Page) => Promise<void>,
  action: string,
  way: string,
) {
  await goTo(page, 'Apps');
  await page.getByRole('button', { name: 'Add an app' }).click();
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('What it is').fill('For the routes');
  await page.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
  await page.getByRole('link', { name: 'Records', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: `Records in ${name}` })).toBeVisible();
  await page.getByRole('radio', { name: profile }).check();
  await fill(page);
  await page.getByRole('button', { name: 'Check and save' }).click();
  await page.getByRole('button', { name: 'Add a record action' }).click();
  await page.getByLabel('Name', { exact: true }).fill(action);
  await page.getByLabel('For each message that comes in').selectOption(way);
  await page.getByLabel('Only where a route says so').check();
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('heading', { name: action })).toBeVisible();
}

const card = (page: Page, name: string) => page.locator(`[data-route="${name}"]`);

async function addRoute(page: Page, name: string): Promise<Locator> {
  await page.getByRole('button', { name: 'Add a route', exact: true }).click();
  const fresh = card(page, 'A new route');
  await fresh.getByLabel('Name', { exact: true }).fill(name);
  return card(page, name);
}

async function addCondition(route: Locator, looksAt: string, fill: (row: Locator) => Promise<void>) {
  await route.locator('[data-group="1"] > div').getByRole('button', { name: 'Add a condition' }).click();
  const row = route.locator('[data-group="1"] > ul > li').last();
  await row.getByLabel('Looks at').selectOption(looksAt);
  await fill(row);
}

async function addStep(list: Locator, kind: string, fill: (step: Locator) => Promise<void> = async () => undefined) {
  const steps = list.locator('> ol > li');
  const before = await steps.count();
  await list.locator('> div').getByRole('button', { name: 'Add a step' }).click();
  const step = steps.nth(before);
  await step.getByLabel('Step', { exact: true }).first().selectOption(kind);
  await fill(step);
}

const stepsOf = (route: Locator, label: string) => route.locator(`ol[aria-label="${label}"]`).locator('..');

test('a rule set for Mossgate: written, tried, replayed, published, met by three handsets, and explained', async ({
  page,
  context,
}) => {
  await signIn(page);
  const outside = revealing(await context.newPage());
  await outside.goto(at(80));
  const towpath = {
    address: (await outside.locator('#address').textContent()) ?? '',
    token: (await outside.locator('.token').first().textContent()) ?? '',
  };
  await outside.goto(at(90));
  const read = async (id: string) => (await outside.locator(`#${id}`).textContent()) ?? '';
  const weir = { address: await read('address'), desk: await read('desk'), key: await read('key') };
  await outside.close();
  await fetch(`${at(0)}/handsets`, {
    method: 'POST',
    body: JSON.stringify({ number: STRANGER, owner: 'Wren Fallow', country: 'GB' }),
  });

  await test.step('two apps that keep records where a route says so', async () => {
    await keepsRecords(
      page,
      'Customer book',
      'Towpath Records',
      async () => {
        await page.getByLabel('Address', { exact: true }).fill(towpath.address);
        await page.getByLabel('Access token').fill(towpath.token);
      },
      'A person of who writes',
      'contact upsert',
    );
    await keepsRecords(
      page,
      'Duty tickets',
      'Weir Desk',
      async () => {
        await page.getByLabel('Address', { exact: true }).fill(weir.address);
        await page.getByLabel('Desk', { exact: true }).fill(weir.desk);
        await page.getByLabel('Desk key').fill(weir.key);
      },
      'A ticket of what they ask',
      'ticket create-if-none',
    );
  });

  await test.step('the routes, each a sentence', async () => {
    await goTo(page, 'Routes');
    await expect(page.getByText('■ As published')).toBeVisible();
    await expectAccessible(page, 'routes');

    const booking = await addRoute(page, 'Book a passage');
    await addCondition(booking, 'keyword', async (row) => {
      await row.getByLabel('How the words are looked for').selectOption('begin with');
      // Key by key, as people type: a field that loses the focus loses what follows.
      await row.getByLabel('words', { exact: true }).click();
      await page.keyboard.type('passage, slussning');
    });
    await addStep(stepsOf(booking, 'Steps of Book a passage'), 'ask', async (step) => {
      await step.getByLabel('Question').fill('Which lock do you come to, and when?');
      await step.getByLabel('attribute of the answer').fill('wanted passage');
      await addStep(stepsOf(booking, 'Steps of any other answer'), 'reply', async (inner) => {
        await inner.getByLabel('Text of the reply').fill('We hold {{ answers["wanted passage"] }} for you.');
      });
    });
    await addStep(stepsOf(booking, 'Steps of Book a passage'), 'tell', async (step) => {
      await step.getByLabel('App').selectOption('Lockbook');
    });

    const several = await addRoute(page, 'Which ticket');
    await addCondition(several, 'open', async (row) => {
      await row.getByLabel('Counted where').selectOption('ticket at Duty tickets');
      await row.getByLabel('How many').selectOption('several are open');
    });
    await addStep(stepsOf(several, 'Steps of Which ticket'), 'ask', async (step) => {
      await step.getByLabel('Question').fill('Several matters of yours are open. Which is it about?');
      await step.getByLabel('attribute of the answer').fill('matter');
    });

    const stranger = await addRoute(page, 'Somebody new');
    await addCondition(stranger, 'sender', async (row) => {
      await row.getByLabel('Known or not').selectOption('is not a contact');
    });
    const steps = stepsOf(stranger, 'Steps of Somebody new');
    await addStep(steps, 'record', async (step) => {
      await step.getByLabel('Record action').selectOption('A person of who writes (Customer book)');
    });
    await addStep(steps, 'record', async (step) => {
      await step.getByLabel('Record action').selectOption('A ticket of what they ask (Duty tickets)');
    });
    await addStep(steps, 'assign', async (step) => {
      await step.getByLabel('To whom').selectOption('a team');
      await step.getByLabel('team', { exact: true }).fill('Keepers');
    });

    const swedish = await addRoute(page, 'Closed, in Swedish');
    await addCondition(swedish, 'language', async (row) => {
      await row.getByLabel('language tags').fill('sv');
    });
    await addCondition(swedish, 'hours', async (row) => {
      await row.getByLabel('Which hours').selectOption('the harbour office');
      await row.getByLabel('Open or closed').selectOption('is closed');
    });
    await addStep(stepsOf(swedish, 'Steps of Closed, in Swedish'), 'reply', async (step) => {
      await step.getByLabel('Text of the reply').fill('Hamnkontoret öppnar klockan 8.');
    });
    await expect(page.getByText('◇ Not saved')).toBeVisible();
  });

  await test.step('found faulty before it is saved: one behind another that takes everything', async () => {
    const shadowed = await addRoute(page, 'Never reached');
    await addCondition(shadowed, 'keyword', async (row) => {
      await row.getByLabel('How the words are looked for').selectOption('are exactly');
      await row.getByLabel('words', { exact: true }).fill('passage tomorrow');
    });
    await expect(shadowed.locator('[data-finding="route-shadowed"]')).toContainText(
      '“Book a passage” before it takes everything',
    );
    await shadowed.getByRole('button', { name: 'Remove the route' }).click();
    await expect(shadowed).toHaveCount(0);
  });

  await test.step('the dry run says who takes a message, why others do not, and does nothing', async () => {
    const dry = page.locator('[data-dry]');
    await page.getByLabel('Text of the message').fill('Slussning imorgon');
    await expect(dry).toHaveAttribute('data-dry', 'Book a passage');
    await expect(dry).toContainText('would ask “Which lock do you come to');
    await expect(page.locator('[data-live]')).toContainText(
      'it decides nothing. Live, it goes to “Everything to the shared desk”',
    );
    await page.getByLabel('Text of the message').fill('Is anybody there?');
    await expect(dry).toHaveAttribute('data-dry', 'unasked');
    await page.getByLabel('Open ticket at Duty tickets').selectOption('none');
    await expect(dry).toHaveAttribute('data-dry', 'Somebody new');
    const considered = page.locator('[data-considered="Book a passage"]');
    await considered.locator('summary').click();
    await expect(considered).toContainText('it begins with “passage” or “slussning” — saw is anybody there');
    await expect(considered).toContainText('It would match if it begins with');
    await page.getByLabel('Open ticket at Duty tickets').selectOption('two');
    await expect(dry).toHaveAttribute('data-dry', 'Which ticket');
    await expectAccessible(page, 'a draft being written');
  });

  await test.step('saved it decides nothing; replayed it shows what would move; published it decides', async () => {
    await page.getByRole('button', { name: 'Save the draft' }).click();
    await expect(page.locator('[data-state="draft"]')).toBeVisible();
    await says(INES, 'Passage while it is a draft');
    await page.reload();
    await expect(card(page, 'Book a passage')).toBeVisible();
    await page.getByRole('button', { name: 'Publish…' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog.locator('[data-replay="done"]')).toContainText('would go where they go now');
    await expect(dialog).toContainText('+');
    await expectAccessible(page, 'the publish dialog');
    await dialog.getByLabel('Note').fill('Passages by text');
    await dialog.getByRole('button', { name: /^Publish/ }).click();
    await expect(page.locator('[data-state="published"]')).toBeVisible();
    expect(await textsOn(INES)).not.toContain('Which lock do you come to, and when?');
  });

  await test.step('three handsets', async () => {
    await says(INES, 'PASSAGE please');
    await arrives(INES, 'Which lock do you come to, and when?');
    await says(INES, 'Heron Staircase at noon');
    await arrives(INES, 'We hold Heron Staircase at noon for you.');
    await says(TOMAS, 'Slussning');
    await arrives(TOMAS, 'Which lock do you come to, and when?');
    await says(TOMAS, 'Tollgate klockan tolv');
    await arrives(TOMAS, 'We hold Tollgate klockan tolv for you.');
    await says(STRANGER, 'May I moor at the basin?');
    await expect
      .poll(
        async () =>
          ((await (await fetch(`${at(0)}/weir`)).json()) as { tickets: { requester: string }[] }).tickets.filter(
            ({ requester }) => requester === STRANGER,
          ).length,
      )
      .toBe(1);
    const people = ((await (await fetch(`${at(0)}/towpath`)).json()) as { people: { mobile: string }[] }).people;
    expect(people.filter(({ mobile }) => mobile === STRANGER)).toHaveLength(1);
  });

  await test.step('an agent answers, and the trail explains', async () => {
    await goTo(page, 'Messages');
    await page.getByRole('row').filter({ hasText: 'PASSAGE please' }).getByRole('link').first().click();
    await expect(page.getByRole('heading', { level: 1, name: 'Trail' })).toBeVisible();
    await expect(page.getByText('Handled by “Book a passage”').first()).toBeVisible();
    await page.getByRole('link', { name: 'Dry run' }).click();
    await expect(page.getByLabel('Text of the message')).toHaveValue('PASSAGE please');
    await expect(page.locator('[data-dry]')).toHaveAttribute('data-dry', 'Book a passage');
    await goTo(page, 'Messages');
    await page.getByRole('row').filter({ hasText: 'May I moor at the basin?' }).getByRole('link').first().click();
    await expect(page.getByText('Handled by “Somebody new”').first()).toBeVisible();
    await page.getByRole('link', { name: '+44 7700 900377' }).first().click();
    await page.getByRole('textbox', { name: /^Reply to/ }).fill('Thank you, a crew is on its way.');
    await page.getByRole('button', { name: 'Send', exact: true }).click();
    await arrives(STRANGER, 'Thank you, a crew is on its way.');
  });

  await test.step('and one click returns to what decided before', async () => {
    await goTo(page, 'Routes');
    await expect(card(page, 'Book a passage')).toContainText(/[1-9]\d* in 7 days/);
    await page
      .getByRole('row')
      .filter({ hasText: 'Passages, incidents' })
      .getByRole('button', { name: 'Return to it' })
      .click();
    await page.getByRole('dialog').getByRole('button', { name: 'Return to it' }).click();
    await expect(card(page, 'Book a passage')).toHaveCount(0);
  });
});

test('office hours: a zone typed key by key, a closed date, public holidays', async ({ page }) => {
  await signIn(page);
  await goTo(page, 'Routes');
  const zone = page.getByLabel('time zone');
  await zone.fill('');
  await zone.click();
  await page.keyboard.type('Europe/Stockholm');
  await page.keyboard.press('Tab');
  await expect(zone).toHaveValue('Europe/Stockholm');
  await zone.fill('Europe/Nowhere');
  await page.keyboard.press('Tab');
  await expect(zone).toHaveValue('Europe/Stockholm');
  const dates = page.locator('summary', { hasText: 'dates are otherwise' });
  const before = Number((await dates.textContent())?.split(' ')[0]);
  await dates.click();
  await page.getByLabel('Public holidays of').selectOption('SE');
  await page.getByRole('button', { name: 'Add this year’s and next' }).click();
  await expect.poll(async () => Number((await dates.textContent())?.split(' ')[0])).toBeGreaterThan(before + 15);
  await expect(page.getByText('Midsummer', { exact: false }).first()).toBeVisible();

  // What is written while the page is drawn anew after saving stays.
  const drawnAfter = () =>
    page.evaluate(() =>
      Math.max(
        ...[...document.querySelectorAll('meta[name="windgap-drawn"]')].map((meta) =>
          Number(meta.getAttribute('content')),
        ),
      ),
    );
  let drawnBefore = await drawnAfter();
  await page.getByRole('button', { name: 'Save the draft' }).click();
  await expect(page.locator('[data-state="draft"]')).toBeVisible();
  await page.getByLabel('name of the hours').fill('the harbour office, summer');
  await expect.poll(drawnAfter).toBeGreaterThan(drawnBefore);
  await expect(page.getByLabel('name of the hours')).toHaveValue('the harbour office, summer');
  await expect(page.locator('[data-state="unsaved"]')).toBeVisible();
  drawnBefore = await drawnAfter();
  await page.getByRole('button', { name: 'Save the draft' }).click();
  await expect(page.locator('[data-state="draft"]')).toBeVisible();
  await expect.poll(drawnAfter).toBeGreaterThan(drawnBefore);
  await expect(page.getByLabel('name of the hours')).toHaveValue('the harbour office, summer');
  await page.getByRole('button', { name: 'Discard the draft' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Discard it' }).click();
  await expect(page.locator('[data-state="published"]')).toBeVisible();
  await expect(page.getByLabel('name of the hours')).toHaveValue('the harbour office');
});

test('a figure leads to its rows, and a route to what it took', async ({ page }) => {
  await signIn(page);
  await page.goto('/watch/flow?span=week');
  const row = page.getByRole('table', { name: 'Failures by cause' }).getByRole('row').nth(1);
  const count = Number(await row.getByRole('cell').nth(1).textContent());
  await row.getByRole('link').click();
  await page.waitForURL(/cause=/);
  await expect(page.locator('tbody tr')).toHaveCount(Math.min(count, 50));
  // The rail would keep the filter for as long as the page takes to come.
  await page.goto('/watch/messages');
  await page.locator('#main').getByLabel('Route').selectOption('Something is in the way');
  await page.waitForURL(/route=/);
  await expect(page.locator('tbody tr').first()).toContainText(/incident|tree|stuck|aground|adrift/i);
});
