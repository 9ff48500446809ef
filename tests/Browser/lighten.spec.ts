import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { newProject, seen, signIn } from './steps';

/** A box of 120 x 70 x 14 mm without its top, of ten faces. */
const TRAY = ['OFF', '8 10 0', ...[0, 1].flatMap((z) => [0, 1].flatMap((y) => [0, 1].map((x) => `${120 * x} ${70 * y} ${14 * z}`))), '3 0 3 1', '3 0 2 3', '3 0 1 5', '3 0 5 4', '3 2 7 3', '3 2 6 7', '3 0 6 2', '3 0 4 6', '3 1 3 7', '3 1 7 5', ''].join('\n');

test('a part is remeshed to even triangles, tried first, and its file has them with every corner where it was', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Tray to remesh');
  await page.locator('[data-upload]').setInputFiles({ name: 'tray.off', mimeType: 'text/plain', buffer: Buffer.from(TRAY) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');

  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Lighten' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Remesh', exact: true }).click();
  const form = page.getByRole('form', { name: 'Remesh' });
  await expect(form).toContainText('Fill in one of edge and faces.');
  await form.getByLabel('Edge').fill('5');
  await form.getByRole('button', { name: 'Try it first' }).click();
  await expect(form.getByText(/^Trial: 10 → 1[.\d]* k faces, edges of (4|5)\.\d+ mm, 0(\.000)? mm off at most/)).toBeVisible();
  // The server's mesh is the one that is drawn: a place on the floor that no corner of the file was near.
  await seen(page, [50, 30, 0]);
  await form.getByRole('button', { name: 'Apply what was tried' }).click();
  await expect(page.locator('[data-step=remesh]')).toHaveAttribute('data-state', 'done');

  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  const waiting = page.waitForEvent('download');
  await page.getByRole('link', { name: /STL/ }).first().click();
  const bytes = readFileSync(await (await waiting).path());
  const faces = bytes.readUInt32LE(80);
  // Equal-sided triangles of 5 mm on 13,720 mm2.
  expect(faces).toBeGreaterThan(1100);
  expect(faces).toBeLessThan(1450);
  const corners = new Set<string>();
  for (let f = 0; f < faces; f++) for (let c = 0; c < 3; c++) corners.add([0, 4, 8].map((k) => Math.round(1000 * bytes.readFloatLE(84 + 50 * f + 12 + 12 * c + k)) / 1000 + 0).join(' '));
  for (const x of [0, 120]) for (const y of [0, 70]) for (const z of [0, 14]) expect(corners).toContain(`${x} ${y} ${z}`);
});
