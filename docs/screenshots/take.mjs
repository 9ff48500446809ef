// Takes the pictures of this folder anew from the demo data: node docs/screenshots/take.mjs [ADDRESS] [NAME...], with the application running (bin/start).
// What a picture needs beyond the demo projects is made in projects of its own, which are deleted again.
import { chromium } from 'playwright-core';

const here = new URL('.', import.meta.url).pathname;
const args = process.argv.slice(2);
const address = args[0]?.startsWith('http') ? args.shift() : 'http://127.0.0.1:8420';
const wanted = new Set(args);
const made = [];

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--use-gl=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist'] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.setDefaultTimeout(60_000);
await page.goto(`${address}/sign-in`);
await page.getByLabel('E-mail').fill('ines@orchard-press.example');
await page.getByLabel('Password').fill('cider-press-1902');
await page.getByRole('button', { name: 'Sign in' }).click();
await page.getByRole('heading', { name: 'Projects' }).waitFor();

const panel = page.getByLabel('Step panel');
const form = (name) => page.getByRole('form', { name });
const stage = (name) => page.getByRole('navigation', { name: 'Stages' }).getByRole('button', { name }).click();
const tool = (name) => panel.getByRole('button', { name, exact: true }).click();
const side = (name) => page.getByRole('button', { name, exact: true }).click();
/** Until nothing is drawn or loaded any more. */
const rest = async () => {
  await page.waitForLoadState('networkidle');
  await page.waitForTimeout(1500);
};
const shot = async (name) => {
  await rest();
  await page.screenshot({ path: `${here}${name}.png` });
  console.log(name);
};
const open = async (name) => {
  await page.goto(`${address}/`);
  await page.getByRole('link', { name }).first().click();
  await page.locator('canvas').first().waitFor();
  await rest();
};
/** Asks the server as the page would. */
const ask = (method, path, body) =>
  page.evaluate(
    async ([method, path, body]) => {
      const token = decodeURIComponent(document.cookie.match(/XSRF-TOKEN=([^;]+)/)?.[1] ?? '');
      const answer = await fetch(`/api${path}`, { method, headers: { Accept: 'application/json', 'Content-Type': 'application/json', 'X-XSRF-TOKEN': token }, ...(body ? { body: JSON.stringify(body) } : {}) });
      return answer.status === 204 ? null : answer.json();
    },
    [method, path, body],
  );
const fresh = async (name) => {
  const { id } = await ask('POST', '/projects', { name });
  made.push(id);
  return id;
};
const step = async (project, operation, parameters = {}) => {
  const { id, message } = await ask('POST', `/projects/${project}/steps`, { operation, parameters });
  if (!id) throw new Error(`${operation}: ${message}`);
  for (;;) {
    const { steps } = await ask('GET', `/projects/${project}`);
    const state = steps.find((s) => s.id === id)?.state;
    if (state === 'done') return;
    // The list may have been read before the step stood in it.
    if (state !== undefined && state !== 'waiting' && state !== 'running') throw new Error(`${operation} is ${state}`);
    await page.waitForTimeout(300);
  }
};
const steps = async (project, list) => {
  for (const [operation, parameters] of list) await step(project, operation, parameters);
};
const goTo = async (project) => {
  await page.goto(`${address}/projects/${project}`);
  await page.locator('canvas').first().waitFor();
  await rest();
};
const pedestal = { part: 'pedestal', rig: 'handheld', seed: 1902 };

