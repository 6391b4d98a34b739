import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import type { AssetImage } from '../asset/asset.ts';
import { createDocument, createMesh, createNode, type SceneDocument } from '../scene/document.ts';
import {
  type ChannelName,
  createMapUse,
  createMaterial,
  type MapUse,
  type Material,
} from '../scene/material.ts';
import { compareModels, type ModelCompareOptions, type ModelSide } from './compareModels.ts';

const SIDE = 16;
const files = new Map<string, Uint8Array>();

/** Grey by pixel, as a PNG of a size. */
async function paint(name: string, of: (x: number, y: number) => number, size = SIDE): Promise<void> {
  const data = Buffer.from(Array.from({ length: size * size }, (_, i) => of(i % size, Math.floor(i / size))));
  files.set(
    name,
    new Uint8Array(
      await sharp(data, { raw: { width: size, height: size, channels: 1 } })
        .toColourspace('b-w')
        .png()
        .toBuffer(),
    ),
  );
}

const level = (x: number, y: number) => 60 + x * 8 + y * 3;

beforeAll(async () => {
  await paint('rough.png', level);
  await paint('step.png', (x, y) => level(x, y) + 1);
  await paint('two.png', (x, y) => level(x, y) + 2);
  await paint('turned.png', (x, y) => level(SIDE - 1 - x, y));
  await paint('small.png', (x, y) => level(x * 2 + 0.5, y * 2 + 0.5), SIDE / 2);
  await paint('smallTurned.png', (x, y) => level(SIDE - 1 - x * 2, y * 2 + 0.5), SIDE / 2);
});

/** A square of one material with two UV sets. */
function quay(change: (material: Material) => void): ModelSide {
  const document = createDocument('usd', 'made');
  const uv = (name: string) => ({
    name,
    size: 2 as const,
    domain: 'corner' as const,
    values: Float64Array.of(0, 0, 1, 0, 1, 1, 0, 1),
    index: null,
  });
  document.meshes.push(
    createMesh('wall', {
      points: new Float64Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]),
      faceCounts: new Uint32Array([4]),
      faceCorners: new Uint32Array([0, 1, 2, 3]),
      uvSets: [uv('map1'), uv('map2')],
    }),
  );
  const material = createMaterial('Stone', 'metalRough');
  material.channels.baseColor = { value: [0.5, 0.4, 0.3], map: null, source: { from: 'file', detail: '' } };
  change(material);
  document.materials.push(material);
  document.nodes.push(createNode('Wall', 'mesh', -1, { mesh: 0, materials: [0] }));
  document.metresPerUnit = 1;
  return sideOf(document);
}

/** Two walls, each with a material of the one name that all have: their roughness, in the order written. */
function namesakes(written: number[], carriedBy: Record<string, number>): ModelSide {
  const { document } = quay(() => undefined);
  document.materials = written.map((value, i) => {
    const material = createMaterial('Stone', 'metalRough');
    material.channels.roughness = { value, map: null, source: { from: 'file', detail: '' } };
    return { ...material, key: i === 0 ? 'Stone' : `Stone (${i + 1})` };
  });
  document.nodes = Object.entries(carriedBy).map(([name, index]) =>
    createNode(name, 'mesh', -1, { mesh: 0, materials: [index] }),
  );
  return sideOf(document);
}

function sideOf(document: SceneDocument): ModelSide {
  const keys = new Set(
    document.materials.flatMap(({ channels }) =>
      Object.values(channels).flatMap(({ map }) => (map ? [map.image] : [])),
    ),
  );
  const images = [...keys].map((key): AssetImage => {
    const resolved = files.has(key) ? key : null;
    return { key, written: key, relative: null, status: resolved ? 'found' : 'missing', resolved, how: '' };
  });
  return {
    document,
    materials: document.materials,
    images,
    read: async (path) => files.get(path) as Uint8Array,
  };
}

