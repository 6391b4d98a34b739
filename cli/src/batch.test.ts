// biome-ignore-all lint/suspicious/noThenProperty: the rulebook's own word
import { createHash } from 'node:crypto';
import { cp, mkdir, mkdtemp, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { encodePng } from '../../core/src/images/encode.ts';
import { callIn } from './test/call.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-batch-'));
  const image = (shade: number) =>
    encodePng({
      width: 4,
      height: 4,
      components: 3,
      data: Uint8Array.from({ length: 48 }, (_, i) => shade + ((i * 31) % 40)),
    });
  const lamp = (material: string, parts = '') =>
    `mtllib ${material}.mtl\no Lamp\nv 0 0 0\nv 2 0 0\nv 2 1 0\nv 0 1 0\nvn 0 0 1\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl ${material}\nf 1/1/1 2/2/1 3/3/1 4/4/1\n${parts}`;
  const files: Record<string, string | Uint8Array> = {
    'a/lamp.obj': lamp('Iron', 'o bolt_1\nusemtl Iron\nf 1/1/1 2/2/1 3/3/1\n'),
    'a/Iron.mtl': 'newmtl Iron\nmap_Kd P:/old/tex/iron_basecolor.png\nmap_Pr iron_roughness.png\nPm 0\n',
    'a/iron_roughness.png': await image(90),
    'textures/iron_basecolor.png': await image(40),
    'b/lamp.obj': lamp('Wood'),
    'b/Wood.mtl': 'newmtl Wood\nmap_Kd wood_basecolor.png\nPr 0.5\nPm 0\n',
    'b/wood_basecolor.png': await image(120),
    'b/broken.obj': 'f 1 2 3\n',
  };
  for (const [path, content] of Object.entries(files)) {
    await mkdir(join(folder, 'props', path, '..'), { recursive: true });
    await writeFile(join(folder, 'props', path), content);
  }
  const rules = [
    {
      name: 'Old textures lie here now',
      when: {},
      then: [{ do: 'link', from: 'P:/old/tex', to: 'textures' }],
    },
    { name: 'No bolts', reason: 'nobody sees them', when: { part: 'bolt_*' }, then: [{ do: 'drop' }] },
    {
      name: 'Wood is rough',
      when: { material: 'Wood' },
      then: [{ do: 'set', channel: 'roughness', value: 0.9 }],
    },
  ];
  await writeFile(join(folder, 'house.json'), JSON.stringify({ rulebook: 1, title: 'House', rules }));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const kinkajou = (...args: string[]) => callIn(folder, args);

/** Every file below a folder with its hash, but for what a run keeps for itself. */
async function content(path: string): Promise<Record<string, string>> {
  const found: Record<string, string> = {};
  for (const entry of await readdir(join(folder, path), { recursive: true, withFileTypes: true })) {
    const full = join(entry.parentPath, entry.name);
    const name = full.slice(join(folder, path).length + 1);
    if (entry.isFile() && !name.startsWith('.'))
      found[name] = createHash('sha256')
        .update(await readFile(full))
        .digest('hex');
  }
  return found;
}
const batch = (out: string, ...more: string[]) =>
  kinkajou('batch', 'props', '--to', 'web-gltf', '--out', out, '--rules', 'house.json', ...more);
const reportOf = async (out: string) => JSON.parse(await readFile(join(folder, out, 'batch.json'), 'utf8'));

