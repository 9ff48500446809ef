import { readdirSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { apply, newProject, signIn, violations } from './steps';

const passes = process.env.EMBERSTONE_PASSES ?? '';

interface Placed {
  id: string;
  name: string;
  transform: number[];
  residual: number | null;
}

/** The passes as the server holds them. */
const placed = (page: Page): Promise<Placed[]> => page.evaluate(async () => (await (await fetch(`/api${location.pathname}`)).json()).snapshot.passes);

/** Where a transform brings a point. */
const moved = (m: number[], [x, y, z]: [number, number, number]): [number, number, number] => [0, 4, 8].map((r) => m[r]! * x + m[r + 1]! * y + m[r + 2]! * z + m[r + 3]!) as [number, number, number];

const apart = (a: number[], b: number[]): number => {
  // The corners of the part, as far as either transform brings them from the other.
  const corners: [number, number, number][] = [
    [60, 35, 0],
    [-60, 35, 0],
    [60, -35, 0],
    [0, 0, 79],
  ];
  return Math.max(...corners.map((c) => Math.hypot(...moved(a, c).map((v, k) => v - moved(b, c)[k]!))));
};

/** Places on the screen that show the same place of the part on a pass that was shifted and on one that was not, far from each other. */
const shared = (page: Page, away: [number, number, number], itemId: string): Promise<{ at: number[]; from: { x: number; y: number }; to: { x: number; y: number } }[]> =>
  page.evaluate(
    ([shift, moving]) => {
      const view = window.emberstoneView;
      const box = document.querySelector('[data-view]')?.getBoundingClientRect();
      if (!view || !box) return [];
      const found: { at: number[]; from: { x: number; y: number }; to: { x: number; y: number } }[] = [];
      for (let x = -55; x <= 55; x += 5) {
        for (const [y, z] of [
          [-30, 14],
          [-15, 14],
          [15, 14],
          [30, 14],
          [-25, 79],
          [0, 79],
          [25, 79],
        ] as const) {
          if ((z > 14 && x !== 0) || (z === 14 && Math.abs(x) < 30)) continue;
          const at = [x, y, z] as const;
          const moved = at.map((v, k) => v + (shift[k] ?? 0)) as [number, number, number];
          const [to, from] = [view.project([...at]), view.project(moved, moving)];
          const off = (p: readonly number[] | undefined, q: readonly number[]): number => (p ? Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!, p[2]! - q[2]!) : Infinity);
          if (off(view.pick(to)?.pointMm, at) > 3.5 || off(view.pick(from)?.pointMm, moved) > 3.5 || found.some((f) => off(f.at, at) < 20)) continue;
          found.push({ at: [...at], from: { x: box.x + from.x, y: box.y + from.y }, to: { x: box.x + to.x, y: box.y + to.y } });
        }
      }
      return found;
    },
    [away, itemId] as const,
  );

/** Simulates a scan by its form. A density, in points a square centimetre, may be below what the rig would take, where fewer points tell the same. */
async function simulate(page: Page, part: string, rig: string, { dots = false, density }: { dots?: boolean; density?: string } = {}): Promise<void> {
  await page.getByRole('button', { name: 'Simulate a scan' }).click();
  await page.getByLabel('Part').selectOption(part);
  await page.getByLabel('Rig').selectOption(rig);
  if (density) {
    await page.getByLabel('Density').fill(density);
    await page.getByLabel('Density').press('Tab');
  }
  if (dots) {
    await page.getByLabel('Marker dots').check();
    await page.getByLabel('Spacing of dots').fill('20');
    await page.getByLabel('Spacing of dots').press('Tab');
  }
  await page
    .getByRole('form', { name: 'Simulate a scan' })
    .getByRole('button', { name: /^Simulate a scan/ })
    .click();
  await expect(page.locator('[data-step=simulate]')).toHaveAttribute('data-state', 'done');
}

