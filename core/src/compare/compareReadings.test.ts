import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument, type Vec3 } from '../scene/document.ts';
import { createMapUse, createMaterial, type MapUse, type Material, type Rgb } from '../scene/material.ts';
import { testMaterial, testState } from '../test/assets.ts';
import { BOX_QUADS, meshOf } from '../test/boxes.ts';
import { readCarelessly } from './careless.ts';
import type { Field, Reading } from './channelField.ts';
import { compareGeometry } from './compareGeometry.ts';
import { compareMaterials, type FieldPair } from './compareMaterials.ts';
import { compareModels, type ModelSide } from './compareModels.ts';
import { compareReadings } from './compareReadings.ts';
import { differencePicture } from './differencePicture.ts';
import { placedParts, worldParts } from './worldParts.ts';

const said = { from: 'file', detail: '' } as const;

function coloured(name: string, baseColor: Rgb): Material {
  const material = testMaterial(name);
  material.channels.baseColor = { value: baseColor, map: null, source: said };
  return material;
}

function readingOf(...materials: Material[]): Reading {
  return { ...testState(materials), metresPerUnit: 1, read: async () => new Uint8Array() };
}

describe('readings, pair by pair', () => {
  it('compare those materials that stand on both sides, under the name of the pair', async () => {
    const a = readingOf(coloured('Hull', [0, 0, 0]), coloured('Deck', [1, 1, 1]));
    const b = readingOf(coloured('Rumpf', [0, 0, 0]), coloured('Planken', [0, 1, 1]));
    const key = (reading: Reading, name: string) =>
      reading.materials.find((material) => material.name === name)?.key ?? '';
    const told: [number, number][] = [];
    const pairs = [
      { key: 'first', a: key(a, 'Hull'), b: key(b, 'Rumpf') },
      { key: 'lost', a: key(a, 'Hull'), b: 'nowhere' },
      { key: 'new', a: 'nowhere', b: key(b, 'Planken') },
      { key: 'second', a: key(a, 'Deck'), b: key(b, 'Planken') },
    ];
    const found = await compareReadings(a, b, pairs, { progress: (done, total) => told.push([done, total]) });
    const colours = found.map(({ material, channels }) => [
      material,
      channels.find(({ channel }) => channel === 'baseColor')?.largest,
    ]);
    expect(colours).toEqual([
      ['first', 0],
      ['second', expect.closeTo(1, 9)],
    ]);
    expect(told).toEqual([
      [0, 4],
      [1, 4],
      [2, 4],
      [3, 4],
    ]);
  });
});

describe('the highlight of classic materials', () => {
  const classic = (channels: Partial<Record<'specular' | 'specularColor', number | Rgb>>) => {
    const material = createMaterial('Buoy', 'legacy');
    for (const [channel, value] of Object.entries(channels))
      material.channels[channel as 'specular'] = { value, map: null, source: said };
    return material;
  };
  const highlight = async (a: Material, b: Material) =>
    (
      await compareMaterials({ material: a, reading: readingOf(a) }, { material: b, reading: readingOf(b) })
    ).find(({ channel }) => channel === 'highlight');

  it('may be half a step of eight bits off, which is more than a step of a colour in the dark', async () => {
    const dark = (value: number) => classic({ specularColor: [value, value, value] });
    expect((await highlight(dark(0.004), dark(0.004 + 0.5 / 255)))?.beyond).toBe(0);
    expect((await highlight(dark(0.004), dark(0.004 + 0.6 / 255)))?.beyond).toBe(1);
  });

  it('is colour times strength, so that either may hold it', async () => {
    const halves = classic({ specular: 0.5, specularColor: [0.4, 0.6, 1] });
    expect(await highlight(halves, classic({ specularColor: [0.2, 0.3, 0.5] }))).toMatchObject({
      largest: 0,
    });
    // 0.2, 0.3 and 0.5 by the curve of sRGB, 1.055 x^(1 / 2.4) - 0.055.
    const curve = (value: number) => expect.closeTo(1.055 * value ** (1 / 2.4) - 0.055, 5);
    expect((await highlight(halves, halves))?.a).toEqual([0.2, 0.3, 0.5].map(curve));
    expect((await highlight(classic({ specularColor: [0, 0, 0] }), classic({})))?.largest).toBe(0);
  });
});

