import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { clickPart, newProject, seen, signIn, violations } from './steps';

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

/** Two boxes of 10 x 8 x 5 mm beside each other: tops, bottoms, fronts and backs lie in one plane each. */
const LUGS = (() => {
  const corners = [0, 40].flatMap((dx) => [0, 1].flatMap((z) => [0, 1].flatMap((y) => [0, 1].map((x) => `${10 * x + dx} ${8 * y} ${5 * z}`))));
  const faces = ['0 3 1', '0 2 3', '0 1 5', '0 5 4', '2 7 3', '2 6 7', '0 6 2', '0 4 6', '1 3 7', '1 7 5', '4 5 7', '4 7 6'];
  return [
    'OFF',
    '16 24 0',
    ...corners,
    ...[0, 8].flatMap((first) =>
      faces.map(
        (f) =>
          `3 ${f
            .split(' ')
            .map((v) => Number(v) + first)
            .join(' ')}`,
      ),
    ),
    '',
  ].join('\n');
})();

test('shapes are found, chosen on the part, split, joined, and made a datum that sets the frame', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Lugs');
  await page.locator('[data-upload]').setInputFiles({ name: 'lugs.off', mimeType: 'text/plain', buffer: Buffer.from(LUGS) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Lighten' }).click();
  const panel = page.getByLabel('Step panel');
  await panel.getByRole('button', { name: 'Find shapes', exact: true }).click();
  await page
    .getByRole('form', { name: 'Find shapes' })
    .getByRole('button', { name: /^Find shapes/ })
    .click();
  await expect(page.locator('[data-step=find-shapes]')).toContainText('8 shapes: 8 planes');
  await page.keyboard.press('Escape');

  const list = panel.getByLabel('Shapes of lugs', { exact: true });
  await expect(list.getByRole('listitem')).toHaveCount(8);
  await expect(page.getByLabel('Legend')).toHaveText('plane');
  await expect(list.getByRole('button', { name: 'Datum' })).toBeDisabled();
  // A click on the top of one lug chooses the plane of both tops.
  await clickPart(page, [5, 4, 5]);
  const chosen = list.getByRole('button', { pressed: true });
  await expect(chosen).toHaveCount(1);
  const both = await chosen.innerText();
  await clickPart(page, [45, 4, 5]);
  await expect(chosen).toHaveText(both.replace('\n', ''));

  await list.getByRole('button', { name: 'Split' }).click();
  const form = page.getByRole('form', { name: 'Split shape' });
  await form.getByRole('button', { name: /^Split shape/ }).click();
  await expect(page.locator('[data-step=split-shape]')).toContainText('1 shape split off');
  await page.keyboard.press('Escape');
  await expect(list.getByRole('listitem')).toHaveCount(9);
  await clickPart(page, [5, 4, 5]);
  await expect(chosen).toHaveCount(1);
  await clickPart(page, [45, 4, 5], ['Control']);
  await expect(chosen).toHaveCount(2);
  await list.getByRole('button', { name: 'Join' }).click();
  await expect(page.locator('[data-step=join-shapes]')).toContainText('2 shapes are one plane');
  await expect(list.getByRole('listitem')).toHaveCount(8);

  await clickPart(page, [5, 4, 5]);
  await list.getByRole('button', { name: 'Datum' }).click();
  await expect(page.locator('[data-step=add-datum]')).toContainText('Plane 1: ± 0');
  // A frame is proposed of three planes that are square to each other.
  await list.getByRole('button', { name: 'Propose a frame' }).click();
  const frame = page.getByRole('form', { name: 'Set frame' });
  for (const [place, name] of [
    ['First', 'Plane 2'],
    ['Second', 'Plane 3'],
    ['Third', 'Plane 4'],
  ])
    await expect(frame.getByRole('combobox', { name: `${place} datum`, exact: true }).locator('option:checked')).toHaveText(name ?? '');
  await expect(page.locator('[data-step=add-datum][data-state=done]')).toHaveCount(4);
  await frame.getByRole('button', { name: /^Set frame/ }).click();
  await expect(page.locator('[data-step=set-frame]')).toContainText('all six locked');
  // What was proposed first lies in XY now, and the tops with it or beside it.
  const project = page.url().split('/').pop();
  const state = (await (await page.request.get(`/api/projects/${project}`)).json()) as { snapshot: { datums: { origin: number[]; direction: number[] }[] } };
  expect(state.snapshot.datums[1]?.origin[2]).toBeCloseTo(0, 6);
  expect(Math.abs(state.snapshot.datums[0]?.direction[2] ?? 0)).toBeCloseTo(1, 9);
});

test('quads are laid on a part, which steps back, and its file holds them; cells by hand cling to it', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Tray in quads');
  await page.locator('[data-upload]').setInputFiles({ name: 'tray.off', mimeType: 'text/plain', buffer: Buffer.from(TRAY) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  const stage = (name: string) => page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name }).click();
  await stage('Lighten');
  const panel = page.getByLabel('Step panel');
  await panel.getByRole('button', { name: 'Quads', exact: true }).click();
  const form = page.getByRole('form', { name: 'Quads' });
  // Numbers are understood as they are written, and told back; what is not understood says why.
  await form.getByLabel('Faces').fill('1,2,3');
  await expect(form).toContainText('"1,2,3" is no whole number');
  await form.getByLabel('Faces').fill('30 k');
  await expect(form).toContainText('= 30 000');
  await form.getByLabel('Faces').fill('');
  await form.getByLabel('Edge').fill('0,7 cm');
  await expect(form).toContainText('= 7 mm');
  // A stroke between two rows that there would be by themselves: it shall be a row of sides.
  await form.getByRole('radio', { name: 'lie on it' }).click();
  await clickPart(page, [20, 31.3, 0]);
  await expect(form).toContainText('Click where the stroke goes on');
  await clickPart(page, [100, 31.3, 0]);
  await form.getByRole('button', { name: 'Keep this stroke' }).click();
  await expect(form).toContainText(/Edge stroke 1, (79|80)\.\d mm/);
  // Another one, for sides to run along, is taken out again.
  await form.getByRole('radio', { name: 'run along it' }).click();
  await clickPart(page, [20, 50, 0]);
  await clickPart(page, [60, 60, 0]);
  await form.getByRole('button', { name: 'Keep this stroke' }).click();
  // The same on the other side of a plane is a stroke of its own.
  await form.getByLabel('Mirror strokes in').selectOption({ label: 'ZX of the frame' });
  await form.getByRole('button', { name: 'Mirror flow stroke 1' }).click();
  await expect(form).toContainText(/Flow stroke 2, 4[12]\.\d mm/);
  await form.getByRole('button', { name: 'Take flow stroke 2 out' }).click();
  await form.getByRole('button', { name: 'Take flow stroke 1 out' }).click();
  await form.getByRole('button', { name: /^Quads/ }).click();
  await expect(page.locator('[data-step=quad-remesh]')).toHaveAttribute('data-state', 'done');
  // Its strokes can be changed after it: the step is taken back and opens with them, and one of them is drawn on.
  await page.locator('[data-step=quad-remesh]').click();
  await page.getByRole('button', { name: 'Change its strokes' }).click();
  await expect(form).toContainText(/Edge stroke 1, (79|80)\.\d mm/);
  await form.getByRole('button', { name: 'Change edge stroke 1' }).click();
  await expect(form).toContainText('2 places');
  await page.keyboard.press('Backspace');
  await expect(form).toContainText('1 place');
  await clickPart(page, [100, 31.3, 0]);
  await form.getByRole('button', { name: /^Quads/ }).click();
  await expect(page.locator('[data-step=quad-remesh]')).toContainText(/\d+ quads, sides of (6\.\d+|7(\.\d+)?) mm/);
  await expect(page.getByRole('button', { name: 'Show tray', exact: true })).toBeVisible();
  await seen(page, [50, 30, 0]);

  // Two cells on the floor, of six places: the shared side is clicked once more.
  await panel.getByRole('button', { name: 'Cells by hand', exact: true }).click();
  const drawing = page.getByRole('form', { name: 'Cells by hand' });
  for (const [x, y] of [
    [30, 20],
    [60, 20],
    [60, 50],
    [30, 50],
  ] as const)
    await clickPart(page, [x, y, 0]);
  await expect(drawing.getByRole('button', { name: /^Cells by hand/ })).toBeEnabled();
  for (const [x, y] of [
    [60, 20],
    [90, 20],
  ] as const)
    await clickPart(page, [x, y, 0]);
  await expect(drawing).toContainText('2 more: a cell has four corners.');
  for (const [x, y] of [
    [90, 50],
    [60, 50],
  ] as const)
    await clickPart(page, [x, y, 0]);
  await drawing.getByRole('button', { name: /^Cells by hand/ }).click();
  await expect(page.locator('[data-step=draw-quads]')).toContainText('2 cells');

  await stage('Deliver');
  // The cells of each file: of the tray, of its quads, and of what was drawn.
  const cells = async (nth: number) => {
    const waiting = page.waitForEvent('download');
    await page.getByRole('link', { name: /OBJ/ }).nth(nth).click();
    const lines = readFileSync(await (await waiting).path(), 'utf8').split('\n');
    const corners = lines.filter((l) => l.startsWith('v ')).map((l) => l.split(' ').slice(1).map(Number));
    const faces = lines
      .filter((l) => l.startsWith('f '))
      .map((l) =>
        l
          .split(' ')
          .slice(1)
          .map((v) => Number(v) - 1),
      );
    const sides = new Map(faces.flatMap((face) => face.map((v, k) => [v, face[(k + 1) % face.length]!].sort((a, b) => a - b))).map((side) => [side.join(), side.map((v) => corners[v]!)]));
    return { faces: faces.map((f) => f.length), corners: corners.length, sides: [...sides.values()] };
  };
  expect(await cells(0)).toMatchObject({ faces: Array.from({ length: 10 }, () => 3), corners: 8 });
  const quads = await cells(1);
  expect(new Set(quads.faces)).toEqual(new Set([4]));
  // 13,720 mm2 in cells of 7 mm.
  expect(quads.faces.length).toBeGreaterThan(250);
  expect(quads.faces.length).toBeLessThan(310);
  const onStroke = quads.sides.filter((side) => side.every((at) => Math.abs(at[1]! - 31.3) < 0.6 && Math.abs(at[2]!) < 0.01 && at[0]! > 19 && at[0]! < 101));
  expect(onStroke.reduce((sum, [a, b]) => sum + Math.abs(b![0]! - a![0]!), 0)).toBeGreaterThan(72);
  expect(await cells(2)).toMatchObject({ faces: [4, 4], corners: 6 });
});