const reads =
  (image: string, use: Partial<MapUse> = {}, channel: ChannelName = 'roughness') =>
  (material: Material) => {
    material.channels[channel] = {
      value: 1,
      map: createMapUse(image, channel, use),
      source: { from: 'file', detail: '' },
    };
  };

async function found(
  a: (material: Material) => void,
  b: (material: Material) => void,
  options: ModelCompareOptions = {},
): Promise<string[]> {
  const { differences } = await compareModels(quay(a), quay(b), options);
  return differences.map(({ code, material, channel }) =>
    [code, material, channel].filter(Boolean).join(' '),
  );
}

describe('an image', () => {
  const plain = reads('rough.png');

  it.each<[string, (material: Material) => void, string[]]>([
    ['is the same', plain, []],
    ['is one step off, which rounding explains', reads('step.png'), []],
    ['is two steps off', reads('two.png'), ['channel.differs Stone roughness']],
    ['is mirrored', reads('turned.png'), ['channel.differs Stone roughness']],
    ['is inverted', reads('rough.png', { invert: true }), ['channel.differs Stone roughness']],
    ['is weakened', reads('rough.png', { gain: 0.9 }), ['channel.differs Stone roughness']],
    ['is smaller', reads('small.png'), []],
    ['is smaller and mirrored', reads('smallTurned.png'), ['channel.differs Stone roughness']],
    [
      'is repeated otherwise',
      reads('rough.png', { wrap: ['repeat', 'mirror'] }),
      ['use.wrap Stone roughness'],
    ],
    ['is filtered otherwise', reads('rough.png', { filter: 'nearest' }), ['use.filter Stone roughness']],
    ['lies on another UV set', reads('rough.png', { uvSet: 'map2' }), ['use.uvSet Stone roughness']],
    ['lies nowhere', reads('rough.png', { unplaced: true }), ['use.uvSet Stone roughness']],
    [
      'lies on a UV set that is not there',
      reads('rough.png', { uvSet: 'map9' }),
      ['use.uvSet Stone roughness'],
    ],
    ['lies on the first UV set by its name', reads('rough.png', { uvSet: 'map1' }), []],
    [
      'is moved',
      reads('rough.png', { transform: { offset: [0.25, 0], scale: [1, 1], rotation: 0 } }),
      ['use.transform Stone roughness'],
    ],
    [
      'is placed by numbers that do nothing',
      reads('rough.png', { transform: { offset: [0, 0], scale: [1, 1], rotation: 2 * Math.PI } }),
      [],
    ],
    ['is not there', reads('gone.png'), ['file.missing Stone roughness', 'channel.differs Stone roughness']],
    [
      'gave way to a value',
      (material) =>
        Object.assign(material.channels, {
          roughness: { value: 0.5, map: null, source: { from: 'file', detail: '' } },
        }),
      ['channel.differs Stone roughness'],
    ],
  ])('%s', async (_, other, expected) => {
    expect(await found(plain, other)).toEqual(expected);
  });

  it('may come to lie somewhere where it lay nowhere', async () => {
    expect(await found(reads('rough.png', { unplaced: true }), plain)).toEqual([]);
  });

  it('is known to lie on another UV set beside a part that has none', async () => {
    const besideBare = (use: Partial<MapUse>) => {
      const { document } = quay(reads('rough.png', use));
      const { uvSets: _, ...bare } = document.meshes[0];
      document.meshes.push({ ...bare, name: 'step', uvSets: [] });
      document.nodes.unshift(createNode('Step', 'mesh', -1, { mesh: 1, materials: [0] }));
      return sideOf(document);
    };
    const codes = async (second: Partial<MapUse>) =>
      (await compareModels(besideBare({ uvSet: 'map2' }), besideBare(second))).differences.map(
        ({ code }) => code,
      );
    expect(await codes({ uvSet: 'map2' })).toEqual([]);
    expect(await codes({ uvSet: 'map1' })).toEqual(['use.uvSet']);
  });

  it('may be as far off as the caller says of just this channel', async () => {
    const limitOf: ModelCompareOptions['limitOf'] = ({ name }, channel) =>
      name === 'Stone' && channel === 'roughness' ? 2.5 / 255 : undefined;
    expect(await found(plain, reads('two.png'), { limitOf })).toEqual([]);
    expect(await found(plain, reads('two.png'), { limitOf: () => undefined })).toEqual([
      'channel.differs Stone roughness',
    ]);
  });

  it('is read once for pairs that say the same, and again for one that says otherwise', async () => {
    let opened = 0;
    const counted = (side: ModelSide): ModelSide => ({
      ...side,
      read: (path) => {
        opened += 1;
        return side.read(path);
      },
    });
    const [a, b, c] = [plain, reads('two.png'), reads('step.png')].map((change) => counted(quay(change)));
    const looked: ModelCompareOptions['looked'] = new Map();
    const first = await compareModels(a, b, { looked });
    expect(opened).toBe(2);
    expect(await compareModels(a, b, { looked })).toEqual(first);
    expect(opened).toBe(2);
    expect((await compareModels(a, c, { looked })).differences).toEqual([]);
    expect(opened).toBe(4);
  });
});

