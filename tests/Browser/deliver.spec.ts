import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { inflateRawSync } from 'node:zlib';
import { expect, type Page, test } from '@playwright/test';
import { clickPart, newProject, seen, signIn, violations } from './steps';

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
  await form
    .getByRole('radio', { name: 'pieces' })
    .or(form.getByRole('button', { name: 'pieces' }))
    .click();
  await expect(form).not.toContainText('Choose a plane.');
  await expect(form.getByLabel('Shift')).toHaveCount(0);
  await form
    .getByRole('radio', { name: 'plane' })
    .or(form.getByRole('button', { name: 'plane' }))
    .click();
  await form.getByRole('combobox', { name: 'Plane' }).selectOption('YZ');
  await form.getByLabel('Shift').fill('40');
  await form.getByLabel('Close the cut').check();
  await form.getByRole('button', { name: 'Try it first' }).click();
  await expect(form.getByText('Trial: 1 body → 2 at YZ, 40.0 mm in front of it')).toBeVisible();
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

test('a simple body is made, what it fills is taken away from another, seen first and delivered closed', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Block to notch');
  await page.locator('[data-upload]').setInputFiles({ name: 'block.off', mimeType: 'text/plain', buffer: Buffer.from(BLOCK) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  const panel = page.getByLabel('Step panel');
  await panel.getByRole('button', { name: 'Take away', exact: true }).click();
  await expect(page.getByRole('form', { name: 'Take away' })).toContainText('There is no other body: bring one in, or make a simple body.');

  await panel.getByRole('button', { name: 'Simple body', exact: true }).click();
  const solid = page.getByRole('form', { name: 'Simple body' });
  await solid
    .getByRole('radio', { name: 'box' })
    .or(solid.getByRole('button', { name: 'box' }))
    .click();
  await solid.getByLabel('Length').fill('40');
  await solid.getByLabel('Width').fill('30');
  await solid.getByLabel('Height').fill('30');
  await solid.getByLabel('Start').fill('-5');
  await solid.getByLabel('Name').fill('Notch');
  await solid.locator('[data-apply]').click();
  await expect(page.locator('[data-step=simple-body]')).toHaveAttribute('data-state', 'done');

  await panel.getByRole('button', { name: 'Take away', exact: true }).click();
  const form = page.getByRole('form', { name: 'Take away' });
  await expect(form).toContainText('Choose the other body.');
  await form.getByRole('combobox', { name: 'With' }).selectOption({ label: 'Notch' });
  await expect(form).toContainText('On block');
  await form.getByRole('button', { name: 'Try it first' }).click();
  // A corner of 20 by 15 by 14 mm.
  await expect(form.getByText('Trial: block: 4,200 mm³ taken away')).toBeVisible();
  await form.getByRole('button', { name: 'Apply what was tried' }).click();
  await expect(page.locator('[data-step=take-away]')).toHaveAttribute('data-state', 'done');
  expect(await volumeOfStl(page, 0)).toBeCloseTo(120 * 70 * 14 - 4200, 0);
  await expect(page.getByLabel('Legend')).toContainText('made');
});

test('clicks on the part are measured: a diameter, a distance with its tolerance, and both lapse when the part moves', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Tube to measure');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  const panel = page.getByLabel('Step panel');
  await panel.getByRole('button', { name: 'Simple body', exact: true }).click();
  const solid = page.getByRole('form', { name: 'Simple body' });
  await solid
    .getByRole('radio', { name: 'tube' })
    .or(solid.getByRole('button', { name: 'tube' }))
    .click();
  await solid.getByLabel('Diameter').fill('40');
  await solid.getByLabel('Bore').fill('24');
  await solid.getByLabel('Height').fill('30');
  await solid.locator('[data-apply]').click();
  await expect(page.locator('[data-step=simple-body]')).toHaveAttribute('data-state', 'done');

  await panel.getByRole('button', { name: 'Measure', exact: true }).click();
  const form = page.getByRole('form', { name: 'Measure' });
  await expect(form).toContainText('Click what is measured on the part');
  const view = (name: string) => page.getByRole('group', { name: 'Standard views' }).getByRole('button', { name }).click();
  await view('Front');
  await clickPart(page, [0.3, -20, 15]);
  await expect(form.getByLabel('What is taken at 1')).toHaveValue('cylinder');
  await expect(form.getByLabel('Value')).toHaveText(/^(39\.99|40\.00)\d* ± 0\.0/);
  // Within what can be measured arrows choose; Tab goes past all of it.
  await form.getByRole('radio', { name: 'diameter' }).press('ArrowRight');
  await expect(form.getByRole('radio', { name: 'radius' })).toBeFocused();
  await expect(form.getByLabel('Value')).toHaveText(/^(19\.99|20\.00)\d* ± 0\.0/);
  // What takes more than a moment has no value yet, and none of another kind.
  await form.getByRole('radio', { name: 'opening' }).click();
  await expect(form).toContainText('Taken when it is applied.');
  await expect(form.getByLabel('Value')).toHaveCount(0);
  await form.getByRole('radio', { name: 'opening' }).press('ArrowRight');
  await expect(form.getByLabel('Value')).toHaveText(/^(39\.99|40\.00)\d* ± 0\.0/);
  await form.locator('[data-apply]').click();
  await expect(page.locator('[data-step=measure]')).toHaveAttribute('data-state', 'done');

  // From the top face to the bottom one: the likely measure is their distance.
  await view('Top');
  await clickPart(page, [16, 2, 30]);
  await expect(form.getByLabel('What is taken at 1')).toHaveValue('plane');
  await view('Bottom');
  await clickPart(page, [16, 2, 0]);
  await expect(form.getByLabel('Value')).toHaveText(/^30\.000/);
  await form.getByLabel('Nominal').fill('30.2');
  await form.getByLabel('Minus').fill('0.1');
  await form.getByLabel('Name').fill('Height');
  expect(await violations(page)).toEqual([]);
  await form.locator('[data-apply]').click();
  await expect(page.locator('[data-step=measure]').nth(1)).toHaveAttribute('data-state', 'done');
  await page.keyboard.press('Escape');
  await panel.getByRole('button', { name: 'Measure', exact: true }).click();
  const list = page.getByRole('region', { name: 'Measurements' });
  await expect(list).toContainText('out of tolerance');
  await list.getByRole('button', { name: 'Go to Height' }).click();

  // What was measured is of the part as it was.
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Orient' }).click();
  await panel.getByRole('button', { name: 'Shift', exact: true }).click();
  await page.getByRole('form', { name: 'Shift' }).getByLabel('Along X', { exact: true }).fill('5');
  await page.getByRole('form', { name: 'Shift' }).locator('[data-apply]').click();
  await expect(page.locator('[data-step=shift]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  await expect(list.getByText('Of the part as it was before later steps.')).toHaveCount(2);
});

test('sections side by side are drawn, listed, and delivered as a drawing of straight lines', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Block to cut open');
  await page.locator('[data-upload]').setInputFiles({ name: 'block.off', mimeType: 'text/plain', buffer: Buffer.from(BLOCK) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Section', exact: true }).click();
  const form = page.getByRole('form', { name: 'Section' });
  await expect(form).toContainText('Choose a plane.');
  // Around an axis no plane is asked for.
  await form.getByRole('combobox', { name: 'Around' }).selectOption('Z');
  await expect(form.getByRole('combobox', { name: 'Plane' })).toHaveCount(0);
  await form.getByRole('combobox', { name: 'Around' }).selectOption('');
  await form.getByRole('combobox', { name: 'Plane' }).selectOption('YZ');
  await form.getByLabel('Shift').fill('30');
  await form.getByLabel('Shift').press('Tab');
  // The part is cut open there: what lies beyond is neither shown nor picked, until all of it is asked for.
  const topAt = (x: number) => page.evaluate((at) => window.emberstoneView?.pick(window.emberstoneView.project([at, 35, 14]))?.pointMm[2] ?? null, x);
  await page.getByRole('group', { name: 'Standard views' }).getByRole('button', { name: 'Top' }).click();
  await expect.poll(() => topAt(20)).toBeCloseTo(14, 1);
  await expect.poll(() => topAt(90)).toBeNull();
  await form.getByLabel('Move the plane through the part').press('End');
  await expect.poll(() => topAt(90)).toBeCloseTo(14, 1);
  await form.getByLabel('Shift').fill('30');
  await form.getByRole('radio', { name: 'whole' }).click();
  await expect.poll(() => topAt(90)).toBeCloseTo(14, 1);
  await form.getByLabel('Count').fill('3');
  await form.getByLabel('Spacing').fill('30');
  await form.getByLabel('Lines and arcs').fill('0.01');
  await form.getByRole('button', { name: 'Section' }).click();
  await expect(page.locator('[data-step=section]')).toHaveAttribute('data-state', 'done');
  await expect(page.locator('[data-step=section]')).toContainText('3 curves at 3 planes, 504.0 mm long');
  const tray = page.getByLabel('Tray');
  await expect(
    tray
      .getByRole('button', { name: 'Section of block', exact: true })
      .or(tray.getByText('Section of block', { exact: true }))
      .first(),
  ).toBeVisible();

  const waiting = page.waitForEvent('download');
  await page.getByRole('link', { name: 'DXF' }).click();
  const lines = readFileSync(await (await waiting).path(), 'latin1').split('\n');
  const pairs = lines.flatMap((line, k) => (k % 2 === 0 ? [{ code: line, value: lines[k + 1] ?? '' }] : []));
  const starts = pairs.flatMap(({ code, value }, k) => (code === '0' && value === 'LWPOLYLINE' ? [k] : []));
  expect(starts).toHaveLength(3);
  for (const start of starts) {
    const own = pairs.slice(
      start,
      pairs.findIndex(({ code }, k) => k > start && code === '0'),
    );
    const all = (wanted: string) => own.filter(({ code }) => code === wanted).map(({ value }) => Number(value));
    // Four corners a section: what was fitted has no points between.
    expect(all('90')).toEqual([4]);
    expect([...all('10')].sort((x, y) => x - y)).toEqual([0, 0, 70, 70]);
    expect([...all('20')].sort((x, y) => x - y)).toEqual([0, 0, 14, 14]);
  }
});

test('a body is compared with points beside it: figures, colours, and the worst place to go to', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Block to compare');
  // 0.2 mm above the top, and one place 1.5 mm deep.
  const points = [...Array(11).keys()].flatMap((i) => [...Array(6).keys()].map((j) => `${10 + 10 * i} ${10 + 10 * j} ${i === 5 && j === 3 ? 12.5 : 14.2}`));
  const ply = ['ply', 'format ascii 1.0', `element vertex ${points.length}`, 'property float x', 'property float y', 'property float z', 'end_header', ...points, ''].join('\n');
  await page.locator('[data-upload]').setInputFiles([
    { name: 'block.off', mimeType: 'text/plain', buffer: Buffer.from(BLOCK) },
    { name: 'top.ply', mimeType: 'text/plain', buffer: Buffer.from(ply) },
  ]);
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');

  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Compare', exact: true }).click();
  const form = page.getByRole('form', { name: 'Compare' });
  await form.getByLabel('Tolerance').fill('0.3');
  await form.locator('[data-apply]').click();
  const result = form.getByRole('region', { name: 'block against passes' });
  await expect(result).toContainText('farthest1.500 mm');
  await expect(result).toContainText('within 0.300 mm98.5 %');
  await expect(result).toContainText('95 % lie within0.200 mm');
  await expect(page.getByRole('img', { name: /^Distance: blue is -0\.\d\d mm/ })).toBeVisible();
  await expect(page.locator('[data-band]')).toHaveCount(2);
  await expect(page.getByLabel('Legend')).toHaveCount(0);
  await result.getByRole('button', { name: /60\.0, 40\.0, 12\.5/ }).click();
  await seen(page, [60, 40, 14]);
  // A click reads the distance there.
  await expect(form).toContainText('Click the part to read the distance there.');
  await clickPart(page, [60, 40, 14]);
  await expect(form).toContainText('1 place read.');
  // It has changed nothing, and leaves no step.
  await expect(page.locator('[data-step=compare]')).toHaveCount(0);

  // Measuring changes nothing either, but stays.
  await page.getByLabel('Step panel').getByRole('button', { name: 'Measure', exact: true }).click();
  const measure = page.getByRole('form', { name: 'Measure' });
  await expect(measure).toContainText('Click what is measured on the part, or choose two datums.');
  await measure.getByRole('combobox', { name: 'Kind' }).selectOption('volume');
  await measure.getByLabel('Nominal').fill('117500');
  await measure.getByLabel('Plus').fill('50');
  await measure.locator('[data-apply]').click();
  await expect(page.locator('[data-step=measure]')).toContainText('117,600.000 mm³ · out of tolerance · Volume');
  await expect(page.getByRole('region', { name: 'Measurements' })).toContainText('117,600.000 mm³');
  await expect(page.getByRole('region', { name: 'Measurements' })).toContainText('out of tolerance');
});

/** The files of a zip, by name. */
function unzipped(bytes: Buffer): Map<string, Buffer> {
  const files = new Map<string, Buffer>();
  const end = bytes.lastIndexOf(Buffer.from('PK\x05\x06', 'latin1'));
  for (let k = 0, at = bytes.readUInt32LE(end + 16); k < bytes.readUInt16LE(end + 10); k++) {
    const [packed, name, more, words, local] = [bytes.readUInt32LE(at + 20), bytes.readUInt16LE(at + 28), bytes.readUInt16LE(at + 30), bytes.readUInt16LE(at + 32), bytes.readUInt32LE(at + 42)];
    const from = local + 30 + bytes.readUInt16LE(local + 26) + bytes.readUInt16LE(local + 28);
    const data = bytes.subarray(from, from + packed);
    files.set(bytes.toString('utf8', at + 46, at + 46 + name), bytes.readUInt16LE(at + 10) === 8 ? inflateRawSync(data) : data);
    at += 46 + name + more + words;
  }
  return files;
}

test('an outline is drawn from above, and all is handed over in a zip whose sums are right', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Block to hand over');
  await page.locator('[data-upload]').setInputFiles({ name: 'block.off', mimeType: 'text/plain', buffer: Buffer.from(BLOCK) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  const panel = page.getByLabel('Step panel');
  await panel.getByRole('button', { name: 'Outline', exact: true }).click();
  const outline = page.getByRole('form', { name: 'Outline' });
  await expect(outline.getByRole('combobox', { name: 'Seen' })).toHaveValue('-Z');
  await outline.getByRole('button', { name: /^Outline/ }).click();
  await expect(page.locator('[data-step=outline]')).toContainText('1 outline with 0 openings, seen from above; 8400 mm² covered');

  await panel.getByRole('button', { name: 'Hand over', exact: true }).click();
  const form = page.getByRole('form', { name: 'Hand over' });
  await form.getByRole('checkbox', { name: 'OFF' }).check();
  await form.getByRole('textbox', { name: 'For' }).fill('Kelter Mill');
  await form.getByRole('button', { name: /^Hand over/ }).click();
  await expect(page.locator('[data-step=deliver]')).toHaveAttribute('data-state', 'done');
  // In the tray it has nothing to show or hide.
  await expect(page.getByRole('button', { name: 'Hide Delivery for Kelter Mill' })).toHaveCount(0);
  const waiting = page.waitForEvent('download');
  await page.getByLabel('Deliveries').getByRole('link', { name: 'All, ZIP' }).click();
  const files = unzipped(readFileSync(await (await waiting).path()));
  const manifest = JSON.parse(files.get('manifest.json')!.toString()) as { for: string; files: { name: string; sha256: string }[] };
  expect(manifest.for).toBe('Kelter Mill');
  expect(manifest.files.map((f) => f.name).sort()).toEqual(['Outline of block.dxf', 'Outline of block.svg', 'block.off', 'block.stl', 'report.html', 'report.pdf']);
  for (const file of manifest.files) expect(createHash('sha256').update(files.get(file.name)!).digest('hex'), file.name).toBe(file.sha256);
});

test('a project is saved to one file and opened as another, with all that was done', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Block to take along');
  await page.locator('[data-upload]').setInputFiles({ name: 'block.off', mimeType: 'text/plain', buffer: Buffer.from(BLOCK) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Measure', exact: true }).click();
  const form = page.getByRole('form', { name: 'Measure' });
  await form.getByLabel('Kind', { exact: true }).selectOption('volume');
  await form.locator('[data-apply]').click();
  await expect(page.locator('[data-step=measure]')).toHaveAttribute('data-state', 'done');
  await page.keyboard.press('Escape');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Gather' }).click();
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  const saving = page.waitForEvent('download');
  await page.getByRole('link', { name: 'The whole project, as one file' }).click();
  const file = await saving;
  expect(file.suggestedFilename()).toBe('Block to take along.emberstone');
  const buffer = readFileSync(await file.path());

  await page.goto('/');
  await page.locator('[data-project-file]').setInputFiles({ name: 'Block taken along.emberstone', mimeType: 'application/zip', buffer });
  await expect(page.getByRole('heading', { name: 'Block taken along' })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Steps' })).toContainText('Opened "Block to take along": 2 steps by Tess Holm');
  await expect(page.locator('[data-step=measure]')).toContainText('117,600');
  await seen(page, [60, 35, 14]);
  // It goes on there.
  await page.getByRole('button', { name: 'Undo the last step (Ctrl+Z)' }).click();
  await expect(page.locator('[data-step=measure]')).toHaveAttribute('data-state', 'set-aside');
});

test('a receiver without an account looks at the part and takes its files by a link, until it is closed', async ({ page, browser }) => {
  await signIn(page);
  // Off until whoever looks after the installation turns it on.
  await page.goto('/account');
  const saved = page.waitForResponse((answer) => answer.url().endsWith('/api/account/settings'));
  await page.getByRole('checkbox', { name: 'Links for receivers' }).click();
  await saved;
  await expect(page.getByRole('checkbox', { name: 'Links for receivers' })).toBeChecked();
  await page.goto('/');
  await newProject(page, 'Block for a receiver');
  await page.locator('[data-upload]').setInputFiles({ name: 'block.off', mimeType: 'text/plain', buffer: Buffer.from(BLOCK) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Hand over', exact: true }).click();
  const form = page.getByRole('form', { name: 'Hand over' });
  await form.getByRole('textbox', { name: 'For' }).fill('Kelter Mill');
  await form.getByRole('button', { name: /^Hand over/ }).click();
  await expect(page.locator('[data-step=deliver]')).toHaveAttribute('data-state', 'done');
  await page.keyboard.press('Escape');
  const deliveries = page.getByLabel('Deliveries');
  await deliveries.getByRole('button', { name: 'Receiver’s link' }).click();
  const url = await deliveries.getByRole('textbox', { name: 'The link' }).inputValue();

  const visitor = await browser.newContext();
  const seenBy = await visitor.newPage();
  await seenBy.goto(url);
  await expect(seenBy.getByRole('heading', { name: 'Block for a receiver' })).toBeVisible();
  await expect(seenBy.getByText(/by Tess Holm for Kelter Mill/)).toBeVisible();
  await expect(seenBy.getByText('120.0 × 70.0 × 14.0 mm')).toBeVisible();
  await expect(seenBy.getByText('Drag to turn')).toBeVisible();
  await expect(seenBy.locator('[data-view] canvas')).toHaveAttribute('data-drawn', /^[1-9]\d* calls/);
  expect(await violations(seenBy)).toEqual([]);
  const waiting = seenBy.waitForEvent('download');
  await seenBy.getByRole('link', { name: 'block.stl' }).click();
  const bytes = readFileSync(await (await waiting).path());
  expect(bytes.readUInt32LE(80)).toBe(12);
  // What else the shop has stays shut.
  await seenBy.goto('/');
  await expect(seenBy.getByRole('button', { name: 'Sign in' })).toBeVisible();

  await page.reload();
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  const link = page.getByLabel('Deliveries').locator('[data-link]');
  await expect(link).toContainText('2 visits');
  await link.locator('summary').click();
  await expect(link).toContainText('block.stl');
  await link.getByRole('button', { name: 'Close this link' }).click();
  await expect(link).toHaveAttribute('data-link', 'closed');
  await seenBy.goto(url);
  await expect(seenBy.getByText('This link has been closed. Ask Tess Holm for a new one.')).toBeVisible();
  await visitor.close();
});