test('a pass is moved by hand, brought back by pairs picked in the view, and tightened', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Two passes by pairs');
  // With all the points of the rig: two passes that share little are held by them.
  await page.locator('[data-upload]').setInputFiles(['01', '02'].map((k) => `${passes}/dense/pass-${k}.ply`));
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await apply(page, 'Gather', 'Drop the base', 'drop-base');
  await apply(page, 'Register', 'Register', 'register');
  const [first, second] = await placed(page);
  expect(second!.residual).toBeLessThan(0.1);

  // By hand: typed, far enough to stand beside the other.
  const away: [number, number, number] = [160, 12, 5];
  await apply(page, 'Register', 'Move', 'move', 0, async () => {
    const form = page.getByRole('form', { name: 'Move' });
    await form.getByLabel('Moving').selectOption({ label: 'pass-02' });
    for (const [k, axis] of ['X', 'Y', 'Z'].entries()) await form.getByLabel(`Shift ${axis}`).fill(String(away[k]));
    await form.getByLabel('Shift Z').press('Tab');
  });
  const thrown = (await placed(page))[1]!;
  expect(apart(thrown.transform, second!.transform)).toBeGreaterThan(100);

  // The same places, first on what moves, then on what stays: such as both passes show from above.
  let last: number[] = [];
  await apply(page, 'Register', 'Pair points', 'pair-points', 0, async () => {
    const form = page.getByRole('form', { name: 'Pair points' });
    await form.getByLabel('Moving').selectOption({ label: 'pass-02' });
    await page.getByRole('group', { name: 'Standard views' }).getByRole('button', { name: 'Top' }).click();
    await page.getByRole('group', { name: 'Standard views' }).getByRole('button', { name: 'Fit' }).click();
    await expect.poll(async () => (await shared(page, away, thrown.id)).length).toBeGreaterThan(2);
    const places = await shared(page, away, thrown.id);
    expect(places.length).toBeGreaterThan(3);
    const pairs = page.getByRole('list', { name: 'Picked pairs' });
    for (const [k, { at, from, to }] of places.entries()) {
      await page.mouse.click(from.x, from.y);
      await page.mouse.click(to.x, to.y);
      last = at;
      await expect(pairs.getByRole('listitem')).toHaveCount(2 * k + 2);
      // From three on a copy shows where they would bring it; what moves stays where the next is picked.
      if (k > 1) await expect(pairs.getByText(/^\d\.\d\d mm off$/)).toHaveCount(k + 1);
    }
    await expect(pairs.getByText('fixed · pass-01')).toHaveCount(places.length);
    await expect(pairs.getByText('moving · pass-02')).toHaveCount(places.length);
    expect(await violations(page)).toEqual([]);
  });
  // Done again, its picks are there, to be bettered: one is taken back and picked anew.
  const list = page.getByRole('list', { name: 'Picked pairs' }).getByRole('listitem');
  await page.locator('[data-step=pair-points]').click();
  await page.getByRole('button', { name: 'Pick again' }).click();
  await expect(page.getByText('The pale copy shows where these pairs would bring it.')).toBeVisible();
  const many = await list.count();
  expect(many).toBeGreaterThan(5);
  await page.keyboard.press('Backspace');
  await expect(list).toHaveCount(many - 1);
  const again = await page.evaluate((at) => {
    const box = document.querySelector('[data-view]')!.getBoundingClientRect();
    const { x, y } = window.emberstoneView!.project(at as [number, number, number]);
    return { x: box.x + x, y: box.y + y };
  }, last);
  await page.mouse.click(again.x, again.y);
  await expect(list).toHaveCount(many);
  await page.getByRole('form', { name: 'Pair points' }).getByRole('button', { name: 'Pair points' }).click();
  await expect(page.locator('[data-step=pair-points][data-state=done]')).toBeVisible();
  const [still, paired] = await placed(page);
  expect(still!.transform).toEqual(first!.transform);
  expect(apart(paired!.transform, second!.transform)).toBeLessThan(8);
  await apply(page, 'Register', 'Register', 'register', 1);
  const tight = (await placed(page))[1]!;
  expect(tight.residual).toBeLessThan(0.1);
  expect(apart(tight.transform, second!.transform)).toBeLessThan(0.15);
});

