import { expect, type Page, test } from '@playwright/test';
import { clickPart, newProject, signIn, violations } from './steps';

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

  await open('Fill holes');
  const rims = page.getByLabel('Open rims');
  await expect(rims).toContainText('2 of 2 rims to close');
  await page.keyboard.press('5');
  const rim = RADIUS * Math.cos((Math.PI * 7) / 37) - 0.4;
  await clickPart(page, onBall(rim, 0.6));
  await expect(rims.getByLabel('Rim 1')).toHaveValue('later');
  await rims.getByLabel('Rim 2').selectOption('leave open');
  await expect(rims).toContainText('0 of 2 rims to close');
  expect(await violations(page)).toEqual([]);
  await done('fill-holes');
  await expect(page.locator('[data-line=closed]')).toHaveAttribute('data-state', 'bad');
  expect(await figures(page)).toMatchObject({ holeCount: 2, leftOpen: 1 });

  await open('Lay strip');
  for (const angle of [1.35, 1.8, -1.8, -1.35]) {
    await expect(panel.locator('[data-apply]')).toBeDisabled();
    await clickPart(page, onBall(rim, angle));
  }
  await done('lay-strip');
  expect(await figures(page)).toMatchObject({ holeCount: 3, faultCount: 0 });

  await open('Fill part of a hole');
  for (const angle of [0.9, 0.1, 0.5]) await clickPart(page, onBall(rim, angle));
  await done('fill-part');
  expect(await figures(page)).toMatchObject({ holeCount: 3, faultCount: 0 });

  // What was left open stays so without a word.
  await open('Fill holes');
  await expect(rims).toContainText('2 of 3 rims to close');
  await done('fill-holes', 2);
  expect(await figures(page)).toMatchObject({ holeCount: 1, leftOpen: 1, faultCount: 0 });
  await expect(page.locator('[data-line=closed]')).toHaveAttribute('data-state', 'good');
  expect(problems).toEqual([]);
});