/** A ball of 40 mm across, of 3,120 faces in 40 slices and 40 rings. */
const BALL = (() => {
  const at = (ring: number, slice: number): string => {
    const [polar, round] = [(Math.PI * ring) / 40, (2 * Math.PI * slice) / 40];
    return [Math.sin(polar) * Math.cos(round), Math.sin(polar) * Math.sin(round), Math.cos(polar)].map((v) => 20 * v).join(' ');
  };
  const corners = ['0 0 20', ...Array.from({ length: 39 }, (_, r) => Array.from({ length: 40 }, (_, s) => at(r + 1, s))).flat(), '0 0 -20'];
  const number = (ring: number, slice: number): number => (ring === 0 ? 0 : ring === 40 ? corners.length - 1 : 1 + 40 * (ring - 1) + (slice % 40));
  const faces: string[] = [];
  for (let ring = 0; ring < 40; ring++)
    for (let slice = 0; slice < 40; slice++) {
      if (ring < 39) faces.push(`3 ${number(ring, slice)} ${number(ring + 1, slice)} ${number(ring + 1, slice + 1)}`);
      if (ring > 0) faces.push(`3 ${number(ring, slice)} ${number(ring + 1, slice + 1)} ${number(ring, slice + 1)}`);
    }
  return ['OFF', `${corners.length} ${faces.length} 0`, ...corners, ...faces, ''].join('\n');
})();

