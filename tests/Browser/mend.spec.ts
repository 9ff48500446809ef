import { expect, type Page, test } from '@playwright/test';
import { dragOver, newProject, seen, signIn, violations } from './steps';

const RADIUS = 20;
type Point = [number, number, number];

/** A place of the ball, by its height and its angle around. */
function onBall(z: number, angle: number): Point {
  const r = Math.sqrt(RADIUS * RADIUS - z * z);
  return [r * Math.cos(angle), r * Math.sin(angle), z];
}

/** A ball finial of 40 mm with a wide hole on top and a small one at the front, and one needle beside it. */
function ballWithHoles(): string {
  const [around, down] = [48, 30];
  const points: Point[] = [];
  for (let j = 0; j < down; j++) for (let i = 0; i < around; i++) points.push(onBall(RADIUS * Math.cos((Math.PI * (j + 7)) / (down + 7)), (2 * Math.PI * i) / around));
  const south = points.push([0, 0, -RADIUS]) - 1;
  const faces: number[][] = [];
  for (let j = 0; j < down; j++) {
    for (let i = 0; i < around; i++) {
      const [a, b] = [j * around + i, j * around + ((i + 1) % around)];
      if (j === down - 1) faces.push([a, south, b]);
      // Four by four squares are missing at the front.
      else if (!(j >= 8 && j < 12 && i >= 34 && i < 38)) faces.push([a, a + around, b], [b, a + around, b + around]);
    }
  }
  points[14 * around + 30] = points[14 * around + 30]!.map((v) => 1.2 * v) as Point;
  return ['OFF', `${points.length} ${faces.length} 0`, ...points.map((p) => p.join(' ')), ...faces.map((f) => `3 ${f.join(' ')}`), ''].join('\n');
}

const figures = (page: Page) => page.evaluate(async () => (await (await fetch(location.pathname.replace(/.*projects/, '/api/projects'), { headers: { Accept: 'application/json' } })).json()).snapshot.bodies[0].figures as { holeCount: number; leftOpen: number; closed: boolean; faultCount: number });

