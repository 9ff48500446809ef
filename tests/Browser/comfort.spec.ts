import { expect, type Page, test } from '@playwright/test';
import { clickPart, dragOver, newProject, signIn, violations } from './steps';

/** A plate of 40 x 20 x 5 mm, two faces a side. */
const PLATE = ['OFF', '8 12 0', ...[0, 1].flatMap((z) => [0, 1].flatMap((y) => [0, 1].map((x) => `${40 * x} ${20 * y} ${5 * z}`))), '3 0 3 1', '3 0 2 3', '3 4 5 7', '3 4 7 6', '3 0 1 5', '3 0 5 4', '3 2 7 3', '3 2 6 7', '3 0 6 2', '3 0 4 6', '3 1 3 7', '3 1 7 5', ''].join('\n');

async function withPlate(page: Page, name: string): Promise<void> {
  await signIn(page);
  await newProject(page, name);
  await page.locator('[data-upload]').setInputFiles({ name: 'plate.off', mimeType: 'text/plain', buffer: Buffer.from(PLATE) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  const unit = page.getByLabel('Unit of the files').getByRole('button', { name: /^(Yes, )?mm/ });
  if (await unit.isVisible()) await unit.click();
}

test('projects are found, ordered and archived, and their pictures are stored', async ({ page }) => {
  await withPlate(page, 'Plate of the sieve');
  await page.goto('/');
  const card = page.getByRole('listitem').filter({ hasText: 'Plate of the sieve' });
  // The first list draws the picture and stores it; the next one has it from there.
  await expect(card.locator('img')).toHaveAttribute('src', /^data:/);
  await expect
    .poll(async () => {
      await page.reload();
      return card.locator('img').getAttribute('src');
    })
    .toMatch(/^\/api\/projects\/.*\/pictures\//);
  await expect.poll(() => card.locator('img').evaluate((img: HTMLImageElement) => img.naturalWidth)).toBe(720);
  await page.getByLabel('Find a project').fill('sieve tess');
  await expect(card).toBeVisible();
  await page.getByLabel('Find a project').fill('no such part');
  await expect(page.getByText('No project is called "no such part".')).toBeVisible();
  await page.getByLabel('Find a project').fill('sieve');
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Archive Plate of the sieve' }).click();
  await expect(card).toBeHidden();
  await page.getByRole('checkbox', { name: /^Archived/ }).check();
  await expect(card).toBeVisible();
  await page.getByRole('button', { name: 'Bring Plate of the sieve back' }).click();
  await page.getByLabel('Find a project').fill('sieve');
  await expect(card).toBeVisible();
});

test('an empty project says what will be checked; name, brief and widths are changed where they stand', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Cap');
  const card = page.getByLabel('Ready card');
  await card.getByRole('button').click();
  await expect(card.locator('[data-line=closed]')).toHaveAttribute('data-state', 'later');
  await expect(card.locator('[data-line=closed]')).toContainText('will be checked');
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Rename the project' }).click();
  await page.getByLabel('New name of the project').fill('Bearing cap of the great press, second of four');
  await page.getByLabel('New name of the project').press('Enter');
  await expect(page.getByRole('heading', { level: 1, name: 'Bearing cap of the great press, second of four', exact: true })).toBeVisible();
  // A long name leaves the stages beside it alone, and is whole on hover.
  const name = page.getByRole('heading', { level: 1 });
  await expect(name.getByTitle('Bearing cap of the great press, second of four')).toBeVisible();
  const [head, stages] = await Promise.all([name.boundingBox(), page.getByRole('navigation', { name: 'Stages' }).boundingBox()]);
  expect((head?.x ?? 0) + (head?.width ?? 0)).toBeLessThanOrEqual(stages?.x ?? 0);
  await page.getByRole('button', { name: 'Change the brief' }).click();
  await page.getByRole('dialog').getByLabel('Tolerance (mm)').fill('1/64 in');
  await page.getByRole('dialog').getByLabel('Faces at most').fill('30 k');
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Change the brief' })).toContainText('to 0.396875 mm');
  const edge = page.getByRole('separator', { name: 'How wide the tools are' });
  await edge.focus();
  await edge.press('ArrowLeft');
  await edge.press('ArrowLeft');
  await expect(edge).toHaveAttribute('aria-valuenow', '20.5');
  await page.reload();
  await expect(edge).toHaveAttribute('aria-valuenow', '20.5');
  await edge.dblclick();
  await expect(edge).toHaveAttribute('aria-valuenow', '18.5');
  await page.getByRole('button', { name: 'simulate one' }).click();
  const form = page.getByRole('form', { name: 'Simulate a scan' });
  await form.getByRole('button', { name: 'When not to use it' }).click();
  await expect(form).toContainText('Not as a stand-in for the real part');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Mend' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Close holes', exact: true }).click();
  await page.getByRole('button', { name: 'When not to use it' }).click();
  await expect.poll(() => page.getByRole('img', { name: 'After: Close holes' }).evaluate((img: HTMLImageElement) => img.naturalWidth)).toBe(144);
});

