import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { decodeImage } from '../../core/src/images/decode.ts';
import { callIn } from './test/call.ts';
import { crateFolder } from './test/crate.ts';

describe('kinkajou maps make', () => {
  it('makes images by a recipe, says what came out, and refuses what makes no sense', async () => {
    const folder = await crateFolder();
    const kinkajou = (...args: string[]) => callIn(folder, args);
    const made = await kinkajou(
      'maps',
      'make',
      'normal',
      'crate/crate.obj',
      '--search',
      'elsewhere',
      '--set',
      'from=baseColor',
      '--set',
      'strength=2',
      '--out',
      'made',
      '--json',
    );
    expect(made.exit).toBe(2);
    expect(made.err).toContain('the map of base colour is missing');
    const tint = await kinkajou('maps', 'make', 'bake-tint', 'tinted/crate.obj', '--out', 'made', '--json');
    expect(tint.exit).toBe(0);
    const report = JSON.parse(tint.out);
    expect(report.files).toHaveLength(1);
    const { data } = await decodeImage(
      await readFile(join(folder, 'made', report.files[0].file)),
      'made.png',
    );
    // sRGB 120 is 0.18782 in light; half of it is sRGB 86.
    expect([...data.slice(0, 3)]).toEqual([86, 86, 86]);
    const refused = await kinkajou('maps', 'make', 'pad-edges', 'tinted/crate.obj', '--out', 'made');
    expect(refused).toMatchObject({
      exit: 2,
      err: expect.stringContaining('the opacity is not the alpha of the base colour'),
    });
    expect((await kinkajou('maps', 'make', 'gild', 'tinted/crate.obj', '--out', 'made')).err).toContain(
      '"gild" is no recipe',
    );
  });
});
