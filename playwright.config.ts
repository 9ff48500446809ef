import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'tests/Browser',
  outputDir: 'var/browser-results',
  timeout: 600_000,
  expect: { timeout: 240_000 },
  workers: 2,
  fullyParallel: true,
  reporter: [['list']],
  projects: [
    { name: 'window', testIgnore: /faults/ },
    // These kill the workers and the database of all: when the others are done, one after the other.
    { name: 'faults', testMatch: /faults/, dependencies: ['window'], fullyParallel: false },
  ],
  use: {
    actionTimeout: 60_000,
    baseURL: process.env.EMBERSTONE_URL ?? 'http://127.0.0.1:8420',
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // Without graphics hardware the processor draws every step of a sign that turns or a button that fades: with less motion there are none (app.css).
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox', '--no-proxy-server', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync',
        // Debian's wrapper asks for it; without graphics hardware the page itself would be drawn by the emulated one.
        '--disable-gpu-rasterization',
        // And put together by it, a tenth of a second for every click that changes a colour.
        '--disable-gpu-compositing',
        '--use-gl=angle', '--use-angle=swiftshader', '--enable-unsafe-swiftshader',
        // Smoothed edges cost a quarter of the time where the processor draws.
        '--webgl-antialiasing-mode=none',
      ],
    },
  },
});
