import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { newProject, seen, signIn } from './steps';

/** A block of 120 x 70 x 14 mm. */
const BLOCK = ['OFF', '8 12 0', ...[0, 1].flatMap((z) => [0, 1].flatMap((y) => [0, 1].map((x) => `${120 * x} ${70 * y} ${14 * z}`))), '3 0 3 1', '3 0 2 3', '3 0 1 5', '3 0 5 4', '3 2 7 3', '3 2 6 7', '3 0 6 2', '3 0 4 6', '3 1 3 7', '3 1 7 5', '3 4 5 7', '3 4 7 6', ''].join('\n');

/** The volume of a binary STL, mm3, by the tetrahedra from its faces to the origin. */
async function volumeOfStl(page: Page, nth: number): Promise<number> {
  const waiting = page.waitForEvent('download');
  await page.getByRole('link', { name: /STL/ }).nth(nth).click();
  const bytes = readFileSync(await (await waiting).path());
  let sum = 0;
  for (let f = 0; f < bytes.readUInt32LE(80); f++) {
    const [a, b, c, d, e, g, h, i, j] = Array.from({ length: 9 }, (_, k) => bytes.readFloatLE(84 + 50 * f + 12 + 4 * k)) as [number, number, number, number, number, number, number, number, number];
    sum += (a * (e * j - g * i) - b * (d * j - g * h) + c * (d * i - e * h)) / 6;
  }
  return sum;
}

test('a body is split at a plane beside the frame, both parts are seen first, and each is delivered closed', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Block to split');
  await page.locator('[data-upload]').setInputFiles({ name: 'block.off', mimeType: 'text/plain', buffer: Buffer.from(BLOCK) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');

  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Split', exact: true }).click();
  const form = page.getByRole('form', { name: 'Split' });
  await expect(form).toContainText('Choose a plane.');
  // Pieces need no plane.
  await form.getByRole('radio', { name: 'pieces' }).or(form.getByRole('button', { name: 'pieces' })).click();
  await expect(form).not.toContainText('Choose a plane.');
  await expect(form.getByLabel('Shift')).toHaveCount(0);
  await form.getByRole('radio', { name: 'plane' }).or(form.getByRole('button', { name: 'plane' })).click();
  await form.getByRole('combobox', { name: 'Plane' }).selectOption('YZ');
  await form.getByLabel('Shift').fill('40');
  await form.getByLabel('Close the cut').check();
  await form.getByRole('button', { name: 'Try it first' }).click();
  await expect(form.getByText('Trial: 1 body → 2 at YZ, 40.0 mm before it')).toBeVisible();
  await seen(page, [100, 35, 14]);
  // Nothing is changed yet: the files are those of the block.
  await expect(page.getByRole('link', { name: /STL/ })).toHaveCount(1);
  await form.getByRole('button', { name: 'Apply what was tried' }).click();
  await expect(page.locator('[data-step=split]')).toHaveAttribute('data-state', 'done');

  await expect(page.getByRole('link', { name: /STL/ })).toHaveCount(2);
  const volumes = [await volumeOfStl(page, 0), await volumeOfStl(page, 1)].sort((a, b) => a - b);
  expect(volumes[0]).toBeCloseTo(40 * 70 * 14, 1);
  expect(volumes[1]).toBeCloseTo(80 * 70 * 14, 1);
});
