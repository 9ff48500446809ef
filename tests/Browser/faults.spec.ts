import { execFileSync } from 'node:child_process';
import { expect, type Page, test } from '@playwright/test';
import { newProject, signIn } from './steps';

const passes = process.env.EMBERSTONE_PASSES ?? '';
const fault = (what: 'kill-workers' | 'restart-database'): void => {
  execFileSync('bash', ['tests/Browser/fault.sh', what]);
};

/** A project with passes, and a fuse step of them that takes its time. */
async function fusing(page: Page, name: string): Promise<void> {
  await signIn(page);
  await newProject(page, name);
  await page.locator('[data-upload]').setInputFiles(['01', '02', '03', '04'].map((n) => `${passes}/pass-${n}.ply`));
  await expect(page.locator('[data-step=import]')).toHaveAttribute('data-state', 'done');
  await fuse(page, '0.6');
  await expect(page.locator('[data-step=fuse]')).toHaveAttribute('data-state', 'running');
}

async function fuse(page: Page, voxelMm: string): Promise<void> {
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name: 'Fuse' }).click();
  const form = page.getByRole('form', { name: 'Fuse' });
  // The tool stays open after a step.
  if (!(await form.isVisible())) await page.getByLabel('Step panel').getByRole('button', { name: 'Fuse', exact: true }).click();
  await form.getByLabel('Voxel').fill(voxelMm);
  await form.getByLabel('Voxel').press('Tab');
  await form.getByRole('button', { name: 'Fuse' }).click();
}

test('a worker killed in the middle of a step is said, loses nothing, and the step runs again', async ({ page }) => {
  await fusing(page, 'A worker dies');
  fault('kill-workers');
  const step = page.locator('[data-step=fuse]');
  await expect(step.first()).toHaveAttribute('data-state', 'failed');
  await step.first().getByRole('button').first().click();
  await expect(page.getByLabel('Step details')).toContainText('Interrupted: the worker ended in the middle of the step. Nothing was changed; run it again.');
  await expect(page.getByLabel('Tray').getByText('pass-01')).toBeVisible();
  // Going to a stage puts the details away.
  await fuse(page, '1.6');
  await expect(step.last()).toHaveAttribute('data-state', 'done');
  await expect(page.getByLabel('Tray').getByText(/Fused/)).toBeVisible();
});

test('a database restarted in the middle of a step costs neither the step nor the session', async ({ page }) => {
  await fusing(page, 'The database restarts');
  fault('restart-database');
  await expect(page.locator('[data-step=fuse]')).toHaveAttribute('data-state', 'done');
  await expect(page.getByLabel('Tray').getByText(/Fused/)).toBeVisible();
  await page.getByRole('button', { name: /Undo/ }).click();
  await expect(page.locator('[data-step=fuse]')).toHaveAttribute('data-state', 'set-aside');
});
