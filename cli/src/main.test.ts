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

  it('drops parts by pattern, moves pivots, adds collision and a turn, and writes the takeoff, in convert and handoff', async () => {
    const cube = (name: string, at: number) => {
      const v = Array.from({ length: 8 }, (_, i) => `v ${(i & 1) + at} ${(i >> 1) & 1} ${(i >> 2) & 1}`).join(
        '\n',
      );
      const faces = ['1 5 7 3', '2 4 8 6', '1 2 6 5', '3 7 8 4', '1 3 4 2', '5 6 8 7'].map(
        (face) =>
          `f ${face
            .split(' ')
            .map((c) => Number(c) - 9)
            .join(' ')}`,
      );
      return `o ${name}\n${v}\nusemtl Plank\n${faces.join('\n')}\n`;
    };
    await mkdir(join(folder, 'pier'));
    await writeFile(
      join(folder, 'pier/pier.obj'),
      `mtllib pier.mtl\n${cube('Post', 0)}${cube('Bolt_1', 2)}${cube('bolt_2', 4)}`,
    );
    await writeFile(join(folder, 'pier/pier.mtl'), 'newmtl Plank\nKd 0.5 0.4 0.3\n');
    const namesOf = async (file: string) => {
      const { parts, counts } = JSON.parse((await kinkajou('inspect', file, '--json')).out);
      return {
        parts: parts.map(({ name, polygons }: { name: string; polygons: number }) => `${name} ${polygons}`),
        clips: counts.clips,
        placed: counts.placedTriangles,
      };
    };
    const options = [
      '--drop',
      'BOLT*',
      '--pivot',
      'bottom',
      '--collision',
      'box',
      '--turn',
      '6',
      '--takeoff',
    ];
    expect(
      await kinkajou('convert', 'pier/pier.obj', 'pier/out/pier.glb', ...options, 'pier/out/takeoff.csv'),
    ).toMatchObject({ exit: 0 });
    expect(await namesOf('pier/out/pier.glb')).toEqual({
      parts: ['turn 0', 'Post 12', 'Post_collision 12'],
      clips: 1,
      placed: 24,
    });
    expect(await readFile(join(folder, 'pier/out/takeoff.csv'), 'utf8')).toBe(
      'part,material,faces,area m2,volume m3\r\nPost,Plank,6,6.000000,1.000000000\r\nall parts,Plank,6,6.000000,1.000000000\r\n',
    );
    const hulls = ['--collision', 'hulls', '--hulls', '1', '--hull-error', '0.1'];
    expect(
      await kinkajou('convert', 'pier/pier.obj', 'pier/out/whole.glb', '--drop', 'Bolt*', ...hulls),
    ).toMatchObject({ exit: 0 });
    expect((await namesOf('pier/out/whole.glb')).parts).toEqual(['Post 12', 'Post_collision 12']);
    expect(
      await kinkajou(
        'convert',
        'pier/pier.obj',
        'pier/out/no.glb',
        '--collision',
        'hulls',
        '--hulls',
        'many',
      ),
    ).toMatchObject({
      exit: 2,
      err: expect.stringContaining('Give a number from 1 to 64.'),
    });
    const { exit, out } = await kinkajou(
      'handoff',
      'pier/pier.obj',
      '--to',
      'web-gltf',
      '--out',
      'pier/web',
      ...options,
      'pier/web.csv',
      '--json',
    );
    const receipt = JSON.parse(out);
    expect([
      exit,
      receipt.verdict === 'failed',
      receipt.differences.filter(({ exempt }: { exempt: string | null }) => exempt === null),
    ]).toEqual([0, false, []]);
    expect(receipt.edits.map(({ text }: { text: string }) => text)).toEqual([
      'Dropped 2 parts',
      'Collision shape of Post: box',
      'Put the pivot of Post at the middle of the bottom',
    ]);
    expect((await namesOf('pier/web/pier.glb')).parts).toEqual(['turn 0', 'Post 12', 'Post_collision 12']);

    await writeFile(
      join(folder, 'pier/stage.json'),
      JSON.stringify({ camera: { position: [4, 2, 4], target: [0, 1, 0] } }),
    );
    const staged = ['handoff', 'pier/pier.obj', '--to', 'web-gltf', '--stage', 'pier/stage.json'];
    expect(await kinkajou(...staged, '--out', 'pier/staged')).toMatchObject({ exit: 0 });
    expect((await namesOf('pier/staged/pier.glb')).parts).toContain('view 0');
    expect((await kinkajou(...staged, '--plan')).out).toContain('the camera of the view goes along');
    await writeFile(join(folder, 'pier/stage.json'), JSON.stringify({ camera: { position: [4, 2] } }));
    expect(await kinkajou(...staged, '--out', 'pier/none')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('camera.position'),
    });

    expect(await kinkajou('convert', 'pier/pier.obj', 'pier/x.fbx', '--drop', 'nail*')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('no part is called "nail*"'),
    });
    expect(await kinkajou('convert', 'pier/pier.obj', 'pier/x.fbx', '--pivot', 'top')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('centre, bottom, origin, balance'),
    });
    expect(await kinkajou('convert', 'pier/pier.obj', 'pier/x.fbx', '--turn', 'fast')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('--turn is "fast"'),
    });
    // What was done in the page comes first; rules and mends see it, and what is not there is told.
    const origin = { from: 'hand', detail: '' };
    const place = { about: [0, 0, 0], move: [0, 3, 0], turn: [0, 0, 0], scale: 2 };
    await writeFile(
      join(folder, 'pier/log.json'),
      JSON.stringify([
        { kind: 'editParts', change: { do: 'place', parts: ['Post', 'Rail'], ...place }, origin },
        { kind: 'editParts', change: { do: 'drop', parts: ['Bolt_1'] }, origin },
      ]),
    );
    await writeFile(
      join(folder, 'pier/rules.json'),
      '{"rulebook":1,"title":"Pier","rules":[{"name":"No bolts","when":{"part":"bolt*"},"then":[{"do":"drop"}]}]}',
    );
    const logged = ['handoff', 'pier/pier.obj', '--to', 'web-gltf', '--log', 'pier/log.json'];
    for (const rules of [[], ['--rules', 'pier/rules.json']]) {
      const to = `pier/logged${rules.length}`;
      const run = await kinkajou(...logged, ...rules, '--out', to, '--json');
      expect([run.exit, run.err]).toEqual([0, expect.stringContaining('part Rail is not there')]);
      const { edits } = JSON.parse(run.out);
      expect(edits[0].text).toContain('moved by 0, 3, 0 m, 2 times its size');
      const { parts } = JSON.parse((await kinkajou('inspect', `${to}/pier.glb`, '--json')).out);
      expect(parts.map(({ name }: { name: string }) => name)).toEqual(
        rules.length > 0 ? ['Post'] : ['Post', 'bolt_2'],
      );
      // A cube of a metre, twice its size about the origin, three metres up.
      expect(parts[0].bounds.min[1]).toBeCloseTo(3);
      expect(parts[0].bounds.max[1]).toBeCloseTo(5);
    }
    // A copy of the file itself, which keeps what no writer of ours would make.
    await kinkajou('convert', 'pier/pier.obj', 'pier/x.fbx', '--text');
    const text = await readFile(join(folder, 'pier/x.fbx'), 'utf8');
    await writeFile(
      join(folder, 'pier/x.fbx'),
      text.replace('Culling: "CullingOff"', 'Culling: "CullingOnCCW"'),
    );
    const patch = ['convert', 'pier/x.fbx', 'pier/patched/x.fbx', '--patch', '--pivot', 'bottom'];
    expect(await kinkajou(...patch, '--drop', 'BOLT*')).toMatchObject({ exit: 0 });
    expect((await namesOf('pier/patched/x.fbx')).parts).toEqual(['Post 6']);
    expect(await readFile(join(folder, 'pier/patched/x.fbx'), 'utf8')).toContain('CullingOnCCW');
    expect(await kinkajou(...patch, '--turn', '4')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('no turn'),
    });
    expect(
      await kinkajou('convert', 'pier/pier.obj', 'pier/x.obj', '--patch', '--drop', 'Post'),
    ).toMatchObject({
      exit: 2,
      err: expect.stringContaining('--patch changes parts of FBX files alone'),
    });
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
