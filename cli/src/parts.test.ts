import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { callIn } from './test/call.ts';
import { crateFolder } from './test/crate.ts';

let folder: string;
const kinkajou = (...args: string[]) => callIn(folder, args);

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

const namesOf = async (file: string) => {
  const { parts, counts } = JSON.parse((await kinkajou('inspect', file, '--json')).out);
  return {
    parts: parts.map(({ name, polygons }: { name: string; polygons: number }) => `${name} ${polygons}`),
    clips: counts.clips,
    placed: counts.placedTriangles,
  };
};

beforeAll(async () => {
  folder = await crateFolder();
  await mkdir(join(folder, 'pier'));
  await writeFile(
    join(folder, 'pier/pier.obj'),
    `mtllib pier.mtl\n${cube('Post', 0)}${cube('Bolt_1', 2)}${cube('bolt_2', 4)}`,
  );
  await writeFile(join(folder, 'pier/pier.mtl'), 'newmtl Plank\nKd 0.5 0.4 0.3\n');
});

describe('parts on the command line', () => {
  it('drops by pattern, moves pivots, adds collision and a turn, and writes the takeoff, in convert and handoff', async () => {
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
  });

  it('takes the stage along', async () => {
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
  });

  it('names what is not there, and what words an option takes', async () => {
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
  });

  it('begins with what was done in the page', async () => {
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
  });

  it('changes parts in a copy of the file itself', async () => {
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
    // A pivot that clips turn about is no record of the file.
    await kinkajou('convert', 'pier/pier.obj', 'pier/turning.fbx', '--turn', '4');
    const turning = ['convert', 'pier/turning.fbx', 'pier/patched/turning.fbx', '--patch'];
    expect(await kinkajou(...turning, '--pivot', 'centre')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('its clips turn it about the new pivot'),
    });
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
});
