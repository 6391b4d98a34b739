import { copyFile, cp, mkdir, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { decodeImage } from '../../core/src/images/decode.ts';
import { encodePng } from '../../core/src/images/encode.ts';
import { callIn } from './test/call.ts';
import { crateFolder } from './test/crate.ts';

let folder: string;
const kinkajou = (...args: string[]) => callIn(folder, args);

beforeAll(async () => {
  folder = await crateFolder();
});

describe('packages', () => {
  it('hands off with mends that make images: fringes are padded in the package', async () => {
    const alpha = new Uint8Array(32 * 32 * 4);
    for (let i = 0; i < 32 * 32; i += 1)
      alpha.set(i % 32 < 16 ? [200, 40 + (i >> 5) * 4, 20, 255] : [255, 255, 255, 0], i * 4);
    await mkdir(join(folder, 'net'), { recursive: true });
    await writeFile(
      join(folder, 'net/net.obj'),
      await readFile(join(folder, 'crate/crate.obj'), 'utf8').then((text) =>
        text.replace('crate.mtl', 'net.mtl'),
      ),
    );
    await writeFile(
      join(folder, 'net/net.mtl'),
      'newmtl Plank\nKd 1 1 1\nmap_Kd net_basecolor.png\nmap_d -imfchan m net_basecolor.png\nPr 0.8\n',
    );
    await writeFile(
      join(folder, 'net/net_basecolor.png'),
      await encodePng({ width: 32, height: 32, components: 4, data: alpha }),
    );
    const done = await kinkajou(
      'handoff',
      'net/net.obj',
      '--to',
      'web-gltf',
      '--out',
      'net-out',
      '--variant',
      'gltf',
      '--mend',
      'all',
      '--json',
    );
    const receipt = JSON.parse(done.out);
    expect(receipt.verdict).not.toBe('failed');
    const image = receipt.outputs.find((file: { path: string }) => file.path.startsWith('maps/'));
    const { data } = await decodeImage(await readFile(join(folder, 'net-out', image.path)), 'out.png');
    expect([...data.slice(20 * 4, 20 * 4 + 4)]).toEqual([200, 40, 20, 0]);
  });

  it('hands off to an engine, verifies the package, and finds a changed byte', async () => {
    expect(
      (
        await kinkajou(
          'handoff',
          'tinted/crate.obj',
          '--to',
          'engine-packed',
          '--out',
          'engine',
          '--variant',
          'glb',
        )
      ).exit,
    ).toBe(2);
    const done = await kinkajou(
      'handoff',
      'tinted/crate.obj',
      '--to',
      'engine-packed',
      '--out',
      'engine',
      '--json',
    );
    const receipt = JSON.parse(done.out);
    expect(receipt.outputs.map((file: { path: string }) => file.path).sort()).toEqual([
      'README.html',
      'crate.fbx',
      'handoff.json',
      'maps/T_Plank_BC.png',
    ]);
    expect((await kinkajou('verify', 'engine')).exit).toBe(0);
    const path = join(folder, 'engine/crate.fbx');
    const bytes = await readFile(path);
    bytes[100] ^= 1;
    await writeFile(path, bytes);
    const bad = await kinkajou('verify', 'engine', '--json');
    expect(bad.exit).toBe(1);
    expect(JSON.parse(bad.out).faults).toMatchObject([{ path: 'crate.fbx', fault: 'changed' }]);
    expect((await kinkajou('verify', 'elsewhere')).exit).toBe(2);
    const { destinations } = JSON.parse((await kinkajou('destinations', '--json')).out);
    const own = {
      ...destinations.find((one: { id: string }) => one.id === 'engine-packed'),
      id: 'quay-engine',
      names: { file: '{asset}_{part}', material: '{material}', map: 'Q_{material}_{suffix}' },
      upAxis: 'Y',
    };
    await writeFile(join(folder, 'quay.json'), JSON.stringify(own));
    const made = await kinkajou(
      'handoff',
      'tinted/crate.obj',
      '--to',
      'quay.json',
      '--out',
      'quay',
      '--json',
    );
    expect(JSON.parse(made.out)).toMatchObject({
      destination: 'quay-engine',
      outputs: expect.arrayContaining([expect.objectContaining({ path: 'maps/Q_Plank_BC.png' })]),
    });
    await writeFile(join(folder, 'quay.json'), JSON.stringify({ ...own, upAxis: 'X' }));
    expect(await kinkajou('handoff', 'tinted/crate.obj', '--to', 'quay.json', '--out', 'quay')).toMatchObject(
      {
        exit: 2,
        err: expect.stringContaining('upAxis'),
      },
    );
  });

  it('tells the plan, hands off to two destinations in one call, and compares with the package', async () => {
    const plan = JSON.parse(
      (await kinkajou('handoff', 'tinted/crate.obj', '--to', 'engine-packed', '--plan', '--json')).out,
    );
    expect(plan.plans[0].files.map((file: { path: string }) => file.path)).toEqual([
      'crate.fbx',
      'maps/T_Plank_BC.png',
      'README.html',
      'handoff.json',
      'receipt.json',
    ]);
    const done = await kinkajou(
      'handoff',
      'tinted/crate.obj',
      '--to',
      'engine-packed',
      '--to',
      'compositor-classic',
      '--out',
      'both',
      '--size',
      '40cm',
      '--json',
    );
    expect(done).toMatchObject({
      exit: 2,
      err: expect.stringContaining('engine-packed does not leave the size open'),
    });
    const both = await kinkajou(
      'handoff',
      'tinted/crate.obj',
      '--to',
      'engine-packed',
      '--to',
      'web-gltf',
      '--out',
      'both',
      '--json',
    );
    expect(
      JSON.parse(both.out).receipts.map((receipt: { destination: string }) => receipt.destination),
    ).toEqual(['engine-packed', 'web-gltf']);
    expect((await kinkajou('verify', 'both/web-gltf')).exit).toBe(0);
    const same = await kinkajou('compare', 'tinted/crate.obj', 'both/engine-packed');
    expect(same).toMatchObject({
      exit: 0,
      out: expect.stringMatching(/^crate: same; unlit base colour equal within rounding/),
    });
    // Two packages are held against each other as they are, in whatever format.
    const forms = ['modelling', 'compositor-usd'];
    await kinkajou('handoff', 'tinted/crate.obj', ...forms.flatMap((id) => ['--to', id]), '--out', 'forms');
    await cp(join(folder, 'forms'), join(folder, 'twins'), { recursive: true });
    for (const id of forms)
      expect(await kinkajou('compare', `forms/${id}`, `twins/${id}`)).toMatchObject({ exit: 0 });
    const sheet = join(folder, 'twins', 'modelling', 'handoff.json');
    await writeFile(sheet, (await readFile(sheet, 'utf8')).replaceAll('"upAxis": "', '"upAxis": "-'));
    expect(await kinkajou('compare', 'forms/modelling', 'twins/modelling')).toMatchObject({
      exit: 1,
      out: expect.stringContaining('of the upward axis'),
    });
    // Without a package the net meets a careless reader, who does not see its alpha: half of it is not there.
    const careless = JSON.parse((await kinkajou('compare', 'net/net.obj', '--json')).out).compared[0];
    expect(careless.verdict).toBe('different');
    expect(
      careless.differences.map(
        ({ code, channel }: { code: string; channel: string }) => `${code} ${channel}`,
      ),
    ).toContain('channel.differs opacity');
    const opacity = careless.channels[0].channels.find(
      (one: { channel: string }) => one.channel === 'opacity',
    );
    expect([opacity.largest, opacity.beyond]).toEqual([1, 0.5]);
  });

  it('compares any two models, and tells what differs with its code and place', async () => {
    expect(await kinkajou('compare', 'tinted/crate.obj', 'tinted')).toMatchObject({
      exit: 0,
      out: expect.stringContaining('crate: same'),
    });
    await mkdir(join(folder, 'bent'), { recursive: true });
    for (const file of await readdir(join(folder, 'tinted')))
      await copyFile(join(folder, 'tinted', file), join(folder, 'bent', file));
    const obj = join(folder, 'bent', 'crate.obj');
    await writeFile(obj, (await readFile(obj, 'utf8')).replace(/^v \S+/m, 'v 9'));
    const bent = await kinkajou('compare', 'tinted/crate.obj', 'bent/crate.obj', '--json');
    expect(bent.exit).toBe(1);
    const [{ verdict, differences }] = JSON.parse(bent.out).compared;
    expect(verdict).toBe('different');
    expect(differences).toEqual([
      {
        code: 'shape.points',
        part: expect.any(String),
        material: null,
        channel: null,
        measured: expect.any(Number),
        allowed: 0,
        exempt: null,
        message: expect.stringContaining('places'),
      },
    ]);
    // Beside the first one in its folder, under another name, it is that one all the same.
    await copyFile(obj, join(folder, 'tinted', 'crate_bent.obj'));
    const beside = await kinkajou('compare', 'tinted/crate.obj', 'tinted/crate_bent.obj');
    await rm(join(folder, 'tinted', 'crate_bent.obj'));
    expect(beside).toMatchObject({ exit: 1, out: expect.stringContaining('crate: different') });
    await mkdir(join(folder, 'empty'), { recursive: true });
    expect(await kinkajou('compare', 'tinted/crate.obj', 'empty')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('there is no model in it'),
    });
  });
});
