import { execFile, execFileSync } from 'node:child_process';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { zipSync } from 'fflate';
import { beforeAll, describe, expect, it } from 'vitest';
import { decodeImage } from '../../core/src/images/decode.ts';
import { encodePng } from '../../core/src/images/encode.ts';
import { badParcels } from '../../e2e/badInput.ts';
import { callIn } from './test/call.ts';
import { crateFolder } from './test/crate.ts';

const PROGRAM = fileURLToPath(new URL('../../bin/kinkajou', import.meta.url));
let folder: string;

/** Runs the program as a person would, in a process of its own; never rejects. */
function program(...args: string[]): Promise<{ exit: number; out: string; err: string }> {
  return new Promise((resolve) => {
    execFile(PROGRAM, args, { cwd: folder, maxBuffer: 1 << 26 }, (error, out, err) =>
      resolve({ exit: error ? Number(error.code) : 0, out, err }),
    );
  });
}

/** The same code in this process, which saves starting one for each of many calls. */
const kinkajou = (...args: string[]) => callIn(folder, args);

beforeAll(async () => {
  folder = await crateFolder();
});

describe('kinkajou', () => {
  it('inspects: a missing image is an error and exit 1, and is found with --search', async () => {
    const lost = await program('inspect', 'crate/crate.obj', '--json');
    expect(lost.exit).toBe(1);
    const report = JSON.parse(lost.out);
    expect(report.counts).toMatchObject({
      meshes: 1,
      polygons: 1,
      triangles: 2,
      points: 4,
      materials: 1,
      maps: 1,
    });
    expect(report.bounds).toEqual({ min: [0, 0, 0], max: [2, 3, 0] });
    expect(report.images[0]).toMatchObject({
      written: '/home/mara/plank.png',
      status: 'missing',
      resolved: null,
    });
    expect(report.findings[0]).toMatchObject({ code: 'link.missing', severity: 'error', mendable: false });
    const searched = JSON.parse(
      (await kinkajou('inspect', 'crate/crate.obj', '--search', 'elsewhere', '--json')).out,
    );
    expect(searched.findings[0]).toMatchObject({ code: 'link.outside', mendable: true });
  });

  it('hands off with mends into a folder, prints the receipt and exits 0', async () => {
    const { exit, out } = await kinkajou(
      'handoff',
      'crate/crate.obj',
      '--to',
      'web-gltf',
      '--out',
      'made',
      '--search',
      'elsewhere',
      '--mend',
      'all',
      '--json',
    );
    expect(exit).toBe(0);
    const receipt = JSON.parse(out);
    expect(receipt).toEqual(JSON.parse(await readFile(join(folder, 'made/receipt.json'), 'utf8')));
    expect(receipt.readBack.validator.errors).toBe(0);
    expect(receipt.edits[0].text).toMatch(/Linked plank\.png/);
  });

  it('says what would be mended without writing anything', async () => {
    const { exit, out } = await kinkajou(
      'inspect',
      'crate/crate.obj',
      '--search',
      'elsewhere',
      '--mend',
      'safe',
      '--json',
    );
    expect(exit).toBe(0);
    const report = JSON.parse(out);
    expect(report.images[0]).toMatchObject({ status: 'found', resolved: 'search/1/plank.png' });
    expect(report.remaining.map(({ code }: { code: string }) => code)).toEqual(['shape.noNormals']);
    expect(report.mended).toEqual([
      expect.objectContaining({
        kind: 'linkImages',
        text: expect.stringMatching(/Linked plank\.png to search\/1/),
      }),
      expect.objectContaining({ kind: 'unmapSlots' }),
    ]);
  });

  it('asks which of two sets is meant, takes the answer, and knows words of the house', async () => {
    const write = async (path: string, shade: number) => {
      await mkdir(join(folder, 'rivals', path, '..'), { recursive: true });
      const data = Uint8Array.from({ length: 32 * 32 * 3 }, (_, i) =>
        Math.min(255, shade + ((Math.floor(i / 3) * 37) % 60)),
      );
      await writeFile(
        join(folder, 'rivals', path),
        await encodePng({ width: 32, height: 32, components: 3, data }),
      );
    };
    for (const [side, shade] of [
      ['dry', 150],
      ['wet', 20],
    ] as const)
      for (const word of ['kleur', 'rough']) await write(`${side}/plank_${word}.png`, shade);
    await writeFile(join(folder, 'rivals/crate.obj'), await readFile(join(folder, 'crate/crate.obj')));
    await writeFile(join(folder, 'rivals/crate.mtl'), 'newmtl Plank\nKd 1 1 1\n');
    await writeFile(join(folder, 'words.json'), JSON.stringify({ kleur: 'baseColor' }));
    const words = ['--words', 'words.json'];

    const asked = await kinkajou('inspect', 'rivals', '--mend', 'safe', '--json', ...words);
    expect(asked.exit).toBe(1);
    const { remaining, materials } = JSON.parse(asked.out);
    expect(remaining.filter((finding: { severity: string }) => finding.severity !== 'note')).toEqual([
      expect.objectContaining({
        code: 'set.ambiguous',
        subject: 'Plank',
        key: 'set.ambiguous:Plank',
        message: expect.stringContaining('dry'),
        mendable: true,
      }),
    ]);
    expect(materials[0].channels.baseColor.map).toBeNull();

    const answered = await kinkajou(
      'handoff',
      'rivals',
      '--to',
      'web-gltf',
      '--out',
      'answered',
      '--variant',
      'gltf',
      '--choose',
      'Plank=wet/plank_kleur.png',
      '--json',
      ...words,
    );
    const receipt = JSON.parse(answered.out);
    expect([
      answered.exit,
      receipt.remaining.filter((finding: { severity: string }) => finding.severity !== 'note'),
    ]).toEqual([0, []]);
    expect(receipt.materials[0].channels.baseColor.map.image).toBe('parcel:wet/plank_kleur.png');
    expect(receipt.images.map((image: { resolved: string }) => image.resolved).sort()).toEqual([
      'wet/plank_kleur.png',
      'wet/plank_rough.png',
    ]);
    const base = receipt.outputs.find((file: { path: string }) => file.path.includes('basecolor'));
    const { data } = await decodeImage(await readFile(join(folder, 'answered', base.path)), 'out.png');
    expect(data[0]).toBe(20);

    expect(await kinkajou('inspect', 'rivals', '--choose', 'Plank=damp', ...words)).toMatchObject({
      exit: 2,
      err: expect.stringContaining('"Plank=damp" answers no question'),
    });
    await writeFile(join(folder, 'words.json'), JSON.stringify({ kleur: 'colour' }));
    expect(await kinkajou('inspect', 'rivals', ...words)).toMatchObject({
      exit: 2,
      err: expect.stringContaining('kleur'),
    });
    expect(await kinkajou('inspect', 'rivals', '--words', 'nowhere.json')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('nowhere.json'),
    });
  });

  it('detects what images are, each in the light of the others', async () => {
    const write = async (name: string, pixel: (i: number) => number[]) => {
      const pixels = Array.from({ length: 64 * 64 }, (_, i) => pixel(i));
      await writeFile(
        join(folder, name),
        await encodePng({
          width: 64,
          height: 64,
          components: pixels[0].length,
          data: Uint8Array.from(pixels.flat()),
        }),
      );
    };
    await write('crane_basecolor.png', (i) => [180, 60 + (i % 90), 30]);
    await write('crane_orm.png', (i) => [255 - (i % 40), 90 + (i % 64), i % 2 ? 0 : 255]);
    await write('crane_rough.png', (i) => [90 + (i % 120)]);
    const { exit, out } = await kinkajou(
      'maps',
      'detect',
      'crane_basecolor.png',
      'crane_orm.png',
      'crane_rough.png',
      '--json',
    );
    expect(exit).toBe(0);
    const { maps } = JSON.parse(out);
    expect(maps.map((map: object) => Object.keys(map))).toEqual(
      Array.from({ length: 3 }, () => [
        'file',
        'set',
        'channel',
        'components',
        'space',
        'normalY',
        'confidence',
        'evidence',
      ]),
    );
    expect(maps[0]).toMatchObject({
      set: 'crane',
      channel: 'baseColor',
      components: null,
      space: 'srgb_rec709_scene',
      normalY: null,
    });
    expect(maps[1]).toMatchObject({
      channel: null,
      components: { r: 'occlusion', g: 'roughness', b: 'metalness' },
      space: 'data',
    });
    expect(maps[2]).toMatchObject({ channel: 'roughness', space: 'data' });
  });

  it('converts colours: 0.5 in sRGB is 0.2140 in linear light, and oiiotool reads it so', async () => {
    await writeFile(
      join(folder, 'grey.png'),
      await encodePng({ width: 8, height: 8, components: 3, data: new Uint8Array(192).fill(128) }),
    );
    const { exit, out } = await kinkajou(
      'maps',
      'convert',
      'grey.png',
      'grey.exr',
      '--from',
      'sRGB',
      '--to',
      'ACEScg',
      '--json',
    );
    expect(exit).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      from: 'srgb_rec709_scene',
      to: 'lin_ap1_scene',
      outOfGamut: 0,
      clipped: 0,
    });
    const stats = execFileSync('oiiotool', ['--stats', join(folder, 'grey.exr')], { encoding: 'utf8' });
    const [mean] = (/Stats Avg:\s+([\d.]+)/.exec(stats) ?? []).slice(1).map(Number);
    // IEC 61966-2-1 for 128/255; white and greys are the same in ACEScg.
    expect(mean).toBeCloseTo(((128 / 255 + 0.055) / 1.055) ** 2.4, 4);
    const wrong = await kinkajou(
      'maps',
      'convert',
      'grey.png',
      'grey.exr',
      '--from',
      'purple',
      '--to',
      'ACEScg',
    );
    expect([wrong.exit, wrong.err]).toEqual([2, expect.stringContaining('names no colour space')]);
  });

  it('writes over nothing: a second run is refused, and replaces with --replace what the first one wrote', async () => {
    const input = ['crate/crate.obj', '--search', 'elsewhere'];
    const convert = (...more: string[]) =>
      kinkajou('convert', 'crate/crate.obj', 'made/crate.fbx', '--search', 'elsewhere', ...more);
    expect((await convert()).exit).toBe(0);
    expect(await convert('--up', 'Z')).toMatchObject({
      exit: 2,
      err: expect.stringMatching(/made: crate\.fbx is there already\..*--replace/),
    });
    expect((await convert('--up', 'Z', '--replace')).exit).toBe(0);
    expect(await kinkajou('convert', ...input, 'crate/crate.obj', '--replace')).toMatchObject({ exit: 2 });
    const handOff = (...more: string[]) =>
      kinkajou('handoff', ...input, '--to', 'web-gltf', '--out', 'sent', '--mend', 'safe', ...more);
    expect((await handOff()).exit).toBeLessThan(2);
    expect(await handOff()).toMatchObject({
      exit: 2,
      err: expect.stringMatching(/sent: .* are there already/),
    });
    expect((await handOff('--replace')).exit).toBeLessThan(2);
    await writeFile(join(folder, 'sent/notes.txt'), 'mine');
    expect(await handOff('--replace')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('notes.txt was not written by the earlier run'),
    });
    expect(await readFile(join(folder, 'sent/notes.txt'), 'utf8')).toBe('mine');
  });

  it('keeps the maps of two models apart that lie under one name', async () => {
    const paint = (code: number) =>
      encodePng({ width: 4, height: 4, components: 3, data: new Uint8Array(48).fill(code) });
    for (const [name, code] of [
      ['bow', 40],
      ['stern', 200],
    ] as const) {
      await mkdir(join(folder, name), { recursive: true });
      await writeFile(
        join(folder, name, `${name}.obj`),
        (await readFile(join(folder, 'crate/crate.obj'), 'utf8')).replace('crate.mtl', 'wood.mtl'),
      );
      await writeFile(join(folder, name, 'wood.mtl'), 'newmtl Plank\nKd 1 1 1\nmap_Kd wood.png\n');
      await writeFile(join(folder, name, 'wood.png'), await paint(code));
      expect((await kinkajou('convert', `${name}/${name}.obj`, `both/${name}.usda`)).exit).toBe(0);
    }
    const written = await Promise.all(
      ['bow', 'stern'].map((name) => readFile(join(folder, `both/${name}.usda`), 'utf8')),
    );
    const codes = written.map(async (text) => {
      const [, path] = /@\.?\/?([^@]*wood\.png)@/.exec(text) ?? [];
      return (await decodeImage(new Uint8Array(await readFile(join(folder, 'both', path))), path)).data[0];
    });
    expect(await Promise.all(codes)).toEqual([40, 200]);
  });

  it('lists destinations', async () => {
    const { out, exit } = await kinkajou('destinations', '--json');
    expect(exit).toBe(0);
    expect(JSON.parse(out).destinations.map((one: { id: string }) => one.id)).toContain('web-gltf');
  });

  it('answers wrong calls with exit 2 and a reason', async () => {
    for (const args of [
      ['inspect', 'nowhere.fbx'],
      ['handoff', 'crate', '--to', 'moon', '--out', 'x'],
      ['handoff', 'crate'],
      ['handoff', 'crate', '--to', 'web-gltf'],
      ['shout'],
    ]) {
      const { exit, err, out } = await kinkajou(...args);
      expect([args.join(' '), exit]).toEqual([args.join(' '), 2]);
      expect(err.length).toBeGreaterThan(10);
      expect(out).toBe('');
    }
  });

  it('says what is wrong with bad parcels', async () => {
    for (const { name, bytes, says, assets } of await badParcels()) {
      await writeFile(join(folder, name), bytes);
      const { exit, out, err } = await kinkajou('inspect', name);
      expect([name, exit]).toEqual([name, assets > 0 ? (name === 'false-image.zip' ? 1 : 0) : 2]);
      expect(`${out}${err}`).toMatch(says);
    }
    await writeFile(
      join(folder, 'two.zip'),
      zipSync({
        'a.obj': new TextEncoder().encode('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'),
        'b.obj': new Uint8Array(3),
      }),
    );
    const { exit, err } = await kinkajou('inspect', 'two.zip');
    expect(exit).toBe(1);
    expect(err).toMatch(/b\.obj: there is not a single face/);
  });
});
