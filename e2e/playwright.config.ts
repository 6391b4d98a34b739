import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: '.',
  workers: 1,
  timeout: 180_000,
  // Two cores draw the view in software; a step may wait for a frame.
  expect: { timeout: 20_000 },
  retries: 1,
  use: {
    baseURL: process.env.KINKAJOU_ADDRESS,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.KINKAJOU_CHROMIUM ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--use-gl=angle',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
