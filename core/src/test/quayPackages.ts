import { type Document, NodeIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import sharp from 'sharp';
import { initialState } from '../asset/asset.ts';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { comparePackage } from '../handoff/compareHandoff.ts';
import { handOff } from '../handoff/handoff.ts';
import { sheetOfPackage } from '../handoff/readBack/sheetOfPackage.ts';
import type { Sheet } from '../handoff/write/sheet.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { BOX_QUADS } from './boxes.ts';

export type Files = Map<string, Uint8Array>;

const SIDE = 16;
const encode = (text: string) => new TextEncoder().encode(text);
const decode = (bytes: Uint8Array | undefined) => new TextDecoder().decode(bytes);

async function image(of: (x: number, y: number) => number[]): Promise<Uint8Array> {
  const channels = of(0, 0).length as 1 | 3;
  const data = Buffer.from(
    Array.from({ length: SIDE * SIDE }, (_, i) => of(i % SIDE, Math.floor(i / SIDE))).flat(),
  );
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
    const index = i * 8;
    for (let k = 0; k < 8; k += 1) lines.push(`v ${(k & 1) + i * 2} ${k & 2 ? 0.6 : 0} ${k & 4 ? 0.4 : 0}`);
    for (let k = 0; k < 8; k += 1) lines.push(`vt ${0.1 + 0.1 * k} ${0.9 - 0.07 * k}`);
    for (const quad of BOX_QUADS)
      lines.push(`f ${quad.map((k) => `${index + k + 1}/${index + k + 1}`).join(' ')}`);
  });
  const maps: Record<string, Uint8Array> = {};
  for (const [i, name] of ['oak', 'brass'].entries()) {
    maps[`${name}_color.png`] = await image((x, y) => [
      80 + x * 6 + i * 40,
      60 + y * 5,
      30 + ((x + y) % 5) * 9,
    ]);
    maps[`${name}_rough.png`] = await image((x, y) => [60 + x * 5 + y * 3]);
    maps[`${name}_metal.png`] = await image((x) => [x < 8 ? 0 : 255]);
    maps[`${name}_normal.png`] = await image((x, y) => [128 + (x % 4) * 9, 128 + (y % 3) * 14, 240]);
  }
  const mtl = ['Oak', 'Brass'].flatMap((name) => {
    const low = name.toLowerCase();
    return [
      `newmtl ${name}`,
      'Kd 1 1 1',
      `map_Kd ${low}_color.png`,
      `map_Pr ${low}_rough.png`,
      `map_Pm ${low}_metal.png`,
      `norm ${low}_normal.png`,
    ];
  });
  const files = {
    'quay.obj': encode(`${lines.join('\n')}\n`),
    'quay.mtl': encode(`${mtl.join('\n')}\n`),
    ...maps,
  };
  const { document, source, images, read } = await openAsset(memorySource('quay', files), 'quay.obj');
  return { document, source, state: initialState(source), images, read, edits: [], findings: [], threads: 1 };
}

let inputs: Awaited<ReturnType<typeof quay>>;
const packages = new Map<string, Files>();

/** Makes the packages of the quay; what tests do with them begins here. */
export async function makePackages(): Promise<void> {
  inputs = await quay();
  for (const [id, variant] of [
    ['web-gltf', 'glb'],
    ['compositor-usd', 'usda'],
    ['render-specgloss', 'obj'],
    ['engine-packed', 'fbx'],
    ['modelling', 'fbx'],
  ])
    packages.set(
      id,
      (await handOff({ ...inputs, destination: findDestination(id) as Destination, choices: { variant } }))
        .files,
    );
}

