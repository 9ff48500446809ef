import { expect, type Page, test } from '@playwright/test';
import { dragOver, newProject, signIn, violations } from './steps';

/** A plate of 41 x 41 points, 1 mm apart, so high; and its mirror below, seen through it from above. */
const plate = (z: number) => Array.from({ length: 41 * 41 }, (_, i) => `${i % 41} ${Math.floor(i / 41)} ${z}`).join('\n');

async function bringIn(page: Page, ...files: { name: string; text: string }[]): Promise<void> {
  await page.locator('[data-upload]').setInputFiles(files.map(({ name, text }) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(text) })));
  await page.getByRole('button', { name: 'Bring in like this' }).click();
  await expect(page.locator('[data-step=import]').last()).toHaveAttribute('data-state', 'done');
}

/** The view from above, whole and at rest: a known point has stopped moving. */
async function fromAbove(page: Page): Promise<void> {
  await expect(page.getByText('Loading…')).toBeHidden();
  await page.getByRole('button', { name: 'Top' }).click();
  await expect.poll(() => page.evaluate(() => Math.round(window.emberstoneView?.pick(window.emberstoneView.project([20, 20, 30]))?.pointMm[2] ?? -1))).toBe(30);
}

test('an outline takes the front alone or all through, with the counts said first', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Two plates');
  await bringIn(page, { name: 'upper.xyz', text: plate(30) }, { name: 'lower.xyz', text: plate(0) });
  await page
    .getByLabel('Unit of the files')
    .getByRole('button', { name: /^(Yes, )?mm/ })
    .click();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');
  await fromAbove(page);
  await page.getByRole('button', { name: 'Cut away' }).click();
  await page.getByRole('radio', { name: 'Rectangle' }).click();
  // Ten columns by ten rows of the upper plate, the lower one hidden behind it.
  await dragOver(page, [9.5, 9.5, 30], [19.5, 19.5, 30]);
  const form = page.getByRole('form', { name: 'Cut away' });
  await expect(form.getByText('100 points')).toBeVisible();
  await expect(form).toContainText('upper');
  await expect(form).toContainText('behind others were left alone');
  // The outline that is there is taken anew at the other depth.
  await page.getByRole('radio', { name: 'Through' }).click();
  await expect(form).toContainText('lie behind others and are drawn as a ghost');
  await expect(form.locator('p', { hasText: 'lower' })).toContainText('points');
  expect(await violations(page)).toEqual([]);
  // Back to the front alone, and cut.
  await page.getByRole('radio', { name: 'Front only' }).click();
  await expect(form.locator('p', { hasText: 'lower' })).toBeHidden();
  await form.getByRole('button', { name: 'Cut away' }).click();
  await expect(page.locator('[data-step=cut-away]')).toContainText('− 100 points');
  // What was cut away can be looked at again.
  await page.getByRole('listitem').filter({ hasText: 'upper' }).hover();
  await page.getByRole('button', { name: 'Show removed points of upper' }).click();
  await expect(page.getByRole('button', { name: 'Show removed points of upper' })).toHaveAttribute('aria-pressed', 'true');
});

test('a selection is added to, taken from, grown, inverted, and made of pieces', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Plates to select');
  await bringIn(page, { name: 'upper.xyz', text: plate(30) }, { name: 'lower.xyz', text: plate(0) });
  await page
    .getByLabel('Unit of the files')
    .getByRole('button', { name: /^(Yes, )?mm/ })
    .click();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');
  await fromAbove(page);
  await page.getByRole('button', { name: 'Keep only' }).click();
  const form = page.getByRole('form', { name: 'Keep only' });
  await page.getByRole('radio', { name: 'Rectangle' }).click();
  await dragOver(page, [9.5, 9.5, 30], [19.5, 19.5, 30]);
  await expect(form.getByText('100 points')).toBeVisible();
  await page.getByRole('radio', { name: 'Add', exact: true }).click();
  await dragOver(page, [24.5, 9.5, 30], [29.5, 19.5, 30]);
  await expect(form.getByText('150 points')).toBeVisible();
  await page.getByRole('radio', { name: 'Take off' }).click();
  await dragOver(page, [9.5, 9.5, 30], [14.5, 19.5, 30]);
  await expect(form.getByText('100 points')).toBeVisible();
  // Strokes are taken back one by one, before any step is undone.
  await page.getByRole('main').focus();
  await page.keyboard.press('Control+z');
  await expect(form.getByText('150 points')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(form.getByText('100 points')).toBeVisible();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('button', { name: 'Invert' }).click();
  await expect(form.locator('p', { hasText: 'lower' })).toContainText('1.7 k points');
  await page.getByRole('radio', { name: 'Replace' }).click();
  await page.getByRole('radio', { name: 'Piece' }).click();
  const view = await page.locator('[data-view]').boundingBox();
  const spot = await page.evaluate(() => window.emberstoneView?.project([20, 20, 30]));
  await page.mouse.click((view?.x ?? 0) + (spot?.x ?? 0), (view?.y ?? 0) + (spot?.y ?? 0));
  await expect(form.locator('p', { hasText: 'upper' })).toContainText('1.7 k points');
  await expect(form.locator('p', { hasText: 'lower' })).toBeHidden();
  await page.getByRole('button', { name: 'Keep only' }).last().click();
  await expect(page.locator('[data-step=keep-only]')).toHaveAttribute('data-state', 'done');
});

