import { type Document, NodeIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { initialState } from '../asset/asset.ts';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { comparePackage, sheetOfPackage } from './compareHandoff.ts';
import { handOff } from './handoff.ts';

type Files = Map<string, Uint8Array>;

const SIDE = 16;
const encode = (text: string) => new TextEncoder().encode(text);
const decode = (bytes: Uint8Array | undefined) => new TextDecoder().decode(bytes);

async function image(of: (x: number, y: number) => number[]): Promise<Uint8Array> {
  const channels = of(0, 0).length as 1 | 3;
  const data = Buffer.from(Array.from({ length: SIDE * SIDE }, (_, i) => of(i % SIDE, Math.floor(i / SIDE))).flat());
  return new Uint8Array(
    await sharp(data, { raw: { width: SIDE, height: SIDE, channels } })
      .toColourspace(channels === 1 ? 'b-w' : 'srgb')
      .png()
      .toBuffer(),
  );
}

/** Two crates of two materials with everything in their maps. */
async function quay() {
  const lines: string[] = ['mtllib quay.mtl'];
  ['Crate', 'Barrel'].forEach((name, i) => {
    lines.push(`o ${name}`, `usemtl ${i === 0 ? 'Oak' : 'Brass'}`);
    const at = i * 8;
    for (let k = 0; k < 8; k += 1) lines.push(`v ${(k & 1) + i * 2} ${k & 2 ? 0.6 : 0} ${k & 4 ? 0.4 : 0}`);
    for (let k = 0; k < 8; k += 1) lines.push(`vt ${0.1 + 0.1 * k} ${0.9 - 0.07 * k}`);
    for (const quad of [
      [0, 4, 6, 2],
      [1, 3, 7, 5],
      [0, 1, 5, 4],
      [2, 6, 7, 3],
      [0, 2, 3, 1],
      [4, 5, 7, 6],
    ])
      lines.push(`f ${quad.map((k) => `${at + k + 1}/${at + k + 1}`).join(' ')}`);
  });
  const maps: Record<string, Uint8Array> = {};
  for (const [i, name] of ['oak', 'brass'].entries()) {
    maps[`${name}_color.png`] = await image((x, y) => [80 + x * 6 + i * 40, 60 + y * 5, 30 + ((x + y) % 5) * 9]);
    maps[`${name}_rough.png`] = await image((x, y) => [60 + x * 5 + y * 3]);
    maps[`${name}_metal.png`] = await image((x) => [x < 8 ? 0 : 255]);
    maps[`${name}_normal.png`] = await image((x, y) => [128 + (x % 4) * 9, 128 + (y % 3) * 14, 240]);
  }
  const mtl = ['Oak', 'Brass'].flatMap((name) => {
    const low = name.toLowerCase();
    return [`newmtl ${name}`, 'Kd 1 1 1', `map_Kd ${low}_color.png`, `map_Pr ${low}_rough.png`, `map_Pm ${low}_metal.png`, `norm ${low}_normal.png`];
  });
  const files = { 'quay.obj': encode(`${lines.join('\n')}\n`), 'quay.mtl': encode(`${mtl.join('\n')}\n`), ...maps };
  const { document, source, images, read } = await openAsset(memorySource('quay', files), 'quay.obj');
  return { document, source, state: initialState(source), images, read, edits: [], findings: [], threads: 1 };
}

let inputs: Awaited<ReturnType<typeof quay>>;
const packages = new Map<string, Files>();
beforeAll(async () => {
  inputs = await quay();
  for (const [id, variant] of [
    ['web-gltf', 'glb'],
    ['compositor-usd', 'usda'],
    ['render-specgloss', 'obj'],
    ['engine-packed', 'fbx'],
    ['modelling', 'fbx'],
  ])
    packages.set(id, (await handOff({ ...inputs, destination: findDestination(id) as Destination, choices: { variant } })).files);
}, 60_000);

/** Codes of what is found in a package after it was changed by other means than ours. */
async function found(id: string, change: (files: Files) => Promise<void> | void): Promise<string[]> {
  const files = new Map(packages.get(id) as Files);
  await change(files);
  const opened = memorySource('package', Object.fromEntries(files));
  const sheet = await sheetOfPackage(opened);
  if (!sheet) throw new Error('no sheet');
  const { differences } = await comparePackage(inputs, opened, sheet);
  return [...new Set(differences.map(({ code, material, channel, part }) => [code, material ?? part, channel].filter(Boolean).join(' ')))];
}

const io = new NodeIO().registerExtensions(ALL_EXTENSIONS);

/** Changes a GLB through another library. */
const inGlb = (change: (document: Document) => Promise<void> | void) => async (files: Files) => {
  const document = await io.readBinary(files.get('quay.glb') as Uint8Array);
  await change(document);
  files.set('quay.glb', await io.writeBinary(document));
};

const inText = (path: string, change: (text: string) => string) => (files: Files) => {
  const before = decode(files.get(path));
  const after = change(before);
  if (after === before) throw new Error(`nothing changed in ${path}`);
  files.set(path, encode(after));
};

/** Changes the pixels of an image of the package through sharp. */
const inImage = (pattern: RegExp, change: (pixel: number[]) => number[]) => async (files: Files) => {
  const path = [...files.keys()].find((name) => pattern.test(name)) as string;
  const { data, info } = await sharp(files.get(path) as Uint8Array)
    .raw()
    .toBuffer({ resolveWithObject: true });
  for (let at = 0; at < data.length; at += info.channels) Buffer.from(change([...data.subarray(at, at + info.channels)])).copy(data, at);
  files.set(
    path,
    new Uint8Array(
      await sharp(data, { raw: { width: info.width, height: info.height, channels: info.channels } })
        .png()
        .toBuffer(),
    ),
  );
};

const material = (document: Document, name: string) =>
  document
    .getRoot()
    .listMaterials()
    .find((one) => one.getName() === name) as ReturnType<Document['createMaterial']>;

describe('packages that nobody changed, or changed in form alone, are the same', () => {
  it.each(['web-gltf', 'compositor-usd', 'render-specgloss', 'engine-packed', 'modelling'])('%s as it was written', async (id) => {
    expect(await found(id, () => {})).toEqual([]);
  });

  it('with PNGs packed anew', async () => {
    const anew = async (files: Files) => {
      for (const [path, bytes] of files)
        if (path.endsWith('.png')) files.set(path, new Uint8Array(await sharp(bytes).png({ compressionLevel: 1, adaptiveFiltering: true }).toBuffer()));
    };
    expect(await found('engine-packed', anew)).toEqual([]);
    expect(await found('compositor-usd', anew)).toEqual([]);
  });

  it('with the GLB written by another library', async () => {
    expect(
      await found(
        'web-gltf',
        inGlb(() => {}),
      ),
    ).toEqual([]);
  });

  it('with other line ends and comments in OBJ and MTL, other blanks in USDA, the sheet saved anew', async () => {
    const crlf = (text: string) => `# saved at the quay\r\n${text.replaceAll('\n', '\r\n')}`;
    expect(await found('render-specgloss', (files) => [inText('quay.obj', crlf), inText('quay.mtl', crlf)].forEach((change) => change(files)))).toEqual([]);
    expect(
      await found(
        'compositor-usd',
        inText('quay.usda', (text) => text.replaceAll('    ', '\t').replace('#usda 1.0', '#usda 1.0\n# saved at the quay')),
      ),
    ).toEqual([]);
    expect(
      await found(
        'engine-packed',
        inText('handoff.json', (text) => JSON.stringify(JSON.parse(text))),
      ),
    ).toEqual([]);
  });
});

describe('what is wrong in a glTF package is found', () => {
  it.each<[string, (document: Document) => Promise<void> | void, string[]]>([
    [
      'a part is gone',
      (document) =>
        document
          .getRoot()
          .listNodes()
          .find((node) => node.getName() === 'Barrel')
          ?.dispose(),
      ['part.missing Barrel'],
    ],
    [
      'a part is moved',
      (document) =>
        void document
          .getRoot()
          .listNodes()
          .find((node) => node.getName() === 'Crate')
          ?.setTranslation([0, 0.2, 0]),
      ['part.moved Crate'],
    ],
    [
      'two textures are exchanged',
      (document) => {
        const [oak, brass] = [material(document, 'Oak'), material(document, 'Brass')];
        const own = oak.getBaseColorTexture();
        oak.setBaseColorTexture(brass.getBaseColorTexture());
        brass.setBaseColorTexture(own);
      },
      ['channel.differs Oak baseColor', 'channel.differs Brass baseColor', 'sheet.contradicts Oak baseColor', 'sheet.contradicts Brass baseColor'],
    ],
    [
      'the normal map is gone',
      (document) => void material(document, 'Oak').setNormalTexture(null),
      ['channel.missing Oak normal', 'sheet.contradicts Oak normal'],
    ],
    ['a factor is another', (document) => void material(document, 'Brass').setRoughnessFactor(0.5), ['channel.differs Brass roughness']],
    ['alpha is declared otherwise', (document) => void material(document, 'Oak').setAlphaMode('MASK'), ['alpha.mode Oak opacity', 'sheet.contradicts Oak']],
    ['both sides are shown', (document) => void material(document, 'Oak').setDoubleSided(true), ['sides Oak', 'sheet.contradicts Oak']],
    ['an image is clamped', (document) => void material(document, 'Oak').getBaseColorTextureInfo()?.setWrapS(33071), ['use.wrap Oak baseColor']],
    [
      'materials of the parts are exchanged',
      (document) => {
        const [one, two] = document
          .getRoot()
          .listMeshes()
          .map((mesh) => mesh.listPrimitives()[0]);
        const own = one.getMaterial();
        one.setMaterial(two.getMaterial());
        two.setMaterial(own);
      },
      ['shape.materials Crate', 'shape.materials Barrel'],
    ],
    [
      'UVs are upside down',
      (document) => {
        const uv = document.getRoot().listMeshes()[0].listPrimitives()[0].getAttribute('TEXCOORD_0');
        for (let i = 0; uv && i < uv.getCount(); i += 1) {
          const [u, v] = uv.getElement(i, [0, 0]);
          uv.setElement(i, [u, 1 - v]);
        }
      },
      ['shape.uv Crate'],
    ],
    [
      'triangles look the other way',
      (document) => {
        const indices = document.getRoot().listMeshes()[0].listPrimitives()[0].getIndices();
        const array = indices?.getArray();
        for (let i = 0; array && i < array.length; i += 3) [array[i], array[i + 1]] = [array[i + 1], array[i]];
      },
      ['shape.winding Crate'],
    ],
  ])('%s', async (_, change, codes) => {
    expect(await found('web-gltf', inGlb(change))).toEqual(codes);
  });
});

describe('what is wrong in a USD package is found', () => {
  it.each<[string, (text: string) => string, string[]]>([
    ['the unit', (text) => text.replace(/metersPerUnit = 1\b/, 'metersPerUnit = 0.01'), ['model.unit']],
    ['the axis', (text) => text.replace('upAxis = "Y"', 'upAxis = "Z"'), ['model.axes']],
    ['the colour space of a map', (text) => text.replace('"sRGB"', '"raw"'), ['channel.differs Oak baseColor', 'sheet.contradicts Oak baseColor']],
    [
      'the range of a normal',
      (text) => text.replace('(2, 2, 2, 1)', '(2, -2, 2, 1)').replace('(-1, -1, -1, 0)', '(-1, 1, -1, 0)'),
      ['channel.differs Oak normal', 'sheet.contradicts Oak normal'],
    ],
    ['the wrap of a map', (text) => text.replace('inputs:wrapS = "repeat"', 'inputs:wrapS = "mirror"'), ['use.wrap Oak baseColor']],
  ])('%s', async (_, change, codes) => {
    expect(await found('compositor-usd', inText('quay.usda', change))).toEqual(codes);
  });
});

describe('what is wrong in an OBJ package is found', () => {
  it.each<[string, string, (text: string) => string, string[]]>([
    ['a vertex', 'quay.obj', (text) => text.replace(/^v .*$/m, 'v 7 7 7'), ['shape.points Crate']],
    ['a face', 'quay.obj', (text) => text.replace(/^f .*\n/m, ''), ['shape.faces Crate']],
    ['which material is on what', 'quay.obj', (text) => text.replace('usemtl Oak', 'usemtl Brass'), ['shape.materials Crate']],
    ['an image in the wrong slot', 'quay.mtl', (text) => text.replace(/(map_Kd .*)diffuse/, '$1specular'), ['channel.differs Oak baseColor']],
    [
      'an image that is not there',
      'quay.mtl',
      (text) => text.replace(/(map_Ns .*)\.tif/, '$1_gone.tif'),
      ['file.missing Oak glossiness', 'channel.differs Oak roughness'],
    ],
    ['the opacity', 'quay.mtl', (text) => text.replace(/newmtl Oak\n/, 'newmtl Oak\nd 0.5\n'), ['channel.differs Oak opacity', 'alpha.mode Oak opacity']],
  ])('%s', async (_, path, change, codes) => {
    const codesFound = await found('render-specgloss', inText(path, change));
    for (const code of codes) expect(codesFound).toContain(code);
  });
});

describe('what is wrong in images and sheets is found, whatever the format', () => {
  it.each<[string, string, (files: Files) => Promise<void> | void, string[]]>([
    [
      'components of a packed image exchanged',
      'engine-packed',
      inImage(/Oak_ORM/, ([r, g, b]) => [r, b, g]),
      ['channel.differs Oak metalness', 'channel.differs Oak roughness'],
    ],
    ['green of a normal flipped', 'engine-packed', inImage(/Oak_N\./, ([r, g, b]) => [r, 255 - g, b]), ['channel.differs Oak normal']],
    ['an image darker', 'modelling', inImage(/Brass_basecolor/i, (pixel) => pixel.map((code) => Math.round(code * 0.9))), ['channel.differs Brass baseColor']],
    [
      'an image gone',
      'modelling',
      (files) => void files.delete([...files.keys()].find((path) => /Oak_roughness/.test(path)) as string),
      ['file.missing Oak roughness'],
    ],
    [
      'a word of the sheet',
      'engine-packed',
      inText('handoff.json', (text) => text.replace('"component": "g"', '"component": "r"')),
      ['sheet.contradicts Oak roughness'],
    ],
    ['the model gone', 'modelling', (files) => void files.delete('quay.fbx'), ['file.missing']],
    ['the model cut', 'modelling', (files) => void files.set('quay.fbx', (files.get('quay.fbx') as Uint8Array).slice(0, 300)), ['file.unreadable']],
  ])('%s', async (_, id, change, codes) => {
    const all = await found(id, change);
    for (const code of codes) expect(all).toContain(code);
  });
});