describe('a batch', () => {
  it('hands each model to its place, with what rules did to it, and tells of one that cannot be read', async () => {
    const { exit, out } = await batch('one', '--json');
    const report = JSON.parse(out);
    expect(report).toEqual(await reportOf('one'));
    expect(exit).toBe(1);
    expect(report.batch).toBe(1);
    const [lamp, broken, wood] = report.assets;
    expect(report.assets.map(({ path }: { path: string }) => path)).toEqual([
      'a/lamp.obj',
      'b/broken.obj',
      'b/lamp.obj',
    ]);
    expect(lamp).toMatchObject({
      out: 'a/lamp',
      error: null,
      left: [],
      verdict: expect.stringMatching(/clean|with remarks/),
    });
    expect(lamp.edits).toEqual([
      {
        text: expect.stringContaining('Linked'),
        from: 'rule',
        detail: 'Old textures lie here now',
        rule: 'Old textures lie here now',
        rulebook: 'House',
      },
      {
        text: 'Dropped bolt_1',
        from: 'rule',
        detail: 'nobody sees them',
        rule: 'No bolts',
        rulebook: 'House',
      },
    ]);
    expect(broken).toEqual({
      path: 'b/broken.obj',
      verdict: null,
      out: null,
      edits: [],
      left: [],
      error: { code: 'obj.empty', message: expect.any(String) },
    });
    expect(wood.edits.map(({ rule }: { rule: string }) => rule)).toEqual(['Wood is rough']);
    expect(JSON.parse(await readFile(join(folder, 'one/a/lamp/receipt.json'), 'utf8')).edits).toEqual(
      lamp.edits,
    );
    expect((await readdir(join(folder, 'one'))).sort()).toEqual(['.kinkajou-batch', 'a', 'b', 'batch.json']);
    expect(await readdir(join(folder, 'one/b'))).toEqual(['lamp']);
  });

  it('writes what handoff writes, but for where images are told to lie', async () => {
    expect(
      (
        await kinkajou(
          'handoff',
          'props/b/lamp.obj',
          '--to',
          'web-gltf',
          '--out',
          'by-hand',
          '--rules',
          'house.json',
        )
      ).exit,
    ).toBe(0);
    const inBatch = Object.entries(await content('one/b/lamp')).filter(([path]) => !path.endsWith('.json'));
    const byHand = Object.entries(await content('by-hand')).filter(([path]) => !path.endsWith('.json'));
    expect(inBatch).toEqual(byHand);
  });

  it('refuses a folder that holds anything, unless it goes on there', async () => {
    expect(await batch('one')).toMatchObject({ exit: 2, err: expect.stringContaining('--resume') });
    await mkdir(join(folder, 'other'), { recursive: true });
    await writeFile(join(folder, 'other/notes.txt'), 'mine');
    expect(await batch('other', '--resume')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('no run of this folder wrote there'),
    });
    expect(await batch('props')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('cannot go into the folder'),
    });
    expect(await readFile(join(folder, 'other/notes.txt'), 'utf8')).toBe('mine');
  });

  it('that goes on writes nothing again that is unchanged and whole, and whatever else gives the same bytes', async () => {
    const whole = await content('one');
    const written = async (path: string) => (await stat(join(folder, 'one', path, 'receipt.json'))).mtimeMs;
    const [a, b] = [await written('a/lamp'), await written('b/lamp')];
    await batch('one', '--resume');
    expect([await written('a/lamp'), await written('b/lamp'), await content('one')]).toEqual([a, b, whole]);

    // Ended at a bad moment: a package and a report are missing, a file was cut off, and work lies about.
    await rm(join(folder, 'one/b/lamp'), { recursive: true });
    await rm(join(folder, 'one/batch.json'));
    const maps = Object.keys(whole).find((path) => path.startsWith('a/lamp/') && path.endsWith('.glb')) ?? '';
    await writeFile(join(folder, 'one', maps), 'cut');
    await mkdir(join(folder, 'one/.kinkajou-batch/work/half'), { recursive: true });
    await writeFile(join(folder, 'one/.kinkajou-batch/work/half/lamp.glb'), 'half');
    await batch('one', '--resume');
    expect(await content('one')).toEqual(whole);
    expect(await written('a/lamp')).toBeGreaterThan(a);

    // One asset's own image changes: that asset alone is made again.
    const before = await written('a/lamp');
    await cp(join(folder, 'props/b/wood_basecolor.png'), join(folder, 'wood.png'));
    await writeFile(
      join(folder, 'props/b/wood_basecolor.png'),
      await encodePng({
        width: 4,
        height: 4,
        components: 3,
        data: new Uint8Array(48).map((_, i) => (i * 53) % 200),
      }),
    );
    const changed = await written('b/lamp');
    await batch('one', '--resume');
    expect([await written('a/lamp'), (await written('b/lamp')) > changed]).toEqual([before, true]);
    await cp(join(folder, 'wood.png'), join(folder, 'props/b/wood_basecolor.png'));
    await batch('one', '--resume');
    expect(await content('one')).toEqual(whole);
  });

  it('goes to several destinations in folders of their names, some of them by rule alone', async () => {
    const book = {
      rulebook: 1,
      title: 'Out',
      rules: [
        {
          name: 'Wood to the engine',
          when: { material: 'Wood' },
          then: [{ do: 'handOff', to: 'engine-packed' }],
        },
      ],
    };
    await writeFile(join(folder, 'out.json'), JSON.stringify(book));
    await kinkajou(
      'batch',
      'props',
      '--to',
      'web-gltf',
      '--out',
      'two',
      '--rules',
      'out.json',
      '--threads',
      '1',
    );
    const files = Object.keys(await content('two'));
    expect(new Set(files.map((path) => path.split('/').slice(0, 3).join('/')))).toEqual(
      new Set(['batch.json', 'web-gltf/a/lamp', 'web-gltf/b/lamp', 'engine-packed/b/lamp']),
    );
    expect((await reportOf('two')).assets[0].left.map(({ code }: { code: string }) => code)).toContain(
      'link.outside',
    );
  });

  it('asks what a rule asks and leaves what a rule leaves; a stem that comes twice takes its extension', async () => {
    await mkdir(join(folder, 'twins'));
    for (const name of ['lamp.obj', 'Wood.mtl', 'wood_basecolor.png'])
      await cp(join(folder, 'props/b', name), join(folder, 'twins', name));
    expect((await kinkajou('convert', 'twins/lamp.obj', 'twins/lamp.glb')).exit).toBe(0);
    const rules = [
      { name: 'Never mind', when: { finding: 'slot.*' }, then: [{ do: 'leave' }] },
      { name: 'Look at it', when: { finding: 'map.unused' }, then: [{ do: 'ask' }] },
    ];
    await writeFile(join(folder, 'doubts.json'), JSON.stringify({ rulebook: 1, title: 'Doubts', rules }));
    const { exit } = await kinkajou(
      'batch',
      'twins',
      '--to',
      'web-gltf',
      '--out',
      'three',
      '--rules',
      'doubts.json',
      '--mend',
      'all',
    );
    const { assets } = await reportOf('three');
    expect(assets.map(({ out }: { out: string }) => out)).toEqual(['lamp_glb', 'lamp_obj']);
    const asked = assets.flatMap(({ left }: { left: { rule: string | null }[] }) =>
      left.map(({ rule }) => rule),
    );
    expect([exit, new Set(asked)]).toEqual([1, new Set(['Look at it'])]);
  });

  it('hands off what has an image that cannot be read, without it, and leaves that to be seen', async () => {
    await mkdir(join(folder, 'torn'));
    for (const name of ['lamp.obj', 'Wood.mtl'])
      await cp(join(folder, 'props/b', name), join(folder, 'torn', name));
    await writeFile(join(folder, 'torn/wood_basecolor.png'), 'a letter, and no image');
    expect(
      (await kinkajou('batch', 'torn', '--to', 'web-gltf', '--to', 'modelling', '--out', 'four')).exit,
    ).toBe(1);
    const [asset] = (await reportOf('four')).assets;
    expect([asset.error, asset.verdict, asset.left.map(({ code }: { code: string }) => code)]).toEqual([
      null,
      'with remarks',
      ['link.unreadable'],
    ]);
    const { losses, differences } = JSON.parse(
      await readFile(join(folder, 'four/web-gltf/lamp/receipt.json'), 'utf8'),
    );
    expect(losses).toEqual(['Wood: the image of base colour is missing; its value stands alone']);
    expect(differences.filter(({ exempt }: { exempt: string | null }) => exempt === null)).toEqual([]);
  });

  it('links to a folder elsewhere on the disk by its absolute path, and notices when that changes', async () => {
    await mkdir(join(folder, 'library'));
    await cp(join(folder, 'props/textures/iron_basecolor.png'), join(folder, 'library/iron_basecolor.png'));
    await mkdir(join(folder, 'lone'));
    for (const name of ['lamp.obj', 'Iron.mtl', 'iron_roughness.png'])
      await cp(join(folder, 'props/a', name), join(folder, 'lone', name));
    const to = join(folder, 'library');
    await writeFile(
      join(folder, 'library.json'),
      JSON.stringify({
        rulebook: 1,
        title: 'Library',
        rules: [{ name: 'From the library', when: {}, then: [{ do: 'link', from: 'p:\\OLD\\tex\\', to }] }],
      }),
    );
    const call = ['batch', 'lone', '--to', 'web-gltf', '--out', 'five', '--rules', 'library.json'];
    await kinkajou(...call);
    const [asset] = (await reportOf('five')).assets;
    expect([asset.error, asset.edits.map(({ rule }: { rule: string }) => rule), asset.left]).toEqual([
      null,
      ['From the library'],
      [],
    ]);
    const before = await content('five');
    await kinkajou(...call, '--resume');
    expect(await content('five')).toEqual(before);
    await cp(join(folder, 'props/b/wood_basecolor.png'), join(folder, 'library/iron_basecolor.png'));
    await kinkajou(...call, '--resume');
    expect((await content('five'))['lamp/lamp.glb']).not.toBe(before['lamp/lamp.glb']);
    await rm(to, { recursive: true });
    expect(await kinkajou(...call, '--resume')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('a rule names this folder'),
    });
  });

  it('goes on in threads with the bytes of one after the other, and with zips as with folders', async () => {
    const zips: Record<string, Uint8Array> = {};
    for (let i = 0; i < 8; i += 1) {
      const place = join(folder, `many/all/${i}`);
      await cp(join(folder, 'props/b'), place, { recursive: true });
      await rm(join(place, 'broken.obj'));
      if (i === 2) await writeFile(join(place, 'lamp.obj'), 'f 1 2 3\n');
      const files: Record<string, Uint8Array> = {};
      for (const name of await readdir(place)) files[name] = await readFile(join(place, name));
      zips[`${i}.zip`] = zipSync(files);
    }
    await mkdir(join(folder, 'packed'));
    await writeFile(join(folder, 'packed/all.zip'), zipSync(zips));
    const call = (dir: string, out: string, threads: string) =>
      kinkajou('batch', dir, '--to', 'web-gltf', '--rules', 'house.json', '--out', out, '--threads', threads);
    // The threads of fewer are not started.
    expect((await call('packed', 'many-2', '2')).exit).toBe(1);
    expect((await call('many', 'many-1', '1')).exit).toBe(1);
    expect(await content('many-2')).toEqual(await content('many-1'));
    const { assets } = await reportOf('many-2');
    expect(assets.map(({ path }: { path: string }) => path)).toContain('all/7/lamp.obj');
    expect(assets.map(({ error }: { error: { code: string } | null }) => error?.code ?? null)).toEqual(
      Array.from({ length: 8 }, (_, i) => (i === 2 ? 'obj.empty' : null)),
    );
    expect(await readdir(join(folder, 'many-2/.kinkajou-batch'))).not.toContain('work');
  });

  it('says what is wrong with a call', async () => {
    expect(await kinkajou('batch', 'nowhere', '--to', 'web-gltf', '--out', 'x')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('there is no such folder'),
    });
    expect(await kinkajou('batch', 'props', '--out', 'x')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('--to is missing'),
    });
    expect(
      await kinkajou('batch', 'props', '--to', 'web-gltf', '--out', 'x', '--threads', '0'),
    ).toMatchObject({
      exit: 2,
      err: expect.stringContaining('--threads'),
    });
    expect(
      await kinkajou('batch', 'props', '--to', 'web-gltf', '--out', 'x', '--rules', 'none.json'),
    ).toMatchObject({
      exit: 2,
      err: expect.stringContaining('cannot be read'),
    });
  });
});

