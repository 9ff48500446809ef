import { expect, type Page, test } from '@playwright/test';
import { clickPart, dragOver, newProject, seen, signIn, violations } from './steps';

const [RADIUS, LENGTH, LEAN] = [15, 40, 0.01];

/** A roller of 30 mm diameter along X, its front end sawn a little askew. */
function roller(): string {
  const [around, along] = [72, 24];
  const points: number[][] = [];
  for (let j = 0; j <= along; j++) {
    for (let i = 0; i < around; i++) {
      const [y, z] = [RADIUS * Math.cos((2 * Math.PI * i) / around), RADIUS * Math.sin((2 * Math.PI * i) / around)];
      points.push([(LENGTH * j) / along + (j === along ? LEAN * y : 0), y, z]);
    }
  }
  const [back, front] = [points.push([0, 0, 0]) - 1, points.push([LENGTH, 0, 0]) - 1];
  const faces: number[][] = [];
  for (let i = 0; i < around; i++) {
    const next = (i + 1) % around;
    for (let j = 0; j < along; j++) {
      const [a, b] = [j * around + i, j * around + next];
      faces.push([a, b, a + around], [b, b + around, a + around]);
    }
    faces.push([back, next, i], [front, along * around + i, along * around + next]);
  }
  return ['OFF', `${points.length} ${faces.length} 0`, ...points.map((p) => p.join(' ')), ...faces.map((f) => `3 ${f.join(' ')}`), ''].join('\n');
}

interface Datum {
  name: string;
  kind: string;
  origin: number[];
  direction: number[];
  radius: number;
  made: string;
  parents: string[];
}

const datums = (page: Page) => page.evaluate(async () => (await (await fetch(location.pathname.replace(/.*projects/, '/api/projects'), { headers: { Accept: 'application/json' } })).json()).snapshot.datums as Datum[]);