test('picks are dragged, typed, picked in the middle and taken back one by one; a datum is turned round', async ({ page }) => {
  await withPlate(page, 'Plate to pick on');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Orient' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Frame from points', exact: true }).click();
  const form = page.getByRole('form', { name: 'Frame from points' });
  await page.getByRole('button', { name: 'Top', exact: true }).click();
  await clickPart(page, [5, 5, 5]);
  await expect(form).toContainText(/X/);
  await clickPart(page, [30, 5, 5]);
  await form.getByLabel('Place by its numbers').fill('5, 15, 5');
  await form.getByRole('button', { name: 'Pick', exact: true }).click();
  await expect(form.locator('[data-apply]')).toBeEnabled();
  // A fourth, in the middle of the view, is one too many; it goes again before any step is undone.
  await page.getByRole('main').focus();
  await page.keyboard.press('m');
  await expect(form.locator('[data-apply]')).toBeDisabled();
  await page.keyboard.press('Control+z');
  await expect(form.locator('[data-apply]')).toBeEnabled();
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  // The first is dragged to where it was meant.
  await dragOver(page, [5, 5, 5], [8, 6, 5], [10, 5, 5]);
  expect(await violations(page)).toEqual([]);
  await form.locator('[data-apply]').click();
  await expect(page.locator('[data-step=frame-from-points]')).toHaveAttribute('data-state', 'done');
  const told = await page.evaluate(async () => (await (await fetch(location.pathname.replace(/.*projects/, '/api/projects'), { headers: { Accept: 'application/json' } })).json()).steps.at(-1).parameters.points as number[][]);
  expect(told[0]?.map(Math.round)).toEqual([10, 5, 5]);
  expect(told[2]).toEqual([5, 15, 5]);

  await page.getByLabel('Step panel').getByRole('button', { name: 'Add datum', exact: true }).click();
  const datum = page.getByRole('form', { name: 'Add datum' });
  const add = async (name: string) => {
    await datum.getByLabel('Name').fill(name);
    await clickPart(page, [5, 4, 0]);
    await expect(datum).toContainText('fit error');
  };
  await add('Up');
  await datum.locator('[data-apply]').click();
  await expect(page.locator('[data-step=add-datum][data-state=done]')).toHaveCount(1);
  await add('Down');
  await page.keyboard.press('t');
  await expect(datum.getByRole('checkbox', { name: 'The other way round (T)' })).toBeChecked();
  await datum.locator('[data-apply]').click();
  await expect(page.locator('[data-step=add-datum][data-state=done]')).toHaveCount(2);
  const [up, down] = await page.evaluate(async () => (await (await fetch(location.pathname.replace(/.*projects/, '/api/projects'), { headers: { Accept: 'application/json' } })).json()).snapshot.datums.map((d: { direction: number[] }) => d.direction[2]) as number[]);
  expect(up! * down!).toBeCloseTo(-1, 9);

  // Of the two ways to lay that face into a plane one has the part below it, and says so; locks and reason stand in the view, beside the open ready card.
  await page.getByLabel('Step panel').getByRole('button', { name: 'Set frame', exact: true }).click();
  const frame = page.getByRole('form', { name: 'Set frame' });
  const head = page.getByText('The part would stand on its head');
  await frame.getByLabel('First datum', { exact: true }).selectOption('Up');
  await expect(page.getByLabel('Six locks')).toContainText('Up');
  await expect(page.getByRole('group', { name: 'Six sides in the new frame' }).getByRole('img')).toHaveCount(6);
  const isOnHead = await head.isVisible();
  await frame.getByLabel('Flip the first datum').check();
  await expect(head).toBeVisible({ visible: !isOnHead });
  await page.getByLabel('Ready card').getByRole('button').first().click();
  await expect(page.getByLabel('Ready card').locator('[data-line=closed]')).toBeInViewport();
  await expect(page.locator('#view-aside')).toBeInViewport({ ratio: 1 });
});

test('a lost picture of the graphics card is said, and comes back', async ({ page }) => {
  await withPlate(page, 'Plate in the dark');
  const lost = page.getByText('The graphics card has dropped the picture');
  await page.evaluate(() => {
    const lose = document.querySelector('[data-view] canvas') as HTMLCanvasElement;
    const extension = lose.getContext('webgl2')?.getExtension('WEBGL_lose_context');
    (window as unknown as { lose: WEBGL_lose_context | null | undefined }).lose = extension;
    extension?.loseContext();
  });
  await expect(lost).toBeVisible();
  await page.evaluate(() => (window as unknown as { lose: WEBGL_lose_context }).lose.restoreContext());
  await expect(lost).toBeHidden();
});