describe('rules on the command line', () => {
  it('check tells the rule and the field, or what a rulebook holds', async () => {
    await writeFile(
      join(folder, 'bad.json'),
      JSON.stringify({
        rulebook: 1,
        title: 'Bad',
        rules: [{ name: 'Paint', when: {}, then: [{ do: 'paint' }] }],
      }),
    );
    await writeFile(join(folder, 'cut.json'), '{ "rulebook": 1,');
    const { exit, out } = await kinkajou('rules', 'check', 'house.json', 'bad.json', 'cut.json', '--json');
    const { files } = JSON.parse(out);
    expect(exit).toBe(1);
    expect(files.map(({ ok, rules }: { ok: boolean; rules: string[] }) => [ok, rules.length])).toEqual([
      [true, 3],
      [false, 0],
      [false, 0],
    ]);
    expect(files[1].error.message).toContain('in the rule "Paint"');
    expect((await kinkajou('rules', 'check', 'house.json')).out).toBe('house.json: House, 3 rules\n');
  });

  it('try tells what each would do, and writes nothing', async () => {
    const before = await content('.');
    const { exit, out } = await kinkajou(
      'rules',
      'try',
      'house.json',
      'props/a',
      'props/b/lamp.obj',
      '--json',
    );
    expect(exit).toBe(0);
    expect(
      JSON.parse(out).assets.map(({ path, rules }: { path: string; rules: { rule: string }[] }) => [
        path,
        rules.map(({ rule }) => rule),
      ]),
    ).toEqual([
      ['lamp.obj', ['No bolts']],
      ['lamp.obj', ['Wood is rough']],
    ]);
    expect(await content('.')).toEqual(before);
  });

  it('from makes a rulebook of a log that check takes', async () => {
    const edits = [
      {
        kind: 'editParts',
        change: { do: 'drop', parts: ['bolt_1'] },
        origin: { from: 'hand', detail: 'nobody sees them' },
      },
    ];
    const clears = {
      kind: 'clearSlots',
      slots: [{ material: 'Iron', channel: 'roughness' }],
      origin: edits[0].origin,
    };
    await writeFile(join(folder, 'log.json'), JSON.stringify({ edits: [...edits, clears] }));
    const { out, err } = await kinkajou('rules', 'from', 'log.json');
    expect(err).toContain('edits of the kind clearSlots have no rule');
    expect(JSON.parse(out).rules).toEqual([
      {
        name: 'Without bolt_1',
        reason: 'nobody sees them',
        when: { part: 'bolt_*' },
        then: [{ do: 'drop' }],
      },
    ]);
    await writeFile(join(folder, 'made.json'), out);
    expect((await kinkajou('rules', 'check', 'made.json')).exit).toBe(0);
    expect(await kinkajou('rules', 'from', 'house.json')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('it holds no edits'),
    });
  });

  it('a material is taken from a model file beside the rulebook, with its images', async () => {
    const when = { material: 'Iron' };
    const book = (name: string) => ({
      rulebook: 1,
      title: 'Swap',
      rules: [{ name: 'Wooden', when, then: [{ do: 'replaceMaterial', with: name }] }],
    });
    await writeFile(join(folder, 'swap.json'), JSON.stringify(book('props/b/lamp.obj')));
    // Its own roughness has no slot any more, which is asked about.
    expect(
      (
        await kinkajou(
          'handoff',
          'props/a/lamp.obj',
          '--to',
          'web-gltf',
          '--out',
          'swapped',
          '--rules',
          'swap.json',
          '--json',
        )
      ).exit,
    ).toBe(1);
    const report = JSON.parse((await kinkajou('inspect', 'swapped/lamp.glb', '--json')).out);
    expect(report.materials).toMatchObject([
      { name: 'Iron', channels: { baseColor: { map: expect.anything() } } },
    ]);
    await writeFile(join(folder, 'swap.json'), JSON.stringify(book('props/b/lamp.obj#Gold')));
    expect(
      await kinkajou(
        'handoff',
        'props/a/lamp.obj',
        '--to',
        'web-gltf',
        '--out',
        'swapped2',
        '--rules',
        'swap.json',
      ),
    ).toMatchObject({
      exit: 2,
      err: expect.stringContaining('it has no material "Gold"'),
    });
  });
});