test('heads find each other by the dots on the part', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Dotted target under the ring');
  await simulate(page, 'target', 'ring', { dots: true, density: '50' });
  await apply(page, 'Register', 'Match by dots', 'match-markers');
  await apply(page, 'Register', 'Register', 'register');
  for (const pass of await placed(page)) expect(pass.residual ?? 0).toBeLessThan(0.1);
});

test('heads that nobody has put together find each other by shape, and the report says how well', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Assembly under the ring');
  await simulate(page, 'assembly', 'ring', { density: '150' });
  await apply(page, 'Register', 'Match', 'match');
  await apply(page, 'Register', 'Register', 'register');
  for (const pass of await placed(page)) expect(pass.residual ?? 0).toBeLessThan(0.1);
  await page.locator('[data-step=register]').click();
  await expect(page.getByRole('img', { name: /^Half of the points lie within 0\.0\d\d mm/ })).toBeVisible();
  await expect(page.getByRole('img', { name: /^4 passes, \d pairs with surface in common; the weakest link joins/ })).toBeVisible();
  const matrix = page.getByRole('region', { name: 'Residuals by pair' });
  await expect(matrix).toBeVisible();
  await page.getByRole('radio', { name: 'How much in common' }).click();
  await expect(page.getByText('Per cent of what was seen that both saw')).toBeVisible();
  await expect(page.getByRole('table', { name: 'Where each pass went' }).getByRole('row')).toHaveCount(5);
  await page.getByRole('radio', { name: 'Before' }).click();
  await expect(page.getByRole('radio', { name: 'Before' })).toHaveAttribute('aria-checked', 'true');
  await page.getByRole('radio', { name: 'After' }).click();
  expect(await violations(page)).toEqual([]);
});

test('heads solved on the target place a later capture in one click', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Target of the morning');
  await simulate(page, 'target', 'ring');
  await apply(page, 'Register', 'Solve fixture', 'solve-fixture');
  const heads = await placed(page);
  await page.locator('[data-step=solve-fixture]').click();
  await expect(page.getByRole('region', { name: 'Heads' }).getByRole('row')).toHaveText([/balls\s*flat faces/, /Target 16[45]0\.0/, /Target 26[45]0\.0/, /Target 36[45]0\.0/, /Target 46[45]0\.0/]);
  // What is known of another target comes as a file: here two balls of the same one and its plate.
  const file = (name: string, target: unknown) => page.locator('[data-target]').setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(target)) });
  await apply(page, 'Register', 'Solve fixture', 'solve-fixture', 1, async () => {
    await file('bare.json', { target: 1, balls: [[-95, -65, 34]] });
    await expect(page.getByText('bare.json has 1 balls and 0 flat faces; a pose needs three or more in all.')).toBeVisible();
    await file('plate.json', {
      target: 1,
      diameter: 25,
      balls: [
        [-95, -65, 34],
        [-80, 70, 54],
      ],
      planes: [[0, 0, 12, 0, 0, 1]],
    });
    await expect(page.getByRole('radio', { name: 'plate.json 2 balls, 1 flat face' })).toBeChecked();
  });
  for (const [k, pass] of (await placed(page)).entries()) expect(apart(pass.transform, heads[k]!.transform)).toBeLessThan(0.05);
  await page.goto('/');
  await newProject(page, 'Cap under the ring');
  await simulate(page, 'cap', 'ring', { density: '150' });
  expect(apart((await placed(page))[1]!.transform, heads[1]!.transform)).toBeGreaterThan(10);
  await apply(page, 'Register', 'Apply fixture', 'apply-fixture', 0, async () => {
    await page
      .getByRole('radio', { name: /Target of the morning/ })
      .first()
      .check();
    await page.getByLabel('Later captures too').check();
  });
  const now = await placed(page);
  for (const [k, head] of heads.entries()) expect(apart(now[k]!.transform, head.transform)).toBeLessThan(0.01);
  // That the poses are right the passes say themselves: they lie on each other before anything is tightened.
  await apply(page, 'Register', 'Register', 'register');
  for (const [k, pass] of (await placed(page)).entries()) expect(apart(pass.transform, now[k]!.transform)).toBeLessThan(0.2);
  // What the heads capture later is placed without a click, in a step of its own that can be undone.
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Gather' }).click();
  await page.getByLabel('Step panel').getByRole('button', { name: 'Simulate a scan', exact: true }).click();
  await page.getByLabel('Part').selectOption('cap');
  await page.getByLabel('Rig').selectOption('ring');
  await page.getByLabel('Density').fill('150');
  await page.getByLabel('Density').press('Tab');
  await page
    .getByRole('form', { name: 'Simulate a scan' })
    .getByRole('button', { name: /^Simulate a scan/ })
    .click();
  await expect(page.locator('[data-step=apply-fixture][data-state=done]')).toHaveCount(2);
  const later = (await placed(page)).slice(now.length);
  expect(later).toHaveLength(heads.length);
  for (const [k, pass] of later.entries()) expect(apart(pass.transform, heads[k]!.transform)).toBeLessThan(0.01);
});