test('files go on arriving whichever stage is open, with one bar for all', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Plates on their way');
  let letGo = () => {};
  const held = new Promise<void>((resolve) => {
    letGo = resolve;
  });
  await page.route(/\/uploads\/[^/]+$/, async (route) => {
    if (route.request().method() === 'PATCH') await held;
    await route.continue();
  });
  await page.locator('[data-upload]').setInputFiles(['left.off', 'right.off'].map((name) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(PLATE) })));
  const bar = page.getByRole('region', { name: 'Files on their way' });
  await expect(bar).toContainText('2 files');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Mend' }).click();
  await expect(bar).toBeVisible();
  expect(await violations(page)).toEqual([]);
  letGo();
  await expect(bar).toBeHidden();
  await expect(page.getByLabel('Tray').getByText('right')).toBeVisible();
});

test('a part of the window that fails says so, and the rest goes on', async ({ page }) => {
  await withPlate(page, 'Plate with a bad word');
  await page.getByRole('button', { name: 'plate', exact: true }).hover();
  await page.getByRole('button', { name: 'More for plate' }).click();
  await page.evaluate(() => {
    const held = Number.prototype.toLocaleString;
    (window as unknown as { mend: () => void }).mend = () => {
      Number.prototype.toLocaleString = held;
    };
    Number.prototype.toLocaleString = () => {
      throw new Error('no figures today');
    };
  });
  await page.getByRole('button', { name: 'Facts', exact: true }).click();
  const alert = page.getByRole('alert').filter({ hasText: 'Something went wrong in the tools' });
  await expect(alert).toContainText('no figures today');
  await expect(page.getByLabel('Tray').getByText('plate')).toBeVisible();
  await page.evaluate(() => (window as unknown as { mend: () => void }).mend());
  await alert.getByRole('button', { name: 'Show it again' }).click();
  await expect(page.getByRole('region', { name: 'Facts' })).toContainText('mm³');
});

test('two fingers turn the view, a pinch zooms it, and a step says between which times it will end', async ({ page }) => {
  await withPlate(page, 'Plate under two fingers');
  const box = await page.locator('[data-view]').boundingBox();
  await page.mouse.move(box!.x + box!.width / 2, box!.y + box!.height / 2);
  // Two ends of an edge as they are drawn: how long it is there, and which way it runs.
  const edge = () =>
    page.evaluate(() => {
      const [a, b] = [window.emberstoneView!.project([0, 0, 5]), window.emberstoneView!.project([40, 0, 5])];
      return { length: Math.hypot(b.x - a.x, b.y - a.y), angle: Math.atan2(b.y - a.y, b.x - a.x) };
    });
  const before = await edge();
  await page.keyboard.down('Control');
  for (let k = 0; k < 5; k++) await page.mouse.wheel(0, -10);
  await page.keyboard.up('Control');
  await expect.poll(async () => (await edge()).length / before.length).toBeGreaterThan(1.1);
  const near = await edge();
  for (let k = 0; k < 10; k++) await page.mouse.wheel(9, 0);
  await expect.poll(async () => Math.abs((await edge()).angle - near.angle)).toBeGreaterThan(0.1);

  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Mend' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Smooth', exact: true }).click();
  await expect(page.getByRole('form', { name: 'Smooth' }).locator('[data-apply]')).toContainText(/about \d+ (s|min)|\d+( s)? to \d+ (s|min)/);
});

test('every stage is accessible in both themes, in a small window and in a large one', async ({ page }) => {
  await withPlate(page, 'Plate for everyone');
  const rail = page.getByRole('navigation', { name: 'Stages' });
  const found: string[] = [];
  const all = ['Gather', 'Register', 'Fuse', 'Mend', 'Lighten', 'Orient', 'Deliver'];
  // Colours go by the theme and room by the size: each theme and each size sees every stage, each pair of them the fullest ones.
  for (const [theme, width, height, stages] of [
    ['kiln', 1280, 800, all],
    ['limestone', 1280, 800, ['Gather', 'Deliver']],
    ['kiln', 1920, 1080, ['Gather', 'Deliver']],
    ['limestone', 1920, 1080, all],
  ] as const) {
    await page.setViewportSize({ width, height });
    await page.evaluate((name) => {
      document.documentElement.dataset.theme = name;
    }, theme);
    for (const stage of stages) {
      await rail.getByRole('button', { name: stage }).click();
      found.push(...(await violations(page)).map((words) => `${stage}, ${theme}, ${width}: ${words}`));
    }
  }
  expect(found).toEqual([]);
});
