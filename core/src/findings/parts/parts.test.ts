import { NodeIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { type AssetState, type Edit, initialState } from '../../asset/asset.ts';
import { convertAsset, prepareDocument } from '../../convert.ts';
import { replay } from '../../edits/log.ts';
import { writeModel } from '../../formats/writeModel.ts';
import { type OpenAsset, openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import {
  createDocument,
  createMesh,
  createNode,
  type PolygonMesh,
  type SceneDocument,
  Y_UP,
} from '../../scene/document.ts';
import { createMapUse, createMaterial, type Material } from '../../scene/material.ts';
import { BOX_QUADS, boxPoints } from '../../test/boxes.ts';
import { findFindings } from '../checks.ts';
import type { Finding } from '../finding.ts';

const FORMATS = ['fbx', 'obj', 'usda', 'glb'] as const;
type Format = (typeof FORMATS)[number];

let image: Uint8Array;
beforeAll(async () => {
  // Colours of all kinds, so that nobody takes it for a palette.
  const data = Buffer.from(Array.from({ length: 64 * 64 * 3 }, (_, i) => (i * 89 + (i >> 4) * 57) % 251));
  image = new Uint8Array(
    await sharp(data, { raw: { width: 64, height: 64, channels: 3 } })
      .png()
      .toBuffer(),
  );
});

const NORMALS = [-1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1];

function box(name: string, min: number, max: number): PolygonMesh {
  return createMesh(name, {
    points: Float64Array.from(boxPoints(min, max)),
    faceCounts: new Uint32Array(6).fill(4),
    faceCorners: Uint32Array.from(BOX_QUADS.flat()),
    normals: {
      name: 'n',
      size: 3,
      domain: 'corner',
      values: Float64Array.from(NORMALS),
      index: Uint32Array.from({ length: 24 }, (_, i) => Math.floor(i / 4)),
    },
    uvSets: [
      {
        name: 'uv',
        size: 2,
        domain: 'corner',
        values: Float64Array.of(0, 0, 1, 0, 1, 1, 0, 1),
        index: Uint32Array.from({ length: 24 }, (_, i) => i % 4),
      },
    ],
  });
}

function wood(name: string, colour: number): Material {
  const material = createMaterial(name, 'metalRough');
  const map = createMapUse('oak.png', 'baseColor');
  material.channels.baseColor = {
    value: [colour, colour, colour],
    map,
    source: { from: 'file', detail: '' },
  };
  material.channels.roughness = { value: 0.5, map: null, source: { from: 'file', detail: '' } };
  return material;
}

/** A post and its cap, each a box with all that a good model has. */
function pier(change: (document: SceneDocument) => void = () => {}): SceneDocument {
  const document = createDocument('fbx', 'text');
  Object.assign(document, { axes: Y_UP, metresPerUnit: 1, unitStated: true });
  document.materials.push(wood('Oak', 1), wood('Tar', 0.25));
  document.images.push({ key: 'oak.png', written: 'oak.png', relative: 'oak.png', embedded: null });
  document.meshes.push(box('Post', 0, 1), box('Cap', 2, 3));
  document.nodes.push(
    createNode('Post', 'mesh', -1, { mesh: 0, materials: [0] }),
    createNode('Cap', 'mesh', -1, { mesh: 1, materials: [1] }),
  );
  change(document);
  return document;
}

async function opened(document: SceneDocument, format: Format): Promise<OpenAsset> {
  const via = format === 'glb' ? 'fbx' : format;
  const name = `pier.${via}`;
  const { files } = writeModel(prepareDocument(document, via, {}), name, {
    form: 'text',
    targetOf: () => ({ path: 'oak.png', embed: null }),
  });
  const asset = await openAsset(
    memorySource('pier', { ...Object.fromEntries(files), ...bare(files), 'oak.png': image }),
    name,
  );
  if (format !== 'glb') return asset;
  const glb = await convertAsset(asset, 'pier.glb');
  return openAsset(
    memorySource('pier', { 'pier.glb': await withoutEmptyUvs(glb.files.get('pier.glb') as Uint8Array) }),
    'pier.glb',
  );
}

/** OBJ as others write it: faces without a material have no name of one. */
function bare(files: ReadonlyMap<string, Uint8Array>): Record<string, Uint8Array> {
  const text = (path: string) => new TextDecoder().decode(files.get(path));
  if (!files.has('pier.obj')) return {};
  return {
    'pier.obj': new TextEncoder().encode(text('pier.obj').replaceAll('usemtl no_material', 'usemtl')),
    'pier.mtl': new TextEncoder().encode(
      text('pier.mtl').replace(/newmtl no_material\n[\s\S]*?(?=newmtl |$)/, ''),
    ),
  };
}

function isZero(values: ArrayLike<number> | null | undefined): boolean {
  return values !== null && values !== undefined && Array.from(values).every((value) => value === 0);
}

/** glTF as others write it: faces that have no UVs do not have them at one place either. */
async function withoutEmptyUvs(glb: Uint8Array): Promise<Uint8Array> {
  const io = new NodeIO().registerExtensions(ALL_EXTENSIONS);
  const gltf = await io.readBinary(glb);
  for (const mesh of gltf.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives())
      if (isZero(primitive.getAttribute('TEXCOORD_0')?.getArray()))
        primitive.setAttribute('TEXCOORD_0', null);
  return io.writeBinary(gltf);
}

function partsFindings({ source, images }: OpenAsset, edits: readonly Edit[] = []): Finding[] {
  const state: AssetState = edits.length > 0 ? replay(source, edits, images).state : initialState(source);
  return findFindings(source, state, images).filter(
    ({ code, step }) => step === 'parts' && !code.startsWith('slot.'),
  );
}

const told = (findings: readonly Finding[]) =>
  findings.map(({ code, subject, severity }) => `${code} ${severity} ${subject}`);
const turn = (mesh: PolygonMesh, faces: readonly number[]) => {
  for (const face of faces) mesh.faceCorners.subarray(face * 4, face * 4 + 4).reverse();
};
const ALL = [0, 1, 2, 3, 4, 5];

/** One fault each, with the formats that can hold it, and what is told of it. */
const FAULTS: [string, readonly Format[], (document: SceneDocument) => void, string[]][] = [
  [
    'all faces of a part turned',
    FORMATS,
    ({ meshes }) => turn(meshes[0], ALL),
    ['shape.insideOut warning Post'],
  ],
  [
    'normals that point inwards',
    FORMATS,
    ({ meshes }) => meshes[1].normals?.values.forEach((value, i, all) => all.fill(-value, i, i + 1)),
    ['shape.insideOut warning Cap'],
  ],
  ['one face turned', FORMATS, ({ meshes }) => turn(meshes[0], [2]), ['shape.mixedWinding warning Post']],
  [
    'a negative scale',
    ['fbx', 'usda', 'glb'],
    ({ nodes }) => {
      nodes[0].transform.scale = [-1, 1, 1];
    },
    ['shape.mirrored note Post'],
  ],
  [
    'a part upon another that shows the same',
    ['fbx', 'glb'],
    ({ nodes }) => nodes.push(createNode('Twin', 'mesh', -1, { mesh: 0, materials: [0] })),
    ['shape.doubledFaces warning Twin'],
  ],
  [
    'one that is hidden, which flickers with none',
    ['fbx', 'glb'],
    ({ nodes }) => nodes.push(createNode('Twin', 'mesh', -1, { mesh: 0, materials: [0], visible: false })),
    [],
  ],
  [
    'no UVs',
    FORMATS,
    ({ meshes }) => {
      meshes[0].uvSets = [];
    },
    ['shape.noUv warning Post'],
  ],
  [
    'UVs at one point',
    FORMATS,
    ({ meshes }) => meshes[0].uvSets[0].values.fill(0.3),
    ['shape.uvCollapsed warning Post'],
  ],
  [
    'UVs beyond an image that is clamped',
    ['fbx', 'usda', 'glb'],
    ({ meshes, materials }) => {
      for (const layer of meshes[1].uvSets)
        layer.values.forEach((value, i, all) => all.fill(value * 2, i, i + 1));
      if (materials[1].channels.baseColor?.map) materials[1].channels.baseColor.map.wrap = ['clamp', 'clamp'];
    },
    ['shape.uvOutside warning Cap'],
  ],
  [
    'no normals',
    ['obj', 'usda'],
    ({ meshes }) => {
      meshes[0].normals = null;
    },
    ['shape.noNormals note Post'],
  ],
  [
    'normals twice as long',
    ['fbx', 'usda'],
    ({ meshes }) => meshes[0].normals?.values.forEach((value, i, all) => all.fill(value * 2, i, i + 1)),
    ['shape.brokenNormals warning Post'],
  ],
  ['an edge drawn together', FORMATS, ({ meshes }) => meshes[0].points.set([0.5, 0, 0], 0), []],
  [
    'a unit that is too large',
    FORMATS,
    (document) =>
      void document.meshes.forEach(({ points }) =>
        points.forEach((value, i, all) => all.fill(value * 60, i, i + 1)),
      ),
    ['shape.sizeImplausible warning pier'],
  ],
  [
    'a model far away',
    FORMATS,
    (document) =>
      void document.meshes.forEach(({ points }) =>
        points.forEach((value, i, all) => all.fill(value + 200, i, i + 1)),
      ),
    ['shape.farOff warning pier'],
  ],
  [
    'a part far away',
    FORMATS,
    ({ meshes }) => meshes[1].points.forEach((value, i, all) => all.fill(value + 22, i, i + 1)),
    ['shape.farOff warning Cap'],
  ],
  [
    'a part without a material',
    FORMATS,
    ({ nodes }) => {
      nodes[1].materials = [-1];
    },
    ['part.noMaterial note Cap', 'material.unused note Tar'],
  ],
  [
    'a material that nothing has',
    FORMATS,
    ({ materials }) => void materials.push(wood('Rope', 0.5)),
    ['material.unused note Rope'],
  ],
  [
    'two equal materials',
    FORMATS,
    ({ materials }) => {
      materials[1] = { ...wood('Tar', 1) };
    },
    ['material.doubled note Tar'],
  ],
];

describe('a model with one fault', () => {
  it.each(FORMATS)('has none of parts and shape where nothing is wrong, as %s', async (format) => {
    expect(told(partsFindings(await opened(pier(), format)))).toEqual([]);
  });

  const cases = FAULTS.flatMap(([name, formats, change, expected]) =>
    formats.map((format) => [name, format, change, expected] as const),
  );
  it.each(cases)('is told of %s and of nothing else, as %s', async (_, format, change, expected) => {
    expect(told(partsFindings(await opened(pier(change), format))).sort()).toEqual(expected.sort());
  });

  it('is not told of two materials of which one alone shows colours of points over its image', async () => {
    const two = pier(({ materials }) => {
      materials[1] = { ...wood('Tar', 1) };
    });
    const change = { colours: 'shown' } as const;
    const edit: Edit = { kind: 'setAlpha', materials: ['Tar'], change, origin: { from: 'hand', detail: '' } };
    expect(told(partsFindings(await opened(two, 'fbx')))).toEqual(['material.doubled note Tar']);
    expect(told(partsFindings(await opened(two, 'fbx'), [edit]))).toEqual([]);
  });
});

describe('a file as somebody wrote it', () => {
  const SQUARE = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvn 0 0 1\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n';
  const FACE = 'f 1/1/1 2/2/1 3/3/1 4/4/1\n';
  const MTL = 'newmtl Oak\nmap_Kd oak.png\n';
  const findings = async (obj: string, mtl = MTL) => {
    const files = {
      'sign.obj': new TextEncoder().encode(`mtllib sign.mtl\n${obj}`),
      'sign.mtl': new TextEncoder().encode(mtl),
      'oak.png': image,
    };
    return told(partsFindings(await openAsset(memorySource('sign', files), 'sign.obj')));
  };

  it.each<[string, string, string[]]>([
    ['nothing', `o Sign\n${SQUARE}usemtl Oak\n${FACE}`, []],
    [
      'a coordinate that is no number',
      `o Sign\n${SQUARE.replace('v 1 1 0', 'v nan 1 0')}usemtl Oak\n${FACE}`,
      ['shape.notFinite error Sign'],
    ],
    [
      'a normal that is no number',
      `o Sign\n${SQUARE.replace('vn 0 0 1', 'vn nan 0 1')}usemtl Oak\n${FACE}`,
      ['shape.brokenNormals warning Sign'],
    ],
    [
      'normals three times as long',
      `o Sign\n${SQUARE.replace('vn 0 0 1', 'vn 0 0 3')}usemtl Oak\n${FACE}`,
      ['shape.brokenNormals warning Sign'],
    ],
    ['a face twice', `o Sign\n${SQUARE}usemtl Oak\n${FACE}${FACE}`, ['shape.doubledFaces warning Sign']],
    [
      'a face and its back',
      `o Sign\n${SQUARE}usemtl Oak\n${FACE}f 4/4/1 3/3/1 2/2/1 1/1/1\n`,
      ['shape.doubledFaces note Sign'],
    ],
    [
      'a face along a line',
      `o Sign\n${SQUARE}v 0.5 0 0\nusemtl Oak\n${FACE}f 1/1/1 5/2/1 2/3/1\n`,
      ['shape.degenerate warning Sign'],
    ],
    [
      'faces that name no UV among others that do',
      `o Sign\n${SQUARE}v 2 0 0\nv 2 1 0\nusemtl Oak\n${FACE}f 2//1 5//1 6//1 3//1\n`,
      ['shape.noUv warning Sign'],
    ],
    ['an object without faces', `o Pole\no Sign\n${SQUARE}usemtl Oak\n${FACE}`, ['part.empty note Pole']],
    ['UVs beyond a clamped image', `o Sign\n${SQUARE.replace('vt 1 1', 'vt 3 3')}usemtl Oak\n${FACE}`, []],
  ])('is told of %s', async (_, obj, expected) => {
    expect(await findings(obj)).toEqual(expected);
  });

  it('is told of UVs that leave a clamped image, and of which that is', async () => {
    const obj = `o Sign\n${SQUARE.replace('vt 1 1', 'vt 3 3')}usemtl Oak\n${FACE}`;
    expect(await findings(obj, 'newmtl Oak\nmap_Kd -clamp on oak.png\n')).toEqual([
      'shape.uvOutside warning Sign',
    ]);
  });

  it('has materials that say nothing, which are no doubles, and one without UVs that reads nothing', async () => {
    expect(
      await findings(
        `o Sign\n${SQUARE}usemtl Oak\nf 1//1 2//1 3//1\nusemtl Tar\nf 1//1 3//1 4//1\n`,
        'newmtl Oak\nnewmtl Tar\n',
      ),
    ).toEqual([]);
  });
});

describe('what mends a finding', () => {
  const mended = async (change: (document: SceneDocument) => void, format: Format, code: string) => {
    const asset = await opened(pier(change), format);
    const before = partsFindings(asset).find((finding) => finding.code === code);
    const edits = before?.mend ? [before.mend] : [];
    return { asset, before, edits, after: told(partsFindings(asset, edits)) };
  };

  it.each<[string, (document: SceneDocument) => void, boolean]>([
    ['shape.insideOut', ({ meshes }) => turn(meshes[0], ALL), true],
    [
      'shape.mirrored',
      ({ nodes }) => {
        nodes[0].transform.scale = [-1, 1, 1];
      },
      false,
    ],
    ['shape.brokenNormals', ({ meshes }) => meshes[0].normals?.values.fill(0), false],
    [
      'shape.pivotFar',
      ({ nodes }) =>
        void Object.assign(nodes[1].transform, { translation: [0, 0, 9], geometricTranslation: [0, 0, -9] }),
      false,
    ],
    [
      'part.nameDoubled',
      ({ nodes }) => {
        nodes[1].name = 'Post';
      },
      false,
    ],
    ['material.unused', ({ materials }) => void materials.push(wood('Rope', 0.5)), false],
    [
      'material.doubled',
      ({ materials }) => {
        materials[1] = wood('Tar', 1);
      },
      false,
    ],
  ])('of %s leaves nothing of it', async (code, change, safe) => {
    const { before, edits, after } = await mended(change, 'fbx', code);
    expect([before?.safe, edits.length]).toEqual([safe, 1]);
    expect(after).toEqual([]);
  });

  it('of a size offers the units that would fit, each with its size', async () => {
    const asset = await opened(
      pier(({ meshes }) =>
        meshes.forEach(({ points }) => points.forEach((value, i, all) => all.fill(value * 60, i, i + 1))),
      ),
      'fbx',
    );
    const [finding] = partsFindings(asset);
    expect(finding.message).toBe(
      'pier: its longest side is 180 m; read in centimetres it would be 1.8 m. The file states its unit.',
    );
    expect(finding.choices?.map(({ label }) => label)).toEqual([
      'Read in centimetres: 1.8 m',
      'Read in millimetres: 0.18 m',
      'Read in inches: 4.6 m',
    ]);
    expect(partsFindings(asset, finding.choices?.[0].edits)).toEqual([]);
  });
});

describe('more parts than are listed', () => {
  /** Seventy caps in a row, ten more than are listed. */
  const row = (change: (document: SceneDocument, index: number) => void) =>
    pier((document) => {
      document.meshes = [];
      document.nodes = [];
      for (let i = 0; i < 70; i += 1) {
        document.meshes.push(box(`Cap ${i}`, i * 2, i * 2 + 1));
        document.nodes.push(createNode(`Cap ${i}`, 'mesh', -1, { mesh: i, materials: [0] }));
        change(document, i);
      }
    });
  const insideOut = (asset: OpenAsset, edits: readonly Edit[] = []) =>
    partsFindings(asset, edits).filter(({ code }) => code === 'shape.insideOut');

  it('are told and mended by the last one that is', async () => {
    const asset = await opened(
      row(({ meshes }, i) => turn(meshes[i], ALL)),
      'fbx',
    );
    const listed = insideOut(asset);
    expect(listed).toHaveLength(60);
    expect(listed[59].evidence).toContain('10 more parts likewise');
    expect([listed[58].mendLabel, listed[59].mendLabel]).toEqual(['Turn its faces', 'Turn its faces (11)']);
    expect(listed[58].evidence.join()).not.toContain('likewise');
    expect(insideOut(asset, [listed[59].mend as Edit])).toHaveLength(59);
    expect(
      insideOut(
        asset,
        listed.map(({ mend }) => mend as Edit),
      ),
    ).toEqual([]);
  });

  it('are mended by one that is mended as they are', async () => {
    // The last ones have normals that point inwards, of the others only the first.
    const asset = await opened(
      row(({ meshes }, i) => {
        if (i > 0 && i < 65) turn(meshes[i], ALL);
        else meshes[i].normals?.values.forEach((value, k, all) => all.fill(-value, k, k + 1));
      }),
      'fbx',
    );
    const listed = insideOut(asset);
    const changes = listed.map(({ mend }) => (mend?.kind === 'editParts' ? mend.change : null));
    expect(changes[0]).toMatchObject({ do: 'normals' });
    expect(changes[0] && 'parts' in changes[0] ? changes[0].parts : []).toHaveLength(6);
    expect(changes[59]).toMatchObject({ do: 'turnFaces' });
    expect(changes[59] && 'parts' in changes[59] ? changes[59].parts : []).toHaveLength(6);
  });
});