describe('a picture of two sides', () => {
  const field = (size: 1 | 3, values: number[]): Field => ({
    width: 2,
    height: 1,
    size,
    values: Float32Array.from(values),
  });
  const pair = (kind: FieldPair['aspect']['kind'], a: Field, b: Field): FieldPair => ({
    aspect: { id: 'baseColor', title: '', kind, channels: ['baseColor'] },
    a,
    b,
    sizes: ['2 x 1', '2 x 1'],
  });

  it('shows numbers as grey, three as colours, and lengths by the longest', () => {
    const numbers = pair('number', field(1, [0, 0.4]), field(1, [1, 2]));
    expect([...differencePicture(numbers, 'a').data]).toEqual([0, 0, 0, 102, 102, 102]);
    expect([...differencePicture(numbers, 'b').data]).toEqual([255, 255, 255, 255, 255, 255]);
    const normals = pair('normal', field(3, [0, 0.2, 1, 0.4, 0.6, 0.8]), field(3, [1, 1, 1, 0, 0, 0]));
    expect([...differencePicture(normals, 'a').data]).toEqual([0, 51, 255, 102, 153, 204]);
    const lengths = pair('length', field(1, [0.001, 0.002]), field(1, [0.004, 0]));
    expect([...differencePicture(lengths, 'a').data]).toEqual([64, 64, 64, 128, 128, 128]);
    expect([...differencePicture(lengths, 'b').data]).toEqual([255, 255, 255, 0, 0, 0]);
    // Nothing anywhere is black, not a division by nothing.
    expect([...differencePicture(pair('length', field(1, [0, 0]), field(1, [0, 0])), 'a').data]).toEqual(
      Array(6).fill(0),
    );
  });

  it('shows a difference from dark to white, as large as it is asked for', () => {
    const [dark, white] = [
      [16, 24, 20],
      [255, 252, 244],
    ];
    const numbers = pair('number', field(1, [0.5, 0]), field(1, [0.5, 1]));
    expect([...differencePicture(numbers, 'difference').data]).toEqual([...dark, ...white]);
    // The largest of three; a tenth, ten times.
    const colours = pair('normal', field(3, [0, 0, 0, 0, 0, 0]), field(3, [0, 0, 0, 0.02, 0.1, 0.05]));
    expect([...differencePicture(colours, 'difference', 10).data]).toEqual([...dark, ...white]);
    const lengths = pair('length', field(1, [4, 4]), field(1, [4, 0]));
    expect([...differencePicture(lengths, 'difference').data]).toEqual([...dark, ...white]);
  });
});

/** Boxes of different lengths along the axes, so that no turn maps them onto themselves. */
function posts(...names: string[]): SceneDocument {
  const document = createDocument('gltf', 'made');
  document.metresPerUnit = 1;
  const corners = (x: number): Vec3[] =>
    Array.from({ length: 8 }, (_, i) => [x + (i & 1) * 1, ((i >> 1) & 1) * 2, ((i >> 2) & 1) * 5]);
  names.forEach((name, i) => {
    const mesh = meshOf(corners(i * 3).flat(), BOX_QUADS);
    document.nodes.push(createNode(name, 'mesh', -1, { mesh: document.meshes.push(mesh) - 1 }));
  });
  return document;
}

function sideOf(document: SceneDocument): ModelSide {
  return { document, materials: document.materials, images: [], read: async () => new Uint8Array() };
}

const rowsOf = (document: SceneDocument, rows: readonly Vec3[]): SceneDocument => {
  const turned = structuredClone(document);
  for (const { points } of turned.meshes)
    for (let i = 0; i < points.length; i += 3) {
      const place = [points[i], points[i + 1], points[i + 2]];
      points.set(
        rows.map((row) => row.reduce((sum, share, k) => sum + share * place[k], 0)),
        i,
      );
    }
  return turned;
};