test('every count of faces is seen on a slider before a part is decimated, and the step gives what was seen', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Ball to lighten');
  await page.locator('[data-upload]').setInputFiles({ name: 'ball.off', mimeType: 'text/plain', buffer: Buffer.from(BALL) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Lighten' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Decimate', exact: true }).click();
  const form = page.getByRole('form', { name: 'Decimate' });
  await form.getByRole('button', { name: /^See every count/ }).click();
  const slider = form.getByLabel('From all faces to few');
  await expect(slider).toHaveValue('0');
  const legend = page.getByRole('img', { name: /^How far the surface would move/ });
  await expect(legend).toContainText('0.2 mm');
  const view = page.locator('canvas').first();
  const whole = await view.screenshot();

  // By keyboard: Tab goes to it, and its arrows move it.
  await slider.focus();
  await slider.press('End');
  await expect(form.getByLabel('Faces', { exact: true })).toHaveValue('100');
  await slider.fill('140');
  const faces = Number(await form.getByLabel('Faces', { exact: true }).inputValue());
  expect(faces).toBe(+(3120 * (100 / 3120) ** 0.7).toPrecision(3));
  await expect(form).toContainText(`${faces} faces, 9.0 %`);
  // A ball of that many equal faces is off by e2 / 6r in their middles, of edges e; vertices at the best place halve that.
  const off = ((4 / Math.sqrt(3)) * 4 * Math.PI * 400) / faces / 120;
  const told = Number(/within\s*([\d.]+) mm/.exec(await form.innerText())?.[1]);
  expect(told).toBeGreaterThan(0.3 * off);
  expect(told).toBeLessThan(1.5 * off);
  await expect(form.locator('[data-file-sizes]')).toContainText(/STL 1[34] KB/);
  await expect.poll(async () => whole.equals(await view.screenshot())).toBe(false);
  const coloured = await view.screenshot();
  await form.getByRole('radio', { name: 'Faces alone' }).click();
  await expect(legend).toBeHidden();
  await expect.poll(async () => coloured.equals(await view.screenshot())).toBe(false);
  expect(await violations(page)).toEqual([]);

  // A bound on the deviation is no count; the slider says so, and takes over again when it is moved.
  await form.getByLabel('Deviation').fill('0.1');
  await form.getByLabel('Deviation').press('Tab');
  await expect(form).toContainText('With a bound on the deviation the count is found when it is carried out.');
  await slider.fill('140');
  await expect(form.getByLabel('Deviation')).toHaveValue('');
  await form.getByRole('button', { name: /^Decimate/ }).click();
  // Each collapse of a closed part takes two faces.
  const there = faces - (faces % 2);
  await expect(page.locator('[data-step=decimate]')).toContainText(`3.1 k → ${there} faces`);
  await expect(page.getByLabel('Tray').getByText(String(there), { exact: true })).toBeVisible();
});
