import { chromium } from '@playwright/test';
import { chromiumPath } from './packages.mjs';

/** A browser that draws in three dimensions without a graphics card. */
export function launchDrawing() {
  return chromium.launch({
    executablePath: chromiumPath(),
    args: ['--no-sandbox', '--use-gl=angle', '--use-angle=swiftshader', '--enable-unsafe-swiftshader'],
  });
}
