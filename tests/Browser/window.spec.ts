import { expect, type Page, test } from '@playwright/test';
import { newProject, seen, signIn, violations } from './steps';

/** A box of 120 x 70 x 14 in metres, without its top. */
const TRAY = ['OFF', '8 10 0', ...[0, 1].flatMap((z) => [0, 1].flatMap((y) => [0, 1].map((x) => `${0.12 * x} ${0.07 * y} ${0.014 * z}`))), '3 0 3 1', '3 0 2 3', '3 0 1 5', '3 0 5 4', '3 2 7 3', '3 2 6 7', '3 0 6 2', '3 0 4 6', '3 1 3 7', '3 1 7 5', ''].join('\n');

async function withTray(page: Page, name: string): Promise<void> {
  await signIn(page);
  await newProject(page, name);
  await page.locator('[data-upload]').setInputFiles({ name: 'tray.off', mimeType: 'text/plain', buffer: Buffer.from(TRAY) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
}

test('the unit is asked with the sizes it gives, and answered in one click', async ({ page }) => {
  await withTray(page, 'Unit of a tray');
  const question = page.getByLabel('Unit of the files');
  await expect(question).toContainText('Read as m: about 120 mm long');
  expect(await violations(page)).toEqual([]);
  await question.getByRole('button', { name: /^in 3 mm|^in 3.0 mm/ }).click();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');
  await expect(question).toBeHidden();
  await page.getByRole('button', { name: /Undo/ }).click();
  await expect(question).toBeVisible();
});

test('a step is changed and run again, and the later ones follow', async ({ page }) => {
  await withTray(page, 'Tray with a lid');
  await page
    .getByLabel('Unit of the files')
    .getByRole('button', { name: /Yes, m/ })
    .click();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');

  // By keyboard alone: the command box finds the operation, Enter in the form applies it.
  await page.keyboard.press('Control+k');
  await page.keyboard.type('close holes');
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press('Enter');
  await page.getByRole('form', { name: 'Close holes' }).getByRole('slider', { name: 'New surface goes on' }).fill('0');
  await page
    .getByRole('form', { name: 'Close holes' })
    .getByRole('button', { name: /^Close holes/ })
    .press('Enter');
  await expect(page.locator('[data-step=fill-holes]')).toHaveAttribute('data-state', 'done');
  await expect(page.locator('[data-line=closed]')).toHaveAttribute('data-state', 'good');
  await page.keyboard.press('Control+k');
  await page.keyboard.type('scale');
  await page.keyboard.press('Enter');
  await page.getByLabel('Factor').fill('2');
  await page.getByLabel('Factor').press('Tab');
  await page
    .getByRole('form', { name: 'Scale' })
    .getByRole('button', { name: /^Scale/ })
    .click();
  await expect(page.locator('[data-step=scale]')).toHaveAttribute('data-state', 'done');

  await page.locator('[data-step=fill-holes]').click();
  await page.getByRole('button', { name: 'Change and run again' }).click();
  await page.getByRole('form', { name: 'Change Close holes' }).getByRole('slider', { name: 'New surface goes on' }).fill('1');
  expect(await violations(page)).toEqual([]);
  const first = await page.locator('[data-step=scale]').count();
  await page.getByRole('button', { name: 'Run again from here' }).click();
  await expect(page.getByLabel('Step details')).toBeHidden();
  // The cards may still be those of the line before: the server knows which line it is.
  await expect
    .poll(async () => {
      const { steps } = await (await page.request.get(page.url().replace('/projects/', '/api/projects/'))).json();
      return steps.slice(-2).map((s: { operation: string; state: string; parameters: { shape?: string } }) => [s.operation, s.state, s.parameters.shape]);
    })
    .toEqual([
      ['fill-holes', 'done', 'curved'],
      ['scale', 'done', undefined],
    ]);
  await expect(page.locator('[data-step]').last()).toHaveAttribute('data-step', 'scale');
  await expect(page.locator('[data-step]').last()).toHaveAttribute('data-state', 'done');
  await expect(page.locator('[data-step=scale]')).toHaveCount(first);

  await page
    .locator('[data-step=import]')
    .getByRole('button', { name: /Import/ })
    .click();
  await page.getByRole('button', { name: /Undo to here/ }).click();
  await expect(page.locator('[data-step=scale]')).toHaveAttribute('data-state', 'set-aside');
});

test('keys turn the view to parallel rays and other colours, and a pick still lands where the part is', async ({ page }) => {
  await withTray(page, 'Looking at a tray');
  await page
    .getByLabel('Unit of the files')
    .getByRole('button', { name: /Yes, m/ })
    .click();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');
  const under = () =>
    page.evaluate(() => {
      const view = window.emberstoneView;
      const hit = view?.pick(view.project([60, 0, 7]));
      return hit ? Math.hypot(hit.pointMm[0] - 60, hit.pointMm[1], hit.pointMm[2] - 7) : null;
    });
  await page.getByRole('main').click({ position: { x: 5, y: 5 } });
  await page.keyboard.press('1');
  await expect.poll(under).toBeLessThan(0.01);
  await page.keyboard.press('p');
  await expect(page.getByRole('button', { name: 'Parallel' })).toHaveAttribute('aria-pressed', 'true');
  await expect.poll(under).toBeLessThan(0.01);
  await page.keyboard.press('c');
  await expect(page.getByLabel('Colours of bodies')).toHaveValue('support');
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys and pointer' })).toBeVisible();
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toBeHidden();
});

test('two browsers see the same project; the owner invites the second', async ({ page, browser }) => {
  await withTray(page, 'Tray for two');
  const address = page.url();
  const other = await browser.newContext();
  const second = await other.newPage();
  await second.goto('/');
  await second.getByLabel('E-mail').fill('otto@orchard-press.example');
  await second.getByLabel('Password').fill('browser-test-2');
  await second.getByRole('button', { name: 'Sign in' }).click();
  await expect(second.getByText('Tray for two')).toBeHidden();
  await page.getByRole('button', { name: /People on this project/ }).click();
  await page.getByLabel('Address of the person').fill('otto@orchard-press.example');
  await page.getByRole('button', { name: 'Invite' }).click();
  await expect(page.getByRole('dialog')).toContainText('Otto');
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Close', exact: true }).click();
  await second.goto(address);
  await expect(page.getByRole('status').filter({ hasText: 'Otto is here' })).toBeVisible();
  await second
    .getByLabel('Unit of the files')
    .getByRole('button', { name: /Yes, m/ })
    .click();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');
  await expect(page.getByLabel('Unit of the files')).toBeHidden();
  // Who took a step stands on its card; that of somebody else is not undone unasked, and they are told.
  await expect(page.locator('[data-step=set-unit]')).toContainText('Otto');
  await page.getByRole('button', { name: 'Undo the last step (Ctrl+Z)' }).click();
  await expect(page.getByText('Set unit is a step of Otto Lind.')).toBeVisible();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('button', { name: 'Undo it' }).click();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'set-aside');
  await expect(second.getByText('Your step Set unit was undone.')).toBeVisible();
  await second.getByRole('button', { name: 'Redo', exact: true }).click();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');
  await other.close();
});

test('rows of the tray are locked, ordered by keyboard and shown alone', async ({ page }) => {
  await withTray(page, 'Two trays');
  await page
    .getByLabel('Unit of the files')
    .getByRole('button', { name: /Yes, m/ })
    .click();
  const points = Array.from({ length: 400 }, (_, k) => `${k % 20} ${Math.floor(k / 20)} 0`).join('\n');
  for (const name of ['left.xyz', 'right.xyz']) {
    await page.locator('[data-upload]').setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(points) });
    await page.getByRole('button', { name: 'Bring in like this' }).click();
    await expect(page.getByLabel('Tray').getByRole('button', { name: name.slice(0, -4), exact: true })).toBeVisible();
  }
  const row = (name: string) => page.getByLabel('Tray').getByRole('button', { name, exact: true });
  await row('right').focus();
  await page.getByRole('button', { name: 'More for right' }).click();
  await page.getByRole('button', { name: 'Lock', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Unlock right' })).toBeVisible();
  await row('right').press('Alt+ArrowUp');
  await expect(page.getByLabel('Tray').getByRole('listitem').first()).toContainText('right');
  await row('left').focus();
  await page.getByRole('button', { name: 'More for left' }).click();
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Show only this' }).click();
  await expect(page.getByRole('button', { name: 'Hide left' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Show right' })).toBeVisible();
  expect(await violations(page)).toEqual([]);
});

test('a session is ended from another machine, and whoever keeps the installation sees its space', async ({ page, browser }) => {
  await signIn(page, 'ada');
  const other = await browser.newContext();
  const there = await other.newPage();
  await signIn(there, 'ada');
  await page.goto('/account');
  const sessions = page.locator('[data-session]');
  await expect(sessions.filter({ hasText: 'this one' })).toHaveCount(1);
  await expect(page.getByRole('heading', { name: 'What takes the space of this installation' })).toBeVisible();
  expect(await violations(page)).toEqual([]);
  // The other one is the latest that was seen but for this one.
  const first = sessions.filter({ hasNotText: 'this one' }).first();
  const before = await sessions.count();
  await first.getByRole('button', { name: 'End it' }).click();
  await expect(sessions).toHaveCount(before - 1);
  await there.goto('/');
  await expect(there.getByLabel('Password')).toBeVisible();
  await other.close();
  await page.reload();
  await expect(sessions.filter({ hasText: 'this one' })).toHaveCount(1);
});

test('a step works on what is chosen in the tray, says so everywhere, and shows before and after', async ({ page }) => {
  await withTray(page, 'Two bodies');
  await page
    .getByLabel('Unit of the files')
    .getByRole('button', { name: /Yes, m/ })
    .click();
  const tray = page.getByLabel('Tray');
  const row = (name: string) => tray.getByRole('button', { name, exact: true });
  await row('tray').focus();
  await page.getByRole('button', { name: 'More for tray', exact: true }).click();
  await page.getByRole('button', { name: 'Work on a copy' }).click();
  await expect(row('tray, copy')).toBeVisible();
  await page.getByRole('button', { name: 'Show tray', exact: true }).click();
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Orient' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Scale', exact: true }).click();
  const form = page.getByRole('form', { name: 'Scale' });
  await expect(form.locator('[data-on]')).toContainText('On everything');
  await row('tray, copy').click();
  await expect(form.locator('[data-on]')).toContainText('On tray, copy');
  // The same choice from the form's own list.
  await form.getByText('change').click();
  await form.getByRole('button', { name: 'All 2' }).click();
  await expect(form.locator('[data-on]')).toContainText('On everything');
  await form.getByRole('checkbox', { name: 'tray', exact: true }).uncheck();
  await expect(form.locator('[data-on]')).toContainText('On tray, copy');
  expect(await violations(page)).toEqual([]);
  await form.getByLabel('Factor').fill('2');
  await form.getByRole('button', { name: /^Scale/ }).click();
  await expect(page.locator('[data-step=scale]')).toHaveAttribute('data-state', 'done');
  await expect(page.locator('[data-step=scale]')).toContainText('on tray, copy');
  await expect(page.locator('[data-ready-bodies]')).toContainText('of 2 bodies ready');
  const facts = page.getByRole('region', { name: 'Facts' });
  const size = async (name: string): Promise<number> => {
    await row(name).focus();
    await page.getByRole('button', { name: `More for ${name}`, exact: true }).click();
    await page.getByRole('button', { name: 'Facts', exact: true }).click();
    await expect(facts.getByRole('heading', { name, exact: true })).toBeVisible();
    return Number(/[\d.]+/.exec((await facts.getByText(/ × /).textContent()) ?? '')?.[0]);
  };
  const single = await size('tray');
  expect(await size('tray, copy')).toBeCloseTo(2 * single, 1);
  await expect(facts.getByRole('button', { name: 'Work on a copy' })).toBeVisible();
  expect(await violations(page)).toEqual([]);

  await page.locator('[data-step=scale]').click();
  const details = page.getByRole('region', { name: 'Step details' });
  await expect(details.locator('[data-on]')).toContainText('tray, copy');
  // A place on the floor of the larger one: there now, not before.
  const floor: [number, number, number] = [180, 110, 0];
  await seen(page, floor);
  await details.getByRole('radio', { name: 'Before' }).click();
  await page.waitForFunction((p) => window.emberstoneView?.pick(window.emberstoneView.project(p as [number, number, number])) === undefined, floor);
  await details.getByRole('radio', { name: 'Now' }).click();
  await seen(page, floor);
  expect(await violations(page)).toEqual([]);
});
