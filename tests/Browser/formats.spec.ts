import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { expect, type Page, test } from '@playwright/test';
import { newProject, signIn, violations } from './steps';

const folder = mkdtempSync(join(tmpdir(), 'emberstone-formats-'));
const at = (name: string) => join(folder, name);
const convert = (from: string, to: string) => execFileSync('core/bin/emberstone', ['convert', at(from), at(to), '--quiet']);

/** One file of each format: a wedge of three quads and two triangles where it holds meshes, a plate of 30 points where it holds clouds. */
function everyFormat(): string[] {
  const plate = Array.from({ length: 30 }, (_, i) => `${(i % 6) * 4} ${Math.floor(i / 6) * 4} 7`);
  writeFileSync(at('wedge-obj.obj'), 'v 0 0 0\nv 40 0 0\nv 40 30 0\nv 0 30 0\nv 0 0 20\nv 0 30 20\nf 1 4 3 2\nf 1 2 5\nf 3 4 6\nf 1 5 6 4\nf 2 3 6 5\n');
  for (const ending of ['stl', 'ply', 'off', '3mf', 'glb', 'gltf']) convert('wedge-obj.obj', `wedge-${ending}.${ending}`);
  writeFileSync(at('plate-xyz.xyz'), plate.join('\n'));
  for (const ending of ['e57', 'ply']) convert('plate-xyz.xyz', `plate-${ending}.${ending}`);
  writeFileSync(at('plate-csv.csv'), plate.map((line, i) => [...line.split(' '), i, 0, 255].join(';')).join('\n'));
  for (const ending of ['txt', 'asc']) writeFileSync(at(`plate-${ending}.${ending}`), plate.join('\n'));
  writeFileSync(at('plate-pts.pts'), `30\n${plate.map((line) => `${line} -12 10 20 30`).join('\n')}\n`);
  writeFileSync(at('plate-ptx.ptx'), `6\n5\n0 0 0\n1 0 0\n0 1 0\n0 0 1\n1 0 0 0\n0 1 0 0\n0 0 1 0\n0 0 0 1\n${plate.map((line) => `${line} 0.5`).join('\n')}\n`);
  writeFileSync(at('plate-gz.ply.gz'), gzipSync(readFileSync(at('plate-ply.ply'))));
  execFileSync('php', ['-r', '$z = new ZipArchive; $z->open($argv[1], ZipArchive::CREATE); $z->addFile($argv[2], "day/plate-zip.ply"); $z->close();', at('packed.zip'), at('plate-ply.ply')]);
  return ['wedge-obj.obj', 'wedge-stl.stl', 'wedge-ply.ply', 'wedge-off.off', 'wedge-3mf.3mf', 'wedge-glb.glb', 'wedge-gltf.gltf', 'plate-xyz.xyz', 'plate-e57.e57', 'plate-ply.ply', 'plate-csv.csv', 'plate-txt.txt', 'plate-asc.asc', 'plate-pts.pts', 'plate-ptx.ptx', 'plate-gz.ply.gz', 'packed.zip'];
}

async function drop(page: Page, names: string[]): Promise<void> {
  const files = names.map((name) => ({ name, bytes: readFileSync(at(name)).toString('base64') }));
  const data = await page.evaluateHandle((all) => {
    const transfer = new DataTransfer();
    for (const { name, bytes } of all) transfer.items.add(new File([Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0))], name));
    return transfer;
  }, files);
  await page.getByRole('region', { name: 'Bring in passes' }).dispatchEvent('drop', { dataTransfer: data });
}

test('a drop of one file of each format brings every one of them in, columns confirmed', async ({ page }) => {
  test.setTimeout(240_000);
  const files = everyFormat();
  await signIn(page);
  await newProject(page, 'All sorts');
  await drop(page, files);
  const dialog = page.getByRole('dialog', { name: 'What do the columns mean?' });
  await expect(dialog).toBeVisible();
  // Files alike are asked about once: plain ones, the one with colours, and blocks with an intensity.
  await expect(dialog.getByRole('region')).toHaveCount(3);
  await expect(dialog.getByLabel('Column 4 of plate-csv.csv')).toHaveValue('red');
  expect(await violations(page)).toEqual([]);
  // Somebody who knows better: those three are no colour.
  await dialog.getByLabel('Column 4 of plate-csv.csv').selectOption('x');
  await expect(dialog).toContainText('Two columns are X.');
  await expect(page.getByRole('button', { name: 'Bring in like this' })).toBeDisabled();
  for (const column of [4, 5, 6]) await dialog.getByLabel(`Column ${column} of plate-csv.csv`).selectOption('skip');
  await page.getByRole('button', { name: 'Bring in like this' }).click();
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done', { timeout: 120_000 });
  await expect(page.locator('[data-step=import]')).toContainText(`${files.length} files`);
  const tray = page.getByLabel('Tray');
  const row = (ending: string) => tray.getByRole('listitem').filter({ has: page.getByRole('button', { name: `wedge-${ending}`, exact: true }) });
  // Formats that know polygons bring three quads and two triangles, the others all of it in triangles.
  for (const ending of ['obj', 'ply', 'off']) await expect(row(ending)).toContainText('5');
  for (const ending of ['stl', '3mf', 'glb', 'gltf']) await expect(row(ending)).toContainText('8');
  // Ten clouds of one kind of name are folded under one heading, which opens and closes.
  for (const ending of ['xyz', 'e57', 'ply', 'csv', 'txt', 'asc', 'pts', 'ptx', 'zip']) await expect(tray.getByRole('button', { name: `plate-${ending}`, exact: true })).toBeVisible();
  await expect(tray.getByRole('button', { name: 'plate-gz.ply', exact: true })).toBeVisible();
  expect(await violations(page)).toEqual([]);
});