/** The transform of a body as the server holds it. */
const bodyAt = (page: Page, name: string): Promise<number[]> => page.evaluate(async (wanted) => (await (await fetch(`/api${location.pathname}`)).json()).snapshot.bodies.find((b: { name: string }) => b.name === wanted).transform, name);

/** Places on the screen where a body shows a place that another shows too, so far away from it; spread over the view. */
const sharedBy = (page: Page, away: [number, number, number], wanted: number): Promise<{ from: { x: number; y: number }; to: { x: number; y: number } }[]> =>
  page.evaluate(
    ([shift, many]) => {
      const view = window.emberstoneView;
      const box = document.querySelector('[data-view]')?.getBoundingClientRect();
      if (!view || !box) return [];
      const found: { at: readonly number[]; from: { x: number; y: number }; to: { x: number; y: number } }[] = [];
      for (let x = 40; x < box.width - 40 && found.length < many; x += 22) {
        for (let y = 40; y < box.height - 40 && found.length < many; y += 22) {
          const from = { x, y };
          const hit = view.pick(from)?.pointMm;
          if (!hit || found.some((f) => Math.hypot(...f.at.map((v, k) => v - hit[k]!)) < 25)) continue;
          const there = hit.map((v, k) => v - shift[k]!) as [number, number, number];
          const to = view.project(there);
          const seen = view.pick(to)?.pointMm;
          if (seen && Math.hypot(...seen.map((v, k) => v - there[k]!)) < 1.5) found.push({ at: hit, from: { x: box.x + x, y: box.y + y }, to: { x: box.x + to.x, y: box.y + to.y } });
        }
      }
      return found;
    },
    [away, wanted] as const,
  );