test('faults are found, spikes laid down, holes bridged, closed in part, picked and left open', async ({ page }) => {
  const problems: string[] = [];
  page.on('console', (message) => message.type() === 'error' && problems.push(message.text()));
  await signIn(page);
  await newProject(page, 'Ball finial');
  await page.locator('[data-upload]').setInputFiles({ name: 'finial.off', mimeType: 'text/plain', buffer: Buffer.from(ballWithHoles()) });
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Mend' }).click();
  const panel = page.getByLabel('Step panel');
  const open = (name: string) => panel.getByRole('button', { name, exact: true }).click();
  const done = async (operation: string, times = 1) => {
    await panel.locator('[data-apply]').click();
    await expect(page.locator(`[data-step=${operation}][data-state=done]`)).toHaveCount(times);
  };

  await open('Inspect');
  await panel.locator('[data-apply]').click();
  const faults = page.getByLabel('Faults');
  await expect(faults.locator('[data-fault=openEdges]')).toContainText('Open rims2');
  await page.getByRole('button', { name: 'Next: Open rims' }).click();
  await expect(faults).toContainText('Place 1 of 2: 48 edges');
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Drop the trial' }).click();

  await open('Despike');
  await panel.getByRole('button', { name: 'Try it first' }).click();
  await expect(page.locator('[data-trial=done]')).toContainText('1 spike laid down');
  await expect(page.getByLabel('Spikes')).toContainText(/[34]\.\d\d mm high/);
  await panel.getByRole('button', { name: 'Apply what was tried' }).click();
  await expect(page.locator('[data-step=despike]')).toHaveAttribute('data-state', 'done');

  await open('Close holes');
  const rims = page.getByLabel('Open rims');
  await expect(rims).toContainText('2 of 2 rims to close');
  await expect(rims.locator('[data-hole="1"]')).toContainText(/\d+ mm²/);
  // All up to a width: none is so narrow, and then all are.
  for (const [width, words] of [
    ['0.1', '0 of 2 rims to close'],
    ['3 in', '2 of 2 rims to close'],
  ] as const) {
    await rims.getByLabel('Close all up to').fill(width);
    await rims.getByLabel('Close all up to').press('Tab');
    await expect(rims).toContainText(words);
  }
  await page.keyboard.press('5');
  const rim = RADIUS * Math.cos((Math.PI * 7) / 37);
  // The corners of the rim lie 7.5 degrees apart.
  const corner = (k: number) => onBall(rim, (k * Math.PI) / 24);
  await seen(page, onBall(rim - 0.4, 0.6));
  const clickRim = async (at: Point, times = 1) => {
    const place = await page.evaluate((p) => window.emberstoneView?.project(p as Point), at);
    const box = await page.locator('[data-view]').boundingBox();
    await page.mouse.click((box?.x ?? 0) + (place?.x ?? 0), (box?.y ?? 0) + (place?.y ?? 0), { clickCount: times });
  };
  // One beside all rims is told, and nothing is lost by it.
  await clickRim([0, 0, 0]);
  await expect(page.getByText('No rim within 12 pixels')).toBeVisible();
  await clickRim(onBall(rim - 0.4, 0.6));
  await expect(rims.getByLabel('Rim 1', { exact: true })).toHaveValue('later');
  await expect(page.getByText('No rim within 12 pixels')).toBeHidden();
  await page.keyboard.press('Control+z');
  await expect(rims.getByLabel('Rim 1', { exact: true })).toHaveValue('close');
  await expect(page.locator('[data-step=despike]')).toHaveAttribute('data-state', 'done');
  await clickRim(corner(5), 2);
  await expect(rims.getByLabel('Rim 1', { exact: true })).toHaveValue('open');
  await rims.getByLabel('Rim 1', { exact: true }).selectOption('not now');
  await rims.getByLabel('Rim 2', { exact: true }).selectOption('leave open');
  await expect(rims).toContainText('0 of 2 rims to close');
  expect(await violations(page)).toEqual([]);
  await done('fill-holes');
  await expect(page.locator('[data-line=closed]')).toHaveAttribute('data-state', 'bad');
  expect(await figures(page)).toMatchObject({ holeCount: 2, leftOpen: 1 });

  // A strip between two stretches of the wide rim, and one side of it closed, in one step; a stretch that waits is dropped by Esc.
  await dragOver(page, corner(20), corner(22), corner(24));
  await expect(rims).toContainText('Now click the side of the rim');
  await expect(panel.locator('[data-apply]')).toBeDisabled();
  await page.keyboard.press('Escape');
  await expect(rims).not.toContainText('Now click the side of the rim');
  await dragOver(page, corner(10), corner(11), corner(12), corner(13), corner(14));
  await dragOver(page, corner(-14), corner(-13), corner(-12), corner(-11), corner(-10));
  const laid = rims.getByRole('list', { name: 'Parts and strips' });
  await expect(laid).toContainText('Strip from rim 1 to rim 1, 5.9 to 5.9 mm wide');
  await dragOver(page, corner(7), corner(5), corner(3), corner(1));
  await clickRim(corner(4));
  await expect(laid).toContainText(/Part of rim 1, \d/);
  // A step that fails brings back everything that was drawn: here it is sent with one more part, where there is no rim.
  await page.route(
    /\/api\/projects\/[^/]+\/steps$/,
    (route) => {
      const sent = route.request().postDataJSON();
      sent.parameters.parts.push({ ...sent.parameters.parts[0], from: [0, 0, -RADIUS] });
      return route.continue({ postData: JSON.stringify(sent) });
    },
    { times: 1 },
  );
  await panel.locator('[data-apply]').click();
  const failed = page.locator('[data-step=fill-holes][data-state=failed]');
  await expect(failed).toContainText('is not here any more');
  await page.keyboard.press('Escape');
  await failed.getByRole('button', { name: 'Change' }).click();
  await expect(laid.getByRole('listitem')).toHaveCount(2);
  await expect(laid).toContainText('Strip from rim 1 to rim 1, 5.9 to 5.9 mm wide');
  await expect(laid).toContainText(/Part of rim 1, \d/);
  await done('fill-holes', 2);
  expect(await figures(page)).toMatchObject({ holeCount: 3, faultCount: 0 });
  await expect(page.locator('[data-step=fill-holes]').last()).toContainText('1 part closed, 1 strip laid');

  // The same by keys alone: a strip is begun and dropped, and a part of the widest rim is closed.
  await rims.getByRole('button', { name: 'None' }).press('Enter');
  const stretch = rims.getByRole('group', { name: 'Stretch of rim 1' });
  await rims.getByRole('button', { name: 'Stretch of rim 1' }).press('Enter');
  await stretch.getByRole('button', { name: 'Begin a strip' }).press('Enter');
  await expect(rims).toContainText('Now click the side of the rim');
  await rims.getByRole('button', { name: 'Stretch of rim 1' }).press('Enter');
  await stretch.getByRole('slider', { name: 'begins' }).press('End');
  await stretch.getByRole('button', { name: 'Lay the strip to here' }).press('Enter');
  await expect(laid).toContainText('Strip from rim 1 to rim 1');
  await page.keyboard.press('Control+z');
  await rims.getByRole('button', { name: 'Stretch of rim 1' }).press('Enter');
  await stretch.getByRole('slider', { name: 'How long' }).press('ArrowRight');
  await stretch.getByRole('button', { name: 'Close it' }).press('Enter');
  await expect(laid.getByRole('listitem')).toHaveText([/^Part of rim 1, \d/]);
  expect(await violations(page)).toEqual([]);
  await done('fill-holes', 3);
  expect(await figures(page)).toMatchObject({ holeCount: 3, faultCount: 0 });
  await expect(page.locator('[data-step=fill-holes]').last()).toContainText('1 part closed');

  // What was left open stays so without a word; the slider shapes what is new.
  await expect(rims).toContainText('2 of 3 rims to close');
  await panel.getByRole('slider', { name: 'New surface goes on' }).fill('0.75');
  await expect(panel.locator('output')).toHaveText('50 % from along the slope to with the bend');
  await done('fill-holes', 4);
  expect(await figures(page)).toMatchObject({ holeCount: 1, leftOpen: 1, faultCount: 0 });
  await expect(page.locator('[data-line=closed]')).toHaveAttribute('data-state', 'good');
  expect(problems).toEqual([]);
});
