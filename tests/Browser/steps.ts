import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';

export async function signIn(page: Page): Promise<void> {
  await page.goto('/');
  await page.getByLabel('E-mail').fill('tess@orchard-press.example');
  await page.getByLabel('Password').fill('browser-test-1');
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

/** Clicks a place of the part, in project millimetres, once it is drawn there. */
export async function clickPart(page: Page, point: [number, number, number]): Promise<void> {
  // The view draws on the next frames; what lies under the place must be the part before it is clicked.
  await page.waitForFunction((p) => {
    const view = window.emberstoneView;
    const hit = view?.pick(view.project(p as [number, number, number]));
    return hit !== undefined && Math.hypot(hit.pointMm[0] - (p[0] ?? 0), hit.pointMm[1] - (p[1] ?? 0), hit.pointMm[2] - (p[2] ?? 0)) < 1.5;
  }, point);
  const at = await page.evaluate((p) => window.emberstoneView?.project(p as [number, number, number]), point);
  const box = await page.locator('[data-view]').boundingBox();
  if (!at || !box) throw new Error('no view');
  await page.mouse.click(box.x + at.x, box.y + at.y);
}
