import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { decodeImage } from '../../core/src/images/decode.ts';
import { encodePng } from '../../core/src/images/encode.ts';
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

describe('mends that make images', () => {
  it('make each once, though its finding stays, and the image that it was made of is not missed', async () => {
    const folder = await crateFolder();
    await mkdir(join(folder, 'net'));
    // Between red and blue: whichever of them what is clear takes, the other one is foreign to it.
    const stripes = [
      [200, 0, 0, 255],
      [0, 0, 0, 0],
      [0, 0, 200, 255],
      [0, 0, 0, 0],
    ].flat();
    const pixels = {
      width: 16,
      height: 16,
      components: 4,
      data: Uint8Array.from({ length: 1024 }, (_, i) => stripes[i % 16]),
    };
    await writeFile(join(folder, 'net/net_color.png'), await encodePng(pixels));
    await writeFile(join(folder, 'net/net.mtl'), 'newmtl net\nKd 1 1 1\n');
    const square = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n';
    await writeFile(join(folder, 'net/net.obj'), `mtllib net.mtl\n${square}usemtl net\nf 1/1 2/2 3/3 4/4\n`);
    const call = ['handoff', 'net/net.obj', '--to', 'web-gltf', '--mend', 'safe', '--out', 'out', '--json'];
    const ran = await callIn(folder, call);
    const { verdict, remaining } = JSON.parse(ran.out);
    expect(verdict).toBe('with remarks');
    const codes = remaining.map(({ code }: { code: string }) => code);
    expect(codes).toContain('alpha.fringe');
    expect(codes).not.toContain('map.unused');
    expect(ran.err.match(/Pad the edges/g)).toHaveLength(1);
  });
});