describe('a material', () => {
  const value =
    (channel: ChannelName, content: number | [number, number, number]) => (material: Material) => {
      material.channels[channel] = { value: content, map: null, source: { from: 'file', detail: '' } };
    };
  const set = (part: Partial<Material>) => (material: Material) => void Object.assign(material, part);
  const nothing = () => {};

  it.each<[string, (material: Material) => void, (material: Material) => void, string[]]>([
    ['is the same', nothing, nothing, []],
    [
      'has another colour',
      nothing,
      value('baseColor', [0.5, 0.4, 0.35]),
      ['channel.differs Stone baseColor'],
    ],
    ['has a colour within rounding', nothing, value('baseColor', [0.5, 0.4, 0.3005]), []],
    ['glows besides', nothing, value('emission', [0.2, 0, 0]), ['channel.differs Stone emission']],
    ['glows no more', value('emission', [0.2, 0, 0]), nothing, ['channel.missing Stone emission']],
    ['is cut out', nothing, set({ alphaMode: 'mask' }), ['alpha.mode Stone opacity']],
    [
      'is cut off elsewhere',
      set({ alphaMode: 'mask', alphaCutoff: 0.5 }),
      set({ alphaMode: 'mask', alphaCutoff: 0.4 }),
      ['alpha.cutoff Stone opacity'],
    ],
    [
      'is cut off within rounding',
      set({ alphaMode: 'mask', alphaCutoff: 0.5 }),
      set({ alphaMode: 'mask', alphaCutoff: 0.5004 }),
      [],
    ],
    [
      'is cut off a little elsewhere',
      set({ alphaMode: 'mask', alphaCutoff: 0.5 }),
      set({ alphaMode: 'mask', alphaCutoff: 0.502 }),
      ['alpha.cutoff Stone opacity'],
    ],
    ['has a cut-off that nobody reads', set({ alphaCutoff: 0.5 }), set({ alphaCutoff: 0.4 }), []],
    ['has two sides', nothing, set({ doubleSided: true }), ['sides Stone']],
    ['has another name', nothing, set({ name: 'Brick' }), ['shape.materials', 'channel.missing Stone']],
    ['has its name written as USD must', set({ name: 'Stone, old' }), set({ name: 'Stone_old' }), []],
  ])('%s', async (_, a, b, expected) => {
    expect(await found(a, b)).toEqual(expected);
  });

  it('goes by the names that the caller gives, and each copy is looked at', async () => {
    const two = quay(nothing);
    const [first] = two.document.materials;
    first.name = 'Wall_Stone';
    const copy = structuredClone(first);
    Object.assign(copy, { name: 'Rail_Stone', key: 'Rail_Stone' });
    copy.channels.baseColor = { value: [0.9, 0.4, 0.3], map: null, source: { from: 'file', detail: '' } };
    two.document.materials.push(copy);
    const one = quay(nothing);
    one.document.materials[0].name = 'Stone';
    const namesOf = () => ['Stone', 'Wall_Stone', 'Rail_Stone'];
    const { differences } = await compareModels(one, two, { namesOf, geometry: false });
    expect(differences.map(({ code, channel, message }) => `${code} ${channel ?? message}`)).toEqual([
      'channel.missing the material Stone is not there',
      'channel.differs baseColor',
    ]);
  });

  it('that nothing is made of may be left out, and counts where both have it', async () => {
    const one = quay(nothing);
    one.document.nodes[0].materials = [-1];
    const two = quay(value('baseColor', [1, 0, 0]));
    two.document.nodes[0].materials = [-1];
    expect((await compareModels(one, two)).differences.map(({ code }) => code)).toEqual(['channel.differs']);
    two.document.materials = [];
    two.materials = [];
    expect((await compareModels(one, two)).differences).toEqual([]);
  });
});