test('a datum is suggested its kind, held by another, copied, typed, and found from the shape', async ({ page }) => {
  const problems: string[] = [];
  page.on('console', (message) => message.type() === 'error' && problems.push(message.text()));
  await signIn(page);
  await newProject(page, 'Roller');
  await page.locator('[data-upload]').setInputFiles({ name: 'roller.off', mimeType: 'text/plain', buffer: Buffer.from(roller()) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Orient' }).click();
  const panel = page.getByLabel('Step panel');
  await panel.getByRole('button', { name: 'Add datum', exact: true }).click();
  const form = page.getByRole('form', { name: 'Add datum' });
  const add = async (count: number) => {
    await form.locator('[data-apply]').click();
    await expect.poll(async () => (await datums(page)).length).toBe(count);
  };

  // A click on the round side is taken as what it is; said to be a plane, it stays one until it is made a cylinder.
  await page.getByRole('button', { name: 'Right', exact: true }).click();
  await page.getByRole('button', { name: 'Front', exact: true }).click();
  await clickPart(page, [20, -RADIUS, 0]);
  await expect(form.locator('[data-kind-hint=cylinder]')).toContainText('The surface is a cylinder');
  await expect(form.getByLabel('Kind')).toHaveValue('cylinder');
  await form.getByLabel('Kind').selectOption('plane');
  await expect(form.locator('[data-kind-hint=cylinder]')).toContainText('looks like a cylinder');
  await form.getByRole('button', { name: 'Make it a cylinder' }).click();
  await expect(form).toContainText('ø 30.0');
  expect(await violations(page)).toEqual([]);
  await add(1);

  // A click on a flat place makes the next one a plane, without a word about the kind before.
  await page.getByRole('button', { name: 'Right', exact: true }).click();
  await clickPart(page, [LENGTH, 0, 5]);
  await expect(form.getByLabel('Kind')).toHaveValue('plane');
  await expect(form).toContainText('fit error 0.0');
  await page.keyboard.press('Backspace');
  await expect(form).not.toContainText('fit error');

  // The sawn end, held square to the axis: free it would lean by 0.57 degrees.
  await form.getByLabel('Kind').selectOption('plane');
  await form.getByRole('button', { name: 'Fits freely' }).click();
  await form.getByLabel('Direction').selectOption('square');
  await form.getByLabel('Held by').selectOption('Cylinder 1');
  await clickPart(page, [LENGTH, 0, 5]);
  await expect(form).toContainText('fit error 0.0');
  expect(await violations(page)).toEqual([]);
  await add(2);

  await form.getByRole('radio', { name: 'Datums' }).click();
  await form.getByLabel('How it is made').selectOption('copy');
  await form.getByRole('checkbox', { name: /Plane 1/ }).check();
  await form.getByLabel('Moved by X').fill('-10');
  await add(3);

  await form.getByRole('radio', { name: 'Typed' }).click();
  await form.getByLabel('Kind').selectOption('sphere');
  await expect(form).toContainText('Type the diameter.');
  await form.getByLabel('Centre Z').fill('7.5');
  await form.getByLabel('Diameter').fill('4');
  expect(await violations(page)).toEqual([]);
  await add(4);

  await form.getByRole('radio', { name: 'Shape' }).click();
  await expect(form).toContainText('Choose plane for the mirror');
  await form.getByLabel('Kind').selectOption('line');
  await add(5);
  await expect(page.locator('[data-step=add-datum]').last()).toContainText('Line 1');

  const [bore, end, copy, ball, turned] = (await datums(page)) as [Datum, Datum, Datum, Datum, Datum];
  const across = (d: Datum) => Math.abs(bore.direction.reduce((sum, v, k) => sum + v * d.direction[k]!, 0));
  expect(across(turned)).toBeCloseTo(1, 4);
  expect(turned.made).toBe('revolution');
  expect(bore.radius).toBeCloseTo(RADIUS, 2);
  expect(across(end)).toBeCloseTo(1, 9);
  expect(end.parents).toEqual([bore.name]);
  expect(copy.origin[0]).toBeCloseTo(end.origin[0]! - 10, 9);
  expect(copy.direction).toEqual(end.direction);
  expect(ball).toMatchObject({ kind: 'sphere', origin: [0, 0, 7.5], radius: 2, made: 'typed' });

  // Two datums marked together go together, with a word about the copy that was made of one.
  const row = (name: string) => page.getByRole('button', { name, exact: true });
  await row(end.name).click();
  await row(ball.name).click({ modifiers: ['Control'] });
  await expect(row(end.name)).toHaveAttribute('aria-pressed', 'true');
  await row(ball.name).hover();
  await page.getByRole('button', { name: `More for ${ball.name}` }).click();
  await expect(page.getByRole('button', { name: /Discard 2/ })).toContainText(`${copy.name} was made of it`);
  await page.getByRole('button', { name: /Discard 2/ }).click();
  await expect.poll(async () => (await datums(page)).length).toBe(3);
  expect(problems).toEqual([]);
});

test('a frame is set by what each datum becomes, checked, kept and set again, and a fit shows where it is off', async ({ page }) => {
  const problems: string[] = [];
  page.on('console', (message) => message.type() === 'error' && problems.push(message.text()));
  await signIn(page);
  await newProject(page, 'Roller in its frame');
  await page.locator('[data-upload]').setInputFiles({ name: 'roller.off', mimeType: 'text/plain', buffer: Buffer.from(roller()) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Orient' }).click();
  const panel = page.getByLabel('Step panel');
  const form = page.getByRole('form', { name: 'Add datum' });
  const count = async () => (await datums(page)).length;

  // The frame as it came.
  await panel.getByRole('button', { name: 'Add datum', exact: true }).click();
  await form.getByLabel('Kind').selectOption('frame');
  await expect(form.getByRole('radiogroup', { name: 'Made of' })).toHaveCount(0);
  await form.getByLabel('Name').fill('As it came');
  await form.getByLabel('Name').press('Tab');
  await form.locator('[data-apply]').click();
  await expect.poll(count).toBe(1);

  // Round side and sawn end, each with the colours of its distances.
  await form.getByLabel('Kind').selectOption('cylinder');
  await page.getByRole('button', { name: 'Front', exact: true }).click();
  await clickPart(page, [20, -RADIUS, 0]);
  await expect(page.getByRole('img', { name: /Distance from the fit: from 0\.\d+ mm inside/ })).toBeVisible();
  await form.locator('[data-apply]').click();
  await expect.poll(count).toBe(2);
  await expect(page.getByRole('img', { name: /Distance from the fit/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Right', exact: true }).click();
  await form.getByLabel('Kind').selectOption('plane');
  await clickPart(page, [LENGTH, 0, 5]);
  await expect(form).toContainText('fit error 0.0');
  await form.locator('[data-apply]').click();
  await expect.poll(count).toBe(3);

  // A stroke over the round side is fitted, and coloured, as it is brushed.
  await form.getByRole('radio', { name: 'Brush' }).click();
  await form.getByLabel('Kind').selectOption('cylinder');
  await page.getByRole('button', { name: 'Front', exact: true }).click();
  await form.getByLabel('Width of the brush').fill('200');
  await seen(page, [20, -RADIUS, 0]);
  await dragOver(page, [8, -RADIUS, 0], [32, -RADIUS, 0]);
  await expect(form).toContainText(/ø 30\.\d\d mm, fit error 0\.0\d+ mm over \d+ faces/);
  await expect(page.getByRole('img', { name: /Distance from the fit/ })).toBeVisible();
  await form.getByRole('radio', { name: 'Clicks' }).click();
  await expect(page.getByRole('img', { name: /Distance from the fit/ })).toHaveCount(0);

  // The roller stands on its end, its axis down Z.
  await panel.getByRole('button', { name: 'Set frame', exact: true }).click();
  const frame = page.getByRole('form', { name: 'Set frame' });
  await frame.getByLabel('First datum', { exact: true }).selectOption({ label: 'Cylinder 1' });
  await frame.getByLabel('What the first datum becomes').selectOption('Z');
  await frame.getByLabel('Second datum', { exact: true }).selectOption({ label: 'Plane 1' });
  await expect(page.locator('#view-aside')).toContainText('1 still free');
  await frame.getByLabel('The origin then lies at Z').fill('3');
  await expect(page.getByLabel('Six locks')).toContainText('±');
  expect(await violations(page)).toEqual([]);
  const before = (await datums(page))[1]!.direction;
  await page.keyboard.press('6');
  const view = (await page.locator('[data-view]').boundingBox())!;
  await page.mouse.move(view.x + view.width / 2, view.y + view.height / 2);
  for (let turn = 0; turn < 12; turn++) await page.mouse.wheel(0, -240);
  await frame.locator('[data-apply]').click();
  await expect(page.locator('[data-step=set-frame]')).toHaveAttribute('data-state', 'done');
  const framed = (await datums(page)) as [Datum, Datum, Datum];
  expect(framed[1].direction[2]).toBeCloseTo(1, 6);
  // It was looked at lying, from near one end: the view goes with it.
  await expect
    .poll(() =>
      page.evaluate(
        (places) => {
          const { clientWidth, clientHeight } = document.querySelector('[data-view]')!;
          return places.map((at) => window.emberstoneView!.project(at as [number, number, number])).filter(({ x, y }) => x < 0 || y < 0 || x > clientWidth || y > clientHeight).length;
        },
        framed.map((datum) => datum.origin),
      ),
    )
    .toBe(0);

  // The end is 0.57 degrees askew: outside a tenth of a degree, within one.
  await panel.getByText('Check datums in the frame').click();
  const check = panel.locator('[data-frame-check]');
  await expect(check.getByRole('row', { name: /Plane 1 normal to Z/ }).getByLabel('outside the tolerance')).toBeVisible();
  await expect(check.getByRole('row', { name: /Cylinder 1 axis to Z/ }).getByLabel('within the tolerance')).toBeVisible();
  await panel.getByLabel('Tolerance of angles').fill('1');
  await expect(check.getByLabel('outside the tolerance')).toHaveCount(0);
  expect(await violations(page)).toEqual([]);

  // Back to how it came.
  await frame.getByLabel('First datum', { exact: true }).selectOption({ label: 'As it came' });
  await expect(frame.getByLabel('Second datum', { exact: true })).toHaveCount(0);
  await frame.getByLabel('The origin then lies at Z').fill('0');
  await expect(page.locator('#view-aside')).toContainText('The frame is fully set');
  await frame.locator('[data-apply]').click();
  await expect(page.locator('[data-step=set-frame]').last()).toHaveAttribute('data-state', 'done');
  await expect.poll(async () => Math.max(...(await datums(page))[1]!.direction.map((v, k) => Math.abs(v - before[k]!)))).toBeLessThan(1e-9);
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Deliver' }).click();
  await panel.getByLabel('In the frame').selectOption({ label: 'As it came' });
  await expect(panel.getByRole('link', { name: 'STL' })).toHaveAttribute('href', /&frame=/);
  expect(problems).toEqual([]);
});

test('a body is moved and everything turned by handles in the view', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Roller by hand');
  await page.locator('[data-upload]').setInputFiles({ name: 'roller.off', mimeType: 'text/plain', buffer: Buffer.from(roller()) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  const panel = page.getByLabel('Step panel');
  // The box lies around the roller with a margin of a hundredth of its diagonal on each side.
  const size = [LENGTH + LEAN * RADIUS, 2 * RADIUS, 2 * RADIUS];
  const margin = 0.01 * Math.hypot(size[0]!, size[1]!, size[2]!);
  const middle: [number, number, number] = [size[0]! / 2, 0, 0];
  const body = () => page.evaluate(async () => (await (await fetch(location.pathname.replace(/.*projects/, '/api/projects'), { headers: { Accept: 'application/json' } })).json()).snapshot.bodies[0].transform as number[]);

  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Register' }).click();
  await panel.getByRole('button', { name: 'Move', exact: true }).click();
  const form = page.getByRole('form', { name: 'Move' });
  await form.getByLabel('Moving').selectOption({ label: 'roller' });
  await page.getByRole('button', { name: 'Front', exact: true }).click();
  await expect(form).toContainText('Drag ↔');
  const top: [number, number, number] = [middle[0], 0, RADIUS + margin];
  await dragOver(page, top, [middle[0], 0, RADIUS + margin + 10]);
  await expect.poll(async () => Number(await form.getByLabel('Shift Z').inputValue())).toBeGreaterThan(9);
  const shift = Number(await form.getByLabel('Shift Z').inputValue());
  expect(shift).toBeLessThan(11);
  await form.getByLabel('Turn Y').fill('30');
  await form.locator('[data-apply]').click();
  await expect(page.locator('[data-step=move]')).toHaveAttribute('data-state', 'done');
  const m = await body();
  expect(m[0]).toBeCloseTo(Math.cos(Math.PI / 6), 9);
  // Turned about its middle: that went up by the shift and no other way.
  expect(m[0]! * middle[0] + m[3]!).toBeCloseTo(middle[0], 2);
  expect(m[8]! * middle[0] + m[11]!).toBeCloseTo(shift, 2);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => (await body())[0]).toBe(1);
  // The page knows it too.
  await expect(page.getByRole('button', { name: /^Redo/ })).toBeEnabled();

  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Orient' }).click();
  await panel.getByRole('button', { name: 'Turn', exact: true }).click();
  const turn = page.getByRole('form', { name: 'Turn' });
  await turn.getByRole('radio', { name: 'middle' }).click();
  await expect(turn).toContainText('Drag ↻');
  await page.getByRole('button', { name: 'Top', exact: true }).click();
  // The ring about Z stands on the box's upright edge.
  const [u, v] = [size[0]! / 2 + margin, size[1]! / 2 + margin];
  const angle = (50 * Math.PI) / 180;
  await dragOver(page, [middle[0] + u, v, 0], [middle[0] + u * Math.cos(angle) - v * Math.sin(angle), u * Math.sin(angle) + v * Math.cos(angle), 0]);
  await expect(turn.getByRole('radio', { name: 'z' })).toHaveAttribute('aria-checked', 'true');
  await expect.poll(async () => Math.abs(Number(await turn.getByLabel('Angle').inputValue()) - 50)).toBeLessThan(3);
  expect(await violations(page)).toEqual([]);
});