/** Codes of what is found in a package after it was changed by other means than ours. */
export async function found(id: string, change: (files: Files) => Promise<void> | void): Promise<string[]> {
  const files = new Map(packages.get(id) as Files);
  await change(files);
  const opened = memorySource('package', Object.fromEntries(files));
  const sheet = await sheetOfPackage(opened);
  if (!sheet) throw new Error('no sheet');
  const { differences } = await comparePackage(inputs, opened, sheet);
  return [
    ...new Set(
      differences.map(({ code, material, channel, part }) =>
        [code, material ?? part, channel].filter(Boolean).join(' '),
      ),
    ),
  ];
}

const io = new NodeIO().registerExtensions(ALL_EXTENSIONS);

/** Changes a GLB through another library. */
export const inGlb = (change: (document: Document) => Promise<void> | void) => async (files: Files) => {
  const document = await io.readBinary(files.get('quay.glb') as Uint8Array);
  await change(document);
  files.set('quay.glb', await io.writeBinary(document));
};

export const inText = (path: string, change: (text: string) => string) => (files: Files) => {
  const before = decode(files.get(path));
  const after = change(before);
  if (after === before) throw new Error(`nothing changed in ${path}`);
  files.set(path, encode(after));
};

export const inSheet = (change: (sheet: Sheet) => unknown) => (files: Files) => {
  const sheet = JSON.parse(decode(files.get('handoff.json'))) as Sheet;
  change(sheet);
  files.set('handoff.json', encode(JSON.stringify(sheet)));
};

/** Changes the pixels of an image of the package through sharp. */
export const inImage = (pattern: RegExp, change: (pixel: number[]) => number[]) => async (files: Files) => {
  const path = [...files.keys()].find((name) => pattern.test(name)) as string;
  const { data, info } = await sharp(files.get(path) as Uint8Array)
    .raw()
    .toBuffer({ resolveWithObject: true });
  for (let index = 0; index < data.length; index += info.channels)
    Buffer.from(change([...data.subarray(index, index + info.channels)])).copy(data, index);
  files.set(
    path,
    new Uint8Array(
      await sharp(data, { raw: { width: info.width, height: info.height, channels: info.channels } })
        .png()
        .toBuffer(),
    ),
  );
};

export const material = (document: Document, name: string) =>
  document
    .getRoot()
    .listMaterials()
    .find((one) => one.getName() === name) as ReturnType<Document['createMaterial']>;

/**
 * Sets numbers of a property in a binary FBX, by its bytes: a name, three more words, then doubles or whole
 * numbers.
 */
export const inFbx =
  (name: string, ...numbers: number[]) =>
  (files: Files) => {
    const bytes = Buffer.from(files.get('quay.fbx') as Uint8Array);
    const word = Buffer.concat([Buffer.from([0x53, name.length, 0, 0, 0]), Buffer.from(name)]);
    // What stands first may be the template that all records share; others name the property without having
    // it.
    const after = (from: number) => {
      let index = from + word.length;
      for (let i = 0; i < 3 && bytes[index] === 0x53; i += 1) index += 5 + bytes.readUInt32LE(index + 1);
      return bytes[index] === 0x44 || bytes[index] === 0x49 ? index : -1;
    };
    let offset = -1;
    for (let from = bytes.indexOf(word); from >= 0; from = bytes.indexOf(word, from + 1))
      if (after(from) >= 0) offset = after(from);
    if (offset < 0) throw new Error(`no ${name}`);
    for (const number of numbers) {
      if (bytes[offset] === 0x44) offset = bytes.writeDoubleLE(number, offset + 1);
      else offset = bytes.writeInt32LE(number, offset + 1);
    }
    files.set('quay.fbx', new Uint8Array(bytes));
  };

/** Puts a word of the same length in another's place, wherever it stands in a binary FBX. */
export const inFbxWords = (from: string, to: string) => (files: Files) => {
  const text = Buffer.from(files.get('quay.fbx') as Uint8Array).toString('latin1');
  if (!text.includes(from) || from.length !== to.length) throw new Error(`no ${from}`);
  files.set('quay.fbx', new Uint8Array(Buffer.from(text.replaceAll(from, to), 'latin1')));
};