describe('what is told of a difference', () => {
  const told = async (a: (material: Material) => void, b: (material: Material) => void) => {
    const { differences } = await compareModels(quay(a), quay(b));
    return differences.map(({ message, measured, allowed }) => [message, measured, allowed]);
  };

  it('names both ways of going on, and both modes of alpha, with what is allowed', async () => {
    expect(await told(reads('rough.png'), reads('rough.png', { wrap: ['clamp', 'mirror'] }))).toEqual([
      [
        'Stone: the image of roughness goes on by clamp and mirror, not repeat and repeat',
        'clamp mirror',
        'repeat repeat',
      ],
    ]);
    const moved = reads('rough.png', { transform: { offset: [0.25, 0], scale: [1, 1], rotation: 0 } });
    expect(await told(reads('rough.png'), moved)).toEqual([
      ['Stone: the image of roughness is placed otherwise', 0.25, 1e-4],
    ]);
    const mask = (alphaCutoff: number) => (material: Material) =>
      void Object.assign(material, { alphaMode: 'mask', alphaCutoff });
    expect(await told(mask(0.5), mask(0.25))).toEqual([['Stone is cut off at 0.25, not 0.5', 0.25, 0.5]]);
    expect(await told(mask(0.5), (material) => void Object.assign(material, { alphaMode: 'blend' }))).toEqual(
      [['Stone is set to blend, not mask', 'blend', 'mask']],
    );
  });
});

describe('materials of one name', () => {
  const codes = async (a: ModelSide, b: ModelSide) =>
    (await compareModels(a, b)).differences.map(({ code, message }) => `${code} ${message}`);

  it('meet on the parts that carry them, in whatever order they are written', async () => {
    const first = namesakes([0.2, 0.8], { Pier: 0, Mole: 1 });
    expect(await codes(first, namesakes([0.2, 0.8], { Pier: 0, Mole: 1 }))).toEqual([]);
    expect(await codes(first, namesakes([0.8, 0.2], { Pier: 1, Mole: 0 }))).toEqual([]);
  });

  it('are told where parts exchanged them, or one is another', async () => {
    const first = namesakes([0.2, 0.8], { Pier: 0, Mole: 1 });
    expect(await codes(first, namesakes([0.2, 0.8], { Pier: 1, Mole: 0 }))).toEqual([
      expect.stringMatching(/^channel\.differs Stone: roughness differs/),
      expect.stringMatching(/^channel\.differs Stone: roughness differs/),
    ]);
    expect(await codes(first, namesakes([0.2, 0.3], { Pier: 0, Mole: 1 }))).toHaveLength(1);
    // Nothing of parts tells them apart: each meets the one in its place.
    expect(await codes(namesakes([0.2, 0.8], {}), namesakes([0.2, 0.8], {}))).toEqual([]);
  });
});