const pictures = {
  projects: async () => {
    await page.goto(`${address}/`);
    await shot('projects');
  },
  workspace: async () => {
    await open('Bearing pedestal, finished');
    await stage('Deliver');
    await stage('Orient');
    await shot('workspace');
  },
  deliver: async () => {
    await open('Bearing pedestal, finished');
    await stage('Deliver');
    await tool('Section');
    const form = page.getByRole('form', { name: 'Section' });
    await form.getByRole('combobox', { name: 'Plane' }).selectOption('XY');
    await form.getByLabel('Shift').fill('7');
    await form.getByLabel('Lines and arcs').fill('0.15');
    await form.getByLabel('Dimensions', { exact: true }).check();
    await form.getByRole('button', { name: 'Try it first' }).click();
    await form.getByText('3 curves').waitFor();
    await shot('deliver');
    await form.getByRole('button', { name: 'Drop the trial' }).click();
  },
  shape: async () => {
    const id = await fresh('Ratchet wheel, its tooth replaced');
    await steps(id, [
      ['simulate', { part: 'ratchet-wheel', rig: 'handheld-bare', seed: 7 }],
      ['register', { coarse: 'none', maxDistance: 6 }],
      ['remove-outliers'],
      ['fuse', { voxel: 0.8 }],
      ['keep-pieces', { largest: 1 }],
      ['fill-holes'],
      ['repair'],
      ['add-datum', { name: 'Bore', kind: 'cylinder', seed: [-7.8, 1, 15] }],
      ['engrave', { text: 'KM-16', at: { point: [24, -22, 14], up: [0, 1, 0] }, height: 5, depth: -0.8, font: 'bold' }],
    ]);
    await goTo(id);
    await stage('Deliver');
    await tool('Repeat around');
    const repeat = form('Repeat around');
    await repeat.getByRole('combobox', { name: 'Axis' }).selectOption({ label: 'Bore' });
    await repeat.getByLabel('Count').fill('16');
    await repeat.getByLabel('Only beyond').fill('47');
    await repeat.getByRole('button', { name: 'Try it first' }).click();
    await repeat.getByText(/^Trial: 16 sectors/).waitFor();
    await shot('shape');
    await repeat.getByRole('button', { name: 'Drop the trial' }).click();
  },
  gather: async () => {
    await open(/^Bearing pedestal(?!, finished)/);
    await shot('gather');
  },
  measure: async () => {
    await open('Bearing pedestal, finished');
    await stage('Deliver');
    await tool('Measure');
    const project = page.url().split('/').pop();
    await step(project, 'measure', { kind: 'diameter', of: [{ at: [0, 5, 37], fit: 'cylinder' }], name: 'Bore', nominal: 30, plus: 0.1, minus: 0.1 });
    await rest();
    for (const place of [
      [25.4, 30, 61.2],
      [48, 40, 14],
    ]) {
      await side('Right');
      await side('Front');
      await page.mouse.move(600, 300);
      await rest();
      const at = await page.evaluate((p) => window.emberstoneView.project(p), place);
      const box = await page.locator('[data-view]').boundingBox();
      await page.mouse.click(box.x + at.x, box.y + at.y);
      await rest();
    }
    await form('Measure').getByLabel('Value').waitFor();
    await shot('measure');
    await ask('POST', `/projects/${project}/undo`);
  },
  compare: async () => {
    await open('Bearing pedestal, finished');
    await stage('Deliver');
    await tool('Compare');
    const compare = form('Compare');
    await compare.getByRole('combobox', { name: 'With' }).selectOption('passes');
    await compare.getByLabel('Tolerance').fill('0.1');
    await compare.locator('[data-apply]').click();
    await compare.getByText('farthest').waitFor();
    await rest();
    const box = await page.locator('[data-view]').boundingBox();
    for (const place of [
      [25.4, 30, 61.2],
      [48, 40, 14],
      [-48, 10, 14],
    ]) {
      const at = await page.evaluate((p) => window.emberstoneView.project(p), place);
      await page.mouse.click(box.x + at.x, box.y + at.y);
      await rest();
    }
    await shot('compare');
    await compare.getByRole('button', { name: 'Drop the trial' }).click();
  },
  outline: async () => {
    const id = await fresh('Pictures: outline');
    await steps(id, [['simulate', pedestal], ['drop-base']]);
    await goTo(id);
    await tool('Cut away');
    await page.getByRole('radio', { name: 'Rectangle' }).click();
    await page.getByRole('radio', { name: 'Through' }).click();
    const box = await page.locator('[data-view]').boundingBox();
    await page.mouse.move(box.x + 330, box.y + 250);
    await page.mouse.down();
    await page.mouse.move(box.x + 390, box.y + 300);
    await page.mouse.move(box.x + 450, box.y + 380);
    await page.mouse.up();
    await shot('outline');
  },
  found: async () => {
    await open('finished');
    await stage('Lighten');
    await tool('Find shapes');
    await form('Find shapes').getByRole('button', { name: /^Find shapes/ }).click();
    await page.locator('[data-step=find-shapes][data-state=done]').waitFor();
    await page.keyboard.press('Escape');
    await page.locator('[data-shape=shape-4]').click();
    await side('Fit');
    await shot('found');
    await page.getByRole('button', { name: 'Undo' }).first().click();
  },
  quads: async () => {
    await open('finished');
    await stage('Lighten');
    await tool('Quads');
    await form('Quads').getByLabel('Faces').fill('6000');
    await form('Quads').getByRole('button', { name: /^Quads/ }).click();
    await page.locator('[data-step=quad-remesh][data-state=done]').waitFor({ timeout: 240_000 });
    await side('Fit');
    await shot('quads');
    await page.getByRole('button', { name: 'Undo' }).first().click();
  },
  register: async () => {
    const id = await fresh('Pictures: register');
    await steps(id, [['simulate', pedestal], ['drop-base'], ['register']]);
    await goTo(id);
    await stage('Register');
    await page.locator('[data-step=register]').click();
    await page.getByRole('radio', { name: 'Residual' }).click();
    await shot('register');
  },
  placing: async () => {
    const id = await fresh('Bearing, its parts on the rough scan');
    const scanned = async (part, name, voxel) => {
      await steps(id, [['simulate', { part, rig: 'handheld', seed: 7 }], ['drop-base'], ['register'], ['remove-outliers'], ['fuse', { voxel, name }]]);
      await step(id, 'discard', { on: (await ask('GET', `/projects/${id}`)).snapshot.passes.map((p) => p.id) });
    };
    await scanned('assembly', 'Rough scan of the whole', 2.4);
    for (const [part, name, away] of [['pedestal', 'Pedestal', { shiftX: -170, turnZ: 70, shiftZ: 10 }], ['cap', 'Cap', { shiftX: 150, turnX: 40 }], ['bush', 'Bush', { shiftX: 90, shiftY: -110, turnZ: 25 }]]) {
      await scanned(part, name, 0.8);
      await step(id, 'move', { moving: name, ...away });
    }
    for (const moving of ['Pedestal', 'Cap']) await step(id, 'place', { moving, onto: 'Rough scan of the whole' });
    await goTo(id);
    await stage('Register');
    await tool('Place');
    await form('Place').getByLabel('Moving').selectOption({ label: 'Bush' });
    await form('Place').getByLabel('Onto').selectOption({ label: 'Rough scan of the whole' });
    await page.getByLabel('Colours of bodies').selectOption('own');
    await side('Fit');
    await shot('placing');
  },
  fixture: async () => {
    const target = await fresh('Target of the morning');
    await steps(target, [['simulate', { part: 'target', rig: 'ring', seed: 7 }], ['remove-strays'], ['solve-fixture']]);
    await goTo(target);
    await stage('Register');
    await page.locator('[data-step=solve-fixture]').click();
    await side('Fit');
    await shot('fixture');
  },
  holes: async () => {
    const id = await fresh('Pictures: holes');
    await steps(id, [['simulate', { part: 'pedestal-with-bar', rig: 'handheld-off-scale', seed: 3 }], ['drop-base'], ['register'], ['remove-outliers'], ['fuse', { voxel: 0.8, name: 'Pedestal with its bar' }]]);
    await goTo(id);
    await stage('Mend');
    await tool('Close holes');
    await shot('holes');
    await tool('Inspect');
    await form('Inspect').locator('[data-apply]').click();
    await page.locator('[data-trial=done]').waitFor();
    await shot('inspect');
    await stage('Lighten');
    await tool('Decimate');
    await page.getByRole('button', { name: /^See every count/ }).click();
    await page.getByLabel('From all faces to few').fill('120');
    await shot('decimate');
  },
  received: async () => {
    // As a receiver sees it, in a browser of their own.
    await ask('PATCH', '/account/settings', { receiverLinks: true });
    await open('Bearing pedestal, finished');
    const project = page.url().split('/').pop();
    for (const [name, of, nominal] of [
      ['Bore', [[0, 5, 37]], 30],
      ['Boss', [[0, 50, 79]], 54],
    ]) {
      await step(project, 'measure', { kind: 'diameter', of: of.map((at) => ({ at, fit: 'cylinder' })), name, nominal, plus: 0.1, minus: 0.1 });
    }
    await step(project, 'deliver', { for: 'Kelter Mill', formats: ['stl', '3mf', 'step'] });
    const { snapshot } = await ask('GET', `/projects/${project}`);
    const { url } = await ask('POST', `/projects/${project}/links`, { artefact: snapshot.artefacts.at(-1).id, days: 7 });
    await page.goto(url);
    await page.getByText('Drag to turn').waitFor();
    await shot('received');
    for (let k = 0; k < 3; k++) await ask('POST', `/projects/${project}/undo`, {});
    await ask('PATCH', '/account/settings', { receiverLinks: false });
  },
  orient: async () => {
    const id = await fresh('Pine-cone finial');
    await steps(id, [['simulate', { part: 'finial', rig: 'handheld', seed: 4 }], ['drop-base'], ['register'], ['remove-outliers'], ['fuse', { voxel: 0.8, name: 'Finial' }], ['keep-pieces', { largest: 1 }], ['fill-holes'], ['decimate', { faces: 60000 }], ['add-datum', { name: 'Foot', kind: 'plane', points: [[9, 0, 0], [-5, 8, 0], [-5, -8, 0]] }], ['add-datum', { name: 'Tip', kind: 'point', points: [[0, 0, 124]] }], ['add-datum', { name: 'Scale', kind: 'point', points: [[6.8, -29.5, 65.4]] }], ['add-datum', { name: 'Middle', construct: { how: 'centre', of: ['Foot'] } }], ['add-datum', { name: 'Stem', construct: { how: 'line-through', of: ['Middle', 'Tip'] } }]]);
    await goTo(id);
    await stage('Orient');
    await tool('Set frame');
    for (const [place, label, to] of [['First', 'Stem', 'Z'], ['Second', 'Middle', 'origin'], ['Third', 'Scale', 'X']]) {
      await page.getByLabel(`${place} datum`, { exact: true }).selectOption({ label });
      await page.getByLabel(`What the ${place.toLowerCase()} datum becomes`).selectOption(to);
    }
    await side('Front');
    await shot('orient');
  },
  capture: async () => {
    const id = await fresh('Pictures: capture');
    await goTo(id);
    await tool('Live capture');
    await page.getByRole('button', { name: /^Start/ }).click();
    await page.waitForFunction(() => Number(document.querySelector('[data-frames]')?.getAttribute('data-frames') ?? 0) >= 14);
    await page.screenshot({ path: `${here}capture.png` });
    console.log('capture');
    await page.getByRole('button', { name: 'Drop', exact: true }).click();
  },
};

try {
  for (const [name, take] of Object.entries(pictures)) if (wanted.size === 0 || wanted.has(name)) await take();
} finally {
  for (const id of made) await ask('DELETE', `/projects/${id}`);
  await browser.close();
}
