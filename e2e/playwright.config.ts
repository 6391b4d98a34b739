import { defineConfig } from '@playwright/test';

/** Each of those that test at the same time has an application of its own. */
const addresses = (process.env.KINKAJOU_ADDRESSES ?? 'http://127.0.0.1:4700').split(' ');
const address = addresses[Number(process.env.TEST_PARALLEL_INDEX ?? 0)];
/**
 * The view is lit by its surroundings alone: lamps and their shadows take most of the time of drawing in
 * software.
 */
const lamp = { on: false, strength: 1, angle: 40, softness: 0.4 };
const choices = {
  state: { view: { ground: false, lamps: { key: lamp, fill: lamp, rim: lamp } } },
  version: 2,
};

export default defineConfig({
  testDir: '.',
  workers: addresses.length,
  // A machine may be slow and have two cores that draw the view in software: what never comes is given up,
  // nothing is timed.
  timeout: 420_000,
  expect: { timeout: 60_000 },
  retries: 1,
  use: {
    baseURL: address,
    screenshot: 'only-on-failure',
    storageState: {
      cookies: [],
      origins: [
        { origin: address, localStorage: [{ name: 'kinkajou-choices', value: JSON.stringify(choices) }] },
      ],
    },
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.KINKAJOU_CHROMIUM ?? '/usr/bin/chromium-headless-shell',
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
        // Pages are put together without the software GPU, which is left to the view.
        '--disable-gpu-compositing',
        '--disable-gpu-rasterization',
      ],
    },
  },
});