test('a crop box is typed, hides outside visibly, copies, and deletes', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Plates to crop');
  await bringIn(page, { name: 'upper.xyz', text: plate(30) }, { name: 'lower.xyz', text: plate(0) });
  await page
    .getByLabel('Unit of the files')
    .getByRole('button', { name: /^(Yes, )?mm/ })
    .click();
  await expect(page.locator('[data-step=set-unit]')).toHaveAttribute('data-state', 'done');
  await fromAbove(page);
  await page.getByRole('button', { name: 'Crop' }).click();
  // A side is dragged in the view: the box follows.
  const side = page.getByLabel('To X');
  const before = Number(await side.inputValue());
  const height = (Number(await page.getByLabel('From Z').inputValue()) + Number(await page.getByLabel('To Z').inputValue())) / 2;
  await dragOver(page, [before, 20, height], [before - 10, 20, height]);
  await expect.poll(async () => Math.abs(Number(await side.inputValue()) - (before - 10))).toBeLessThan(0.6);
  for (const [label, value] of [
    ['From X', '-0.5'],
    ['To X', '9.5'],
    ['From Y', '-0.5'],
    ['To Y', '9.5'],
    ['From Z', '29'],
    ['To Z', '31'],
  ] as const) {
    await page.getByLabel(label).fill(value);
    await page.getByLabel(label).press('Enter');
  }
  await page.getByRole('button', { name: 'Hide outside' }).click();
  await expect(page.getByLabel('Tray')).toContainText('3.3 k outside the crop box are hidden');
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Show', exact: true }).click();
  await expect(page.getByLabel('Tray')).not.toContainText('outside the crop box');

  const form = page.getByRole('form', { name: 'Crop' });
  await form.getByRole('radio', { name: 'copy' }).click();
  await form.getByRole('button', { name: /^Crop/ }).click();
  await expect(page.locator('[data-step=crop]').first()).toContainText('100 points copied');
  await expect(page.getByLabel('Tray')).toContainText('Cropped points');
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByLabel('Tray')).not.toContainText('Cropped points');

  await form.getByRole('radio', { name: 'delete' }).click();
  for (const [label, value] of [
    ['From X', '-0.5'],
    ['To X', '9.5'],
    ['From Y', '-0.5'],
    ['To Y', '9.5'],
    ['From Z', '29'],
    ['To Z', '31'],
  ] as const) {
    await page.getByLabel(label).fill(value);
    await page.getByLabel(label).press('Enter');
  }
  await form.getByRole('button', { name: /^Crop/ }).click();
  await expect(page.locator('[data-step=crop][data-state=done]')).toContainText('− 3.3 k points');
});

