import { readdirSync, readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { apply, clickPart, newProject, signIn, violations } from './steps';

const passes = process.env.EMBERSTONE_PASSES ?? '';

/** A datum as the server holds it. */
const datumNamed = (page: Page, name: string): Promise<{ kind: string; origin: [number, number, number] }> =>
  page.evaluate(async (wanted) => {
    const state = await (await fetch(`/api${location.pathname}`)).json();
    return state.snapshot.datums.find((d: { name: string }) => d.name === wanted);
  }, name);

/** Size and closedness of a binary STL. */
function readStl(bytes: Buffer): { faces: number; closed: boolean; min: number[]; max: number[] } {
  const faces = bytes.readUInt32LE(80);
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  const edges = new Map<string, number>();
  for (let f = 0; f < faces; f++) {
    const corners: string[] = [];
    for (let c = 0; c < 3; c++) {
      const o = 84 + 50 * f + 12 + 12 * c;
      corners.push(bytes.subarray(o, o + 12).toString('latin1'));
      for (let k = 0; k < 3; k++) {
        const v = bytes.readFloatLE(o + 4 * k);
        min[k] = Math.min(min[k]!, v);
        max[k] = Math.max(max[k]!, v);
      }
    }
    for (let c = 0; c < 3; c++) {
      const [a, b] = [corners[c]!, corners[(c + 1) % 3]!];
      if (a === b) throw new Error(`face ${f} has an edge without length`);
      edges.set(a < b ? a + b : b + a, (edges.get(a < b ? a + b : b + a) ?? 0) + (a < b ? 1 : -1));
    }
  }
  return { faces, closed: [...edges.values()].every((n) => n === 0), min, max };
}

test('a technician takes eight raw passes to a closed, oriented mesh and downloads it', async ({ page }) => {
  const errors: string[] = [];
  page.on('console', (m) => m.type() === 'error' && errors.push(m.text()));
  page.on('pageerror', (e) => errors.push(e.message));
  await signIn(page);
  await newProject(page, 'Pedestal of the big press');

  const files = readdirSync(passes)
    .filter((f) => f.startsWith('pass-'))
    .map((f) => `${passes}/${f}`);
  expect(files).toHaveLength(8);
  await page.locator('[data-upload]').setInputFiles(files);
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await expect(page.getByLabel('Tray').getByText('pass-08')).toBeVisible();
  await expect(page.getByLabel('Unit of the files'), 'these files say their unit').toBeHidden();

  await apply(page, 'Gather', 'Drop the base', 'drop-base');
  await apply(page, 'Register', 'Register', 'register');
  // How well they fit: a histogram, and a map on the passes while the step is looked at.
  await page.locator('[data-step=register]').click();
  await expect(page.getByRole('img', { name: /^Half of the points lie within 0\.0\d\d mm/ })).toBeVisible();
  await page.getByRole('radio', { name: 'Residual' }).click();
  await expect(page.getByRole('img', { name: /^Residual: light is 0\.00 mm/ })).toBeVisible();
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Close details' }).click();
  await expect(page.getByRole('img', { name: /^Residual/ })).toBeHidden();
  await apply(page, 'Gather', 'Remove outliers', 'remove-outliers');
  await apply(page, 'Fuse', 'Fuse', 'fuse');
  await apply(page, 'Mend', 'Keep pieces', 'keep-pieces', 0, async () => {
    await page.getByLabel('Keep the largest').fill('1');
    await page.getByLabel('Keep the largest').press('Tab');
  });
  await apply(page, 'Mend', 'Close holes', 'fill-holes');
  await expect(page.locator('[data-line=closed]')).toHaveAttribute('data-state', 'good');
  await apply(page, 'Lighten', 'Decimate', 'decimate', 0, async () => {
    await page.getByLabel('Faces', { exact: true }).fill('15000');
    await page.getByLabel('Faces', { exact: true }).press('Tab');
  });

  await apply(page, 'Mend', 'Repair', 'repair');

  // Base plane from below, bore from the front, end face: each by one click on the part.
  const datum = (nth: number, name: string, kind: string, view: string, point: [number, number, number]) =>
    apply(page, 'Orient', 'Add datum', 'add-datum', nth, async () => {
      await page.getByLabel('Name', { exact: true }).fill(name);
      await page.getByLabel('Kind', { exact: true }).selectOption({ label: kind });
      await page.getByRole('group', { name: 'Standard views' }).getByRole('button', { name: view }).click();
      await clickPart(page, point);
      await expect(page.getByText(/fit error 0\.\d+ mm/)).toBeVisible();
    });
  await datum(0, 'Base plane', 'plane', 'Bottom', [30, 20, 0]);
  await datum(1, 'End face', 'plane', 'Front', [0, -30, 72]);
  await datum(2, 'Boss', 'cylinder', 'Right', [25.4, 0, 61.2]);
  await expect(page.getByLabel('Tray').getByText(/ø 5[34]\.\d\d/)).toBeVisible();

  // Where the axis of the boss goes through the end face, made of the two.
  const made = (nth: number, name: string, how: string, of: string[]) =>
    apply(page, 'Orient', 'Add datum', 'add-datum', nth, async () => {
      await page.getByRole('radiogroup', { name: 'Made of' }).getByRole('radio', { name: 'Datums' }).click();
      await expect(page.getByText('Choose how it is made.')).toBeVisible();
      await page.getByLabel('How it is made').selectOption({ label: how });
      for (const parent of of) await page.getByRole('checkbox', { name: parent }).check();
      await page.getByLabel('Name', { exact: true }).fill(name);
    });
  await made(3, 'Boss axis', 'Axis of', ['Boss']);
  await made(4, 'Boss middle', 'Where they meet', ['Boss axis', 'End face']);
  // On the exact part the axis of the boss lies at x = 0, z = 52 and its end face at y = -30.
  const pierced = await datumNamed(page, 'Boss middle');
  expect(pierced.kind).toBe('point');
  expect(Math.hypot(pierced.origin[0], pierced.origin[1] + 30, pierced.origin[2] - 52)).toBeLessThan(0.1);

  // A known length between datums is measured and balanced before anything is applied: the mesh is to scale already.
  await page.getByLabel('Step panel').getByRole('button', { name: 'Scale', exact: true }).click();
  await page.getByRole('button', { name: 'Between datums' }).click();
  await page.getByLabel('Length 1 from').selectOption({ label: 'Base plane' });
  await page.getByLabel('Length 1 to').selectOption({ label: 'Boss middle' });
  await expect(page.getByText('Type what length 1 is on the real part.')).toBeVisible();
  await page.getByLabel('Actual length between datums 1').fill('52');
  await expect(page.getByText(/Factor (0\.99[89]|1\.00[012])/)).toBeVisible();

  await apply(page, 'Orient', 'Set frame', 'set-frame', 0, async () => {
    await page.getByLabel('First datum', { exact: true }).selectOption({ label: 'Base plane' });
    await page.getByLabel('Second datum', { exact: true }).selectOption({ label: 'Boss' });
    await page.getByLabel('What the second datum becomes').selectOption('Y');
    await page.getByLabel('Third datum', { exact: true }).selectOption({ label: 'End face' });
    await expect(page.getByText('The frame is fully set.')).toBeVisible();
    // Six different pictures: none is empty, none is another one.
    const sides = page.getByRole('group', { name: 'Six sides in the new frame' }).getByRole('img');
    await expect(sides).toHaveCount(6);
    expect(new Set(await sides.evaluateAll((all) => all.map((img) => (img as HTMLImageElement).src))).size).toBe(6);
  });
  const card = page.getByLabel('Ready card').getByRole('button', { name: /^Ready card/ });
  if ((await card.getAttribute('aria-expanded')) === 'false') await card.click();
  await page.getByLabel('Ready card').getByRole('button', { name: 'Confirm scale' }).click();
  const size = page.getByRole('form', { name: 'Confirm scale' });
  await expect(size).toContainText(/1[12]\d\.\d\d × 7\d\.\d\d × \d\d\.\d\d mm/);
  await size.getByRole('button', { name: 'Confirm scale' }).click();
  await expect(page.locator('[data-step=confirm-scale]')).toHaveAttribute('data-state', 'done');
  for (const line of ['closed', 'sound', 'scale', 'oriented', 'light', 'faithful', 'measured']) await expect(page.locator(`[data-line=${line}]`)).toHaveAttribute('data-state', 'good');

  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'STL' }).click();
  const stl = readStl(readFileSync(await (await download).path()));
  expect(stl.closed).toBe(true);
  expect(stl.faces).toBeLessThanOrEqual(15000);
  // The pedestal is 120 x 70 x 79 mm; base at z = 0, bore axis over x = 0.
  expect(stl.max[2]! - stl.min[2]!).toBeCloseTo(79, 0);
  expect(stl.max[0]! - stl.min[0]!).toBeCloseTo(120, 0);
  expect(Math.abs(stl.min[2]!)).toBeLessThan(0.4);
  expect(Math.abs(stl.min[0]! + stl.max[0]!)).toBeLessThan(0.8);

  // That the scale was confirmed is undone like any step, and the frame after it.
  await page.getByRole('button', { name: /Undo/ }).click();
  await expect(page.locator('[data-step=confirm-scale]')).toHaveAttribute('data-state', 'set-aside');
  await expect(page.locator('[data-line=scale]')).toHaveAttribute('data-state', 'bad');
  await page.getByRole('button', { name: /Undo/ }).click();
  await expect(page.locator('[data-step=set-frame]')).toHaveAttribute('data-state', 'set-aside');
  await page.getByRole('button', { name: /Redo/ }).click();
  await expect(page.locator('[data-step=set-frame]')).toHaveAttribute('data-state', 'done');
  expect(await violations(page)).toEqual([]);

  await page.goto('/');
  // Its picture is in the list; one view draws all of them, however many projects there are.
  await expect(page.getByRole('listitem').filter({ hasText: 'Pedestal of the big press' }).locator('img').first()).toBeVisible();
  await expect(page.locator('canvas')).toHaveCount(0);
  expect(errors).toEqual([]);
});

test('the project list and an empty project are accessible in both themes', async ({ page }) => {
  await signIn(page);
  for (const theme of ['kiln', 'limestone']) {
    expect(await violations(page), theme).toEqual([]);
    await page.getByRole('button', { name: /Switch to the/ }).click();
  }
});