test('a body is placed on a rough one by datums and by picked pairs, and both stay', async ({ page }) => {
  await signIn(page);
  await newProject(page, 'Good on rough');
  await page.locator('[data-upload]').setInputFiles(
    readdirSync(passes)
      .filter((f) => /^pass-0[1-4]\./.test(f))
      .map((f) => `${passes}/${f}`),
  );
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await apply(page, 'Gather', 'Drop the base', 'drop-base');
  await apply(page, 'Register', 'Register', 'register');
  for (const [k, [name, voxel]] of [
    ['Rough', '2'],
    ['Good', '1.2'],
  ].entries()) {
    await apply(page, 'Fuse', 'Fuse', 'fuse', k, async () => {
      const form = page.getByRole('form', { name: 'Fuse' });
      await form.getByLabel('Voxel').fill(voxel!);
      await form.getByLabel('Name').fill(name!);
      await form.getByLabel('Name').press('Tab');
    });
  }
  const home = await bodyAt(page, 'Good');
  const away: [number, number, number] = [160, 12, 5];
  const throwAway = async (nth: number) => {
    await apply(page, 'Register', 'Move', 'move', nth, async () => {
      const form = page.getByRole('form', { name: 'Move' });
      await form.getByLabel('Moving').selectOption({ label: 'Good' });
      for (const [k, axis] of ['X', 'Y', 'Z'].entries()) await form.getByLabel(`Shift ${axis}`).fill(String(away[k]));
      await form.getByLabel('Shift Z').press('Tab');
    });
    expect(apart(await bodyAt(page, 'Good'), home)).toBeGreaterThan(100);
  };
  const place = (nth: number, start: string, choose: () => Promise<void>) =>
    apply(page, 'Register', 'Place', 'place', nth, async () => {
      const form = page.getByRole('form', { name: 'Place' });
      await form.getByLabel('Moving').selectOption({ label: 'Good' });
      await form.getByLabel('Onto').selectOption({ label: 'Rough' });
      await form.getByLabel('Rough placing').getByText(start).click();
      await choose();
    });
  await throwAway(0);

  // Datums of both, by the form's own request.
  for (const [name, seed] of [
    ['Good foot', [210, 32, 19]],
    ['Rough foot', [50, 20, 14]],
    ['Good bore', [160, 14, 42]],
    ['Rough bore', [0, 2, 37]],
  ] as const) {
    const kind = name.endsWith('foot') ? 'plane' : 'cylinder';
    await page.evaluate(
      async (parameters) => {
        const token = decodeURIComponent(document.cookie.match(/XSRF-TOKEN=([^;]+)/)?.[1] ?? '');
        await fetch(`/api${location.pathname}/steps`, { method: 'POST', headers: { Accept: 'application/json', 'Content-Type': 'application/json', 'X-XSRF-TOKEN': token }, body: JSON.stringify({ operation: 'add-datum', parameters }) });
      },
      { name, kind, seed, angle: 20 },
    );
  }
  await expect(page.locator('[data-step=add-datum][data-state=done]')).toHaveCount(4);
  await place(0, 'datums', async () => {
    const form = page.getByRole('form', { name: 'Place' });
    await expect(form.getByRole('button', { name: /^Place/ })).toBeDisabled();
    for (const [ordinal, what] of [
      ['First', 'foot'],
      ['Second', 'bore'],
    ]) {
      await form.getByLabel(`${ordinal} datum of what moves`).selectOption({ label: `Good ${what}` });
      await form.getByLabel(`What the ${ordinal!.toLowerCase()} one comes to lie on`).selectOption({ label: `Rough ${what}` });
    }
    expect(await violations(page)).toEqual([]);
  });
  expect(apart(await bodyAt(page, 'Good'), home)).toBeLessThan(0.15);

  await throwAway(1);
  await place(1, 'pairs', async () => {
    await page.getByRole('group', { name: 'Standard views' }).getByRole('button', { name: 'Top' }).click();
    await page.getByRole('group', { name: 'Standard views' }).getByRole('button', { name: 'Fit' }).click();
    await expect.poll(async () => (await sharedBy(page, away, 4)).length).toBe(4);
    for (const { from, to } of await sharedBy(page, away, 4)) {
      await page.mouse.click(from.x, from.y);
      await page.mouse.click(to.x, to.y);
    }
    await expect(page.getByRole('list', { name: 'Picked pairs' }).getByRole('listitem')).toHaveCount(8);
  });
  expect(apart(await bodyAt(page, 'Good'), home)).toBeLessThan(0.15);
  expect(await page.evaluate(async () => (await (await fetch(`/api${location.pathname}`)).json()).snapshot.bodies.length)).toBe(2);
});