test('a scan is simulated, its noise reported, and a step tried before it is applied', async ({ page }) => {
  test.setTimeout(240_000);
  await signIn(page);
  await newProject(page, 'Bush under the ring');
  await page.getByRole('button', { name: 'Simulate a scan' }).click();
  await page.getByLabel('Part').selectOption('bush');
  await page.getByLabel('Rig').selectOption('ring');
  expect(await violations(page)).toEqual([]);
  await page
    .getByRole('form', { name: 'Simulate a scan' })
    .getByRole('button', { name: /^Simulate a scan/ })
    .click();
  await expect(page.locator('[data-step=simulate]')).toHaveAttribute('data-state', 'done', { timeout: 90_000 });
  await page.getByRole('button', { name: 'Noise report' }).click();
  await page
    .getByRole('form', { name: 'Noise report' })
    .getByRole('button', { name: /^Noise report/ })
    .click();
  await expect(page.getByRole('region', { name: 'Trial' })).toHaveAttribute('data-trial', 'done', { timeout: 60_000 });
  await expect(page.getByRole('table', { name: 'Noise by pass' }).getByRole('row')).toHaveCount(5);
  await expect(page.getByRole('region', { name: 'Trial' })).toContainText('of the points stand off the surface');
  // Heads that nobody has put together yet: walls lie in layers. A click goes there; a map colours the passes.
  await page.getByRole('region', { name: 'Double skins' }).getByRole('button').first().click();
  await page.getByRole('radio', { name: 'Spacing' }).click();
  await expect(page.getByRole('img', { name: /^Spacing: light is/ })).toBeVisible();
  expect(await violations(page)).toEqual([]);
  await expect(page.locator('[data-step]')).toHaveCount(1);

  await page.getByRole('button', { name: 'Drop the base', exact: true }).click();
  await page.getByRole('button', { name: 'Try it first' }).click();
  await expect(page.getByRole('region', { name: 'Trial' })).toHaveAttribute('data-trial', 'done', { timeout: 60_000 });
  await expect(page.getByRole('region', { name: 'Trial' })).toContainText('Bush 1');
  await expect(page.locator('[data-step]')).toHaveCount(1);
  await page.getByRole('radio', { name: 'Before' }).click();
  await page.getByRole('radio', { name: 'After' }).click();
  // Another margin, typed or slid: the trial follows by itself.
  const gone = () => page.getByRole('region', { name: 'Trial' }).getByText('Bush 1 −').innerText();
  const ofOne = await gone();
  await page.getByLabel('Margin', { exact: true }).fill('4');
  await expect.poll(gone).not.toBe(ofOne);
  const ofFour = await gone();
  await page.getByRole('slider', { name: 'Margin' }).fill('9');
  await expect(page.getByLabel('Margin', { exact: true })).toHaveValue('9');
  await expect.poll(gone).not.toBe(ofFour);
  await page.getByRole('button', { name: 'Apply what was tried' }).click();
  await expect(page.locator('[data-step=drop-base]')).toHaveAttribute('data-state', 'done');
  await expect(page.getByRole('region', { name: 'Trial' })).toBeHidden();
});

test('a scanner delivers frames live, is paused, sent elsewhere, and its sweeps become passes', async ({ page }) => {
  test.setTimeout(240_000);
  await signIn(page);
  await newProject(page, 'Pedestal, live');
  await page.getByRole('button', { name: 'Live capture' }).click();
  await page.getByRole('radio', { name: 'shiny' }).click();
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Start the simulated scanner' }).click();
  const running = page.getByRole('region', { name: 'Running capture' });
  const frames = async () => Number(await running.locator('[data-frames]').getAttribute('data-frames'));
  await expect.poll(frames).toBeGreaterThanOrEqual(3);
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(running).toHaveAttribute('data-capture', 'paused');
  await expect(running).toContainText('Still thin');
  expect(await violations(page)).toEqual([]);
  // From the other side, sprayed. A frame that was on its way may still have come in.
  await page.getByRole('button', { name: 'Back' }).click();
  await page.getByRole('button', { name: 'From here' }).click();
  await page.getByRole('button', { name: 'Spray it' }).click();
  await expect(page.getByRole('button', { name: 'Spray it' })).toBeHidden();
  const before = await frames();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect.poll(frames).toBeGreaterThanOrEqual(before + 3);
  await page.getByRole('button', { name: 'Finish: make passes' }).click();
  await expect(page.locator('[data-step=capture]')).toHaveAttribute('data-state', 'done', { timeout: 60_000 });
  await expect(page.locator('[data-step=capture]')).toContainText(/[23] passes/);
  await expect(page.getByLabel('Tray')).toContainText('Pedestal, sweep 2');
  await expect(running).toBeHidden();
  // A working copy takes the original's place in the view; what is discarded comes back with Undo.
  await page.getByRole('button', { name: 'Pedestal, sweep 2', exact: true }).hover();
  await page.getByRole('button', { name: 'More for Pedestal, sweep 2' }).click();
  await page.getByRole('button', { name: 'Work on a copy' }).click();
  await expect(page.getByLabel('Tray')).toContainText('Pedestal, sweep 2, copy');
  await page.getByRole('button', { name: 'Pedestal, sweep 1', exact: true }).hover();
  await page.getByRole('button', { name: 'More for Pedestal, sweep 1' }).click();
  await page.getByRole('button', { name: 'Discard' }).click();
  await expect(page.getByRole('button', { name: 'Pedestal, sweep 1', exact: true })).toBeHidden();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByRole('button', { name: 'Pedestal, sweep 1', exact: true })).toBeVisible();
});
