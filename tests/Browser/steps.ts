import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';

export async function signIn(page: Page, who: 'tess' | 'ada' = 'tess'): Promise<void> {
  await page.goto('/');
  await page.getByLabel('E-mail').fill(`${who}@orchard-press.example`);
  await page.getByLabel('Password').fill(who === 'tess' ? 'browser-test-1' : 'browser-test-3');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('heading', { name: 'Projects' })).toBeVisible();
}

export async function newProject(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'New project' }).click();
  await page.getByLabel('Name').fill(name);
  await page.getByRole('button', { name: 'Create project' }).click();
  await expect(page.getByText('The part appears here')).toBeVisible();
}

/** What axe finds on the page as it stands. */
export async function violations(page: Page): Promise<string[]> {
  return (await new AxeBuilder({ page }).analyze()).violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target).join(' ')}`);
}

/** Waits until a place of the part, in project millimetres, is the one that is drawn there: the view draws on the next frames. */
export async function seen(page: Page, point: [number, number, number]): Promise<void> {
  await page.waitForFunction((p) => {
    const view = window.emberstoneView;
    const hit = view?.pick(view.project(p as [number, number, number]));
    return hit !== undefined && Math.hypot(hit.pointMm[0] - (p[0] ?? 0), hit.pointMm[1] - (p[1] ?? 0), hit.pointMm[2] - (p[2] ?? 0)) < 1.5;
  }, point);
}

/** Clicks a place of the part once it is drawn there. */
export async function clickPart(page: Page, point: [number, number, number], held: readonly ('Control' | 'Shift')[] = []): Promise<void> {
  await seen(page, point);
  const at = await page.evaluate((p) => window.emberstoneView?.project(p as [number, number, number]), point);
  const box = await page.locator('[data-view]').boundingBox();
  if (!at || !box) throw new Error('no view');
  for (const key of held) await page.keyboard.down(key);
  await page.mouse.click(box.x + at.x, box.y + at.y);
  for (const key of held) await page.keyboard.up(key);
}

/** Drags over project points one after the other, as they lie in the view. */
export async function dragOver(page: Page, ...over: [number, number, number][]): Promise<void> {
  const view = await page.locator('[data-view]').boundingBox();
  const at = async (p: [number, number, number]) => {
    const s = await page.evaluate((q) => window.emberstoneView?.project(q), p);
    return { x: (view?.x ?? 0) + (s?.x ?? 0), y: (view?.y ?? 0) + (s?.y ?? 0) };
  };
  const [first, ...rest] = await Promise.all(over.map(at));
  if (!first) return;
  await page.mouse.move(first.x, first.y);
  await page.mouse.down();
  let last = first;
  for (const next of rest) {
    await page.mouse.move((last.x + next.x) / 2, (last.y + next.y) / 2);
    await page.mouse.move(next.x, next.y);
    last = next;
  }
  await page.mouse.up();
}

/** Opens a tool of a stage and applies it; waits until the ledger shows it done. */
export async function apply(page: Page, stage: string, label: string, operation: string, nth = 0, before?: () => Promise<void>): Promise<void> {
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: stage }).click();
  const form = page.getByRole('form', { name: label });
  await page.getByLabel('Step panel').getByRole('button', { name: label, exact: true }).click();
  await before?.();
  await form.getByRole('button', { name: label }).click();
  await expect(page.locator(`[data-step="${operation}"]`).nth(nth)).toHaveAttribute('data-state', /done|failed/);
  await expect(page.locator(`[data-step="${operation}"]`).nth(nth)).toHaveAttribute('data-state', 'done');
}