describe('a careless reading', () => {
  it('leaves values as they are, and alpha unread', () => {
    const careful = coloured('Sail', [0.2, 0.4, 0.6]);
    careful.alphaMode = 'mask';
    careful.channels.roughness = { value: 0.3, map: null, source: said };
    careful.channels.normal = { value: 1, map: null, source: said };
    expect(readCarelessly([careful])).toEqual([{ ...careful, alphaMode: 'opaque' }]);
  });

  it('takes data for colours and normals the other way round, colours as they are', () => {
    const careful = coloured('Sail', [1, 1, 1]);
    const channel = (use: Partial<MapUse>) => ({
      value: 1,
      map: createMapUse('sail.png', 'baseColor', use),
      source: said,
    });
    Object.assign(careful.channels, {
      emission: channel({ space: 'lin_rec709_scene' }),
      roughness: channel({ space: 'data' }),
      normal: channel({ space: 'data', normalY: 'Y+' }),
    });
    const read = () => {
      const [{ channels }] = readCarelessly([careful]);
      return [
        channels.emission?.map?.space,
        channels.roughness?.map?.space,
        channels.normal?.map?.space,
        channels.normal?.map?.normalY,
      ];
    };
    expect(read()).toEqual(['lin_rec709_scene', 'srgb_rec709_scene', 'data', 'Y-']);
    Object.assign(careful.channels, { normal: channel({ space: 'data', normalY: 'Y-' }) });
    expect(read().at(-1)).toBe('Y+');
  });
});

describe('parts that are placed', () => {
  it('are told by their plain names, those of one name by their number, without what has no faces', () => {
    const document = posts('Post', 'post', 'Rail', 'Post');
    document.nodes.splice(2, 0, createNode('Post', 'group', -1));
    document.meshes.push(
      createMesh('none', {
        points: new Float64Array(0),
        faceCounts: new Uint32Array(0),
        faceCorners: new Uint32Array(0),
      }),
    );
    document.nodes.push(createNode('Post', 'mesh', -1, { mesh: document.meshes.length - 1 }));
    expect(placedParts(document)).toEqual([
      { name: 'post', bare: 'post', node: 0 },
      { name: 'post (2)', bare: 'post', node: 1 },
      { name: 'rail', bare: 'rail', node: 3 },
      { name: 'post (3)', bare: 'post', node: 4 },
    ]);
  });

  it('without UVs lie on no set, whatever their material calls it', async () => {
    const side = (uvSet: string | null) => {
      const document = posts('Post');
      const material = createMaterial('Oak', 'metalRough');
      const map = createMapUse('oak.png', 'baseColor', { uvSet });
      material.channels.baseColor = { value: [1, 1, 1], map, source: { from: 'file', detail: '' } };
      document.materials.push(material);
      document.nodes[0].materials = [0];
      return sideOf(document);
    };
    const { differences } = await compareModels(side('TEXCOORD_1'), side(null));
    expect(differences).toEqual([]);
  });

  it('of one name are met where they are, in whatever order they stand', () => {
    const [a, b] = [posts('Post', 'Rail', 'Post'), posts('Post', 'Rail', 'Post')];
    b.nodes.reverse();
    expect(compareGeometry(worldParts(a), worldParts(b))).toEqual([]);
    b.meshes[0].points[0] += 0.5;
    expect(
      compareGeometry(worldParts(a), worldParts(b)).map(({ code, part }) => [code, part]),
    ).toContainEqual(['shape.points', 'Post']);
  });

  it.each<[string, Vec3[]]>([
    [
      'x -z y',
      [
        [1, 0, 0],
        [0, 0, 1],
        [0, -1, 0],
      ],
    ],
    [
      'z y -x',
      [
        [0, 0, -1],
        [0, 1, 0],
        [1, 0, 0],
      ],
    ],
    [
      '-x -y z',
      [
        [-1, 0, 0],
        [0, -1, 0],
        [0, 0, 1],
      ],
    ],
  ])('that lie on another side are told by the axes: %s', async (words, rows) => {
    const { differences } = await compareModels(
      sideOf(posts('Post', 'Rail')),
      sideOf(rowsOf(posts('Post', 'Rail'), rows)),
    );
    expect(differences.map(({ code, measured, allowed }) => [code, measured, allowed])).toEqual([
      ['model.axes', words, 'x y z'],
    ]);
  });
});

describe('materials that no part shows', () => {
  it('are not missed; one that a part shows is, whatever else it shows', async () => {
    const [a, b] = [posts('Post'), posts('Post')];
    a.materials = [
      createMaterial('Oak', 'metalRough'),
      createMaterial('Iron', 'metalRough'),
      createMaterial('Spare', 'metalRough'),
    ];
    a.nodes[0].materials = [0, 1];
    a.nodes.push(createNode('Berth', 'group', -1, { materials: [2] }));
    b.materials = [createMaterial('Oak', 'metalRough')];
    b.nodes[0].materials = [0];
    const { differences } = await compareModels(sideOf(a), sideOf(b), { geometry: false });
    expect(differences.map(({ code, material }) => [code, material])).toEqual([['channel.missing', 'Iron']]);
  });
});
