import { describe, expect, it } from 'vitest';
import {
  createDocument,
  createMesh,
  createNode,
  type SceneDocument,
  Y_UP,
  Z_UP,
} from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import { createMapUse, createMaterial, type Material } from '../../scene/material.ts';
import type { HandoffPlan } from '../plan/plan.ts';
import { boundsOf, compareBounds, type HandoffCheck, mergeReadBacks, type ReadBack } from './readBack.ts';
import { readBackModel } from './readBackModel.ts';

const FILE = 'maps/Oak_normal.png';

/** A square of a metre and a triangle, each a part, of two materials; Oak has a normal map. */
function quay(change: (document: SceneDocument) => void = () => undefined): SceneDocument {
  const document = createDocument('usd', 'made');
  Object.assign(document, { axes: Y_UP, metresPerUnit: 1, unitStated: true });
  const points = new Float64Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]);
  document.meshes.push(
    createMesh('lid', {
      points,
      faceCounts: new Uint32Array([4]),
      faceCorners: new Uint32Array([0, 1, 2, 3]),
    }),
  );
  document.meshes.push(
    createMesh('rim', { points, faceCounts: new Uint32Array([3]), faceCorners: new Uint32Array([0, 1, 2]) }),
  );
  const [oak, brass] = [createMaterial('Oak', 'metalRough'), createMaterial('Brass', 'metalRough')];
  oak.channels.normal = { value: 1, map: createMapUse('n', 'normal'), source: { from: 'file', detail: '' } };
  document.images.push({
    key: 'n',
    written: FILE,
    relative: null,
    embedded: null,
  } as SceneDocument['images'][number]);
  document.materials.push(oak, brass);
  document.nodes.push(
    createNode('Lid', 'mesh', -1, { mesh: 0, materials: [0] }),
    createNode('Rim', 'mesh', -1, { mesh: 1, materials: [1] }),
  );
  change(document);
  return document;
}

const oakOf = ({ materials }: SceneDocument) => materials[0] as Material;
const plan = (losses: Partial<Loss>[] = []) =>
  ({ images: [{ pattern: '' }], losses }) as unknown as HandoffPlan;

/** Names of the checks that fail for a model that was found so. */
function failing(change: (document: SceneDocument) => void, losses: Partial<Loss>[] = []): string[] {
  const made = quay();
  const files = new Map([[FILE, new Uint8Array()]]);
  const { checks } = readBackModel(
    { files, model: 'quay.usda', source: made, wanted: made, plan: plan(losses) },
    quay(change),
  );
  return checks.filter(({ ok }) => !ok).map(({ check }) => check);
}

describe('a model that is read back', () => {
  it('is as it was written, and tells how much it holds', () => {
    const made = quay();
    const { counts, bounds, checks } = readBackModel(
      {
        files: new Map([[FILE, new Uint8Array()]]),
        model: 'quay.usda',
        source: made,
        wanted: made,
        plan: plan(),
      },
      quay(),
    );
    expect(checks.filter(({ ok }) => !ok)).toEqual([]);
    expect([counts, bounds]).toEqual([
      { meshes: 2, triangles: 3, materials: 2, textures: 1 },
      { min: [0, 0, 0], max: [1, 1, 0] },
    ]);
    const told = Object.fromEntries(checks.map(({ check, found }) => [check, found]));
    expect(told).toMatchObject({
      polygons: '2',
      'part names': 'lid, rim',
      'material of each face': 'Brass 1, Oak 1',
      'axes and unit': 'Y up, 1 m',
      'hidden parts': 'none',
      'images in their slots': '1 slots',
    });
  });

  it.each<[string, (document: SceneDocument) => void, string[]]>([
    [
      'lost a part',
      ({ nodes }) => nodes.pop(),
      ['triangles', 'polygons', 'materials', 'part names', 'material names', 'material of each face'],
    ],
    ['hides a part', ({ nodes }) => Object.assign(nodes[1], { visible: false }), ['hidden parts']],
    ['calls a part otherwise', ({ nodes }) => Object.assign(nodes[0], { name: 'Cover' }), ['part names']],
    [
      'calls a material otherwise',
      ({ materials }) => Object.assign(materials[1], { name: 'Gold' }),
      ['material names', 'material of each face'],
    ],
    [
      'gives a face another material',
      ({ nodes }) => Object.assign(nodes[1], { materials: [0] }),
      ['materials', 'material names', 'material of each face'],
    ],
    [
      'is ten times as large',
      (document) => Object.assign(document, { metresPerUnit: 10 }),
      ['bounds', 'axes and unit'],
    ],
    ['states no unit', (document) => Object.assign(document, { unitStated: false }), ['axes and unit']],
    ['lies on its back', (document) => Object.assign(document, { axes: Z_UP }), ['bounds', 'axes and unit']],
    [
      'holds nothing in a part beside',
      (document) => {
        const nothing = new Uint32Array();
        const empty = { points: new Float64Array(), faceCounts: nothing, faceCorners: nothing };
        document.meshes.push(createMesh('void', empty));
        document.nodes.push(createNode('Void', 'mesh', -1, { mesh: 2, materials: [] }));
      },
      [],
    ],
    [
      'has the image in another slot',
      (document) => {
        const { channels } = oakOf(document);
        channels.roughness = channels.normal;
        delete channels.normal;
      },
      ['images in their slots'],
    ],
    [
      'names an image that is not there',
      ({ images }) => Object.assign(images[0], { written: 'maps/gone.png' }),
      ['paths resolve inside the package', 'images in their slots'],
    ],
  ])('%s', (_, change, checks) => {
    expect(failing(change)).toEqual(checks);
  });

  it('names six of many that are otherwise, and how many more', () => {
    const made = quay(({ nodes }) => {
      for (let i = 0; i < 7; i += 1) nodes.push({ ...nodes[1], name: `rim_${i}` });
    });
    const input = { files: new Map([[FILE, new Uint8Array()]]), model: 'quay.usda', plan: plan() };
    const { checks } = readBackModel({ ...input, source: made, wanted: made }, quay());
    const { ok, expected, found } = checks.find(({ check }) => check === 'part names') ?? {};
    expect([ok, expected, found]).toEqual([
      false,
      'lid, rim, rim_0, rim_1, rim_2, rim_3 and 3 more',
      expect.stringContaining('lid, rim'),
    ]);
  });

  it('lacks what a loss tells of just that slot, and no other', () => {
    const without = (document: SceneDocument) => void delete oakOf(document).channels.normal;
    const { key } = oakOf(quay());
    const told: Partial<Loss> = { code: 'usd.noInput', material: key, channel: 'normal' };
    expect(failing(without)).toEqual(['images in their slots']);
    expect(failing(without, [told])).toEqual([]);
    for (const other of [
      { ...told, channel: 'height' },
      { ...told, material: 'Brass' },
      { ...told, code: 'usd.clips' as Loss['code'] },
    ])
      expect(failing(without, [other as Partial<Loss>])).toEqual(['images in their slots']);
  });
});

describe('an image that was never delivered', () => {
  it('need not be in the package where the plan tells so, and no other may be missing', () => {
    const gone = ({ images }: SceneDocument) => Object.assign(images[0], { written: 'maps/gone.png' });
    const made = quay(gone);
    const paths = (detail: string, code: Loss['code'] = 'image.missing') =>
      readBackModel(
        {
          files: new Map(),
          model: 'quay.usda',
          source: made,
          wanted: made,
          plan: plan([{ code, detail }]),
        },
        quay(gone),
      ).checks.find(({ check }) => check === 'paths resolve inside the package')?.ok;
    expect([paths('maps/gone.png'), paths('maps/other.png')]).toEqual([true, false]);
    // Other losses have their details too.
    expect(paths('maps/gone.png', 'usd.clips')).toBe(false);
  });
});

describe('several models of a package', () => {
  const check = (name: string, ok: boolean, found: string): HandoffCheck => ({
    check: name,
    ok,
    expected: 'as made',
    found,
  });
  const back = (offset: number, checks: HandoffCheck[], more: Partial<ReadBack> = {}): ReadBack => ({
    validator: {
      version: '2.0',
      errors: offset,
      warnings: 1,
      infos: 2,
      messages: [{ code: `M${offset}`, message: '', pointer: '', severity: 1 }],
    },
    counts: { meshes: 1 + offset, triangles: 10 * (1 + offset), materials: 2, textures: 9 },
    bounds: { min: [offset, 0, 0], max: [offset + 1, 2, 3] },
    checks,
    channels: [
      {
        material: `M${offset}`,
        channel: 'roughness',
        expected: [0],
        found: [0],
        largest: 0,
        places: 1,
        ok: true,
      },
    ],
    ...more,
  });
  const image = check('pixels of a.png', true, 'the same');

  it('are told as one: sums, the bounds of all, what passes in each once, what fails by its file', () => {
    const merged = mergeReadBacks(
      [
        { model: 'a.glb', back: back(0, [check('triangles', true, '10'), check('names', true, 'a')]) },
        { model: 'b.glb', back: back(4, [check('triangles', true, '50'), check('names', false, 'x')]) },
        {
          model: 'c.glb',
          back: back(1, [check('triangles', true, '20'), check('names', true, 'c')], { bounds: null }),
        },
      ],
      [image],
    );
    expect(merged.counts).toEqual({ meshes: 8, triangles: 80, materials: 6, textures: 1 });
    expect(merged.bounds).toEqual({ min: [0, 0, 0], max: [5, 2, 3] });
    expect(merged.checks).toEqual([
      {
        check: 'triangles',
        ok: true,
        expected: 'in each of 3 files',
        found: 'in each of 3 files; first: 10',
      },
      { check: 'names (b.glb)', ok: false, expected: 'as made', found: 'x' },
      image,
    ]);
    expect(merged.validator).toMatchObject({
      version: '2.0',
      errors: 5,
      warnings: 3,
      infos: 6,
      messages: [{ code: 'M0' }, { code: 'M4' }, { code: 'M1' }],
    });
    expect(merged.channels.map(({ material }) => material)).toEqual(['M0', 'M4', 'M1']);
  });

  it('one alone stays as it is, with what was seen of its images', () => {
    const only = back(0, [check('triangles', true, '10')]);
    expect(mergeReadBacks([{ model: 'a.glb', back: only }], [image])).toEqual({
      ...only,
      checks: [...only.checks, image],
    });
  });
});

describe('bounds', () => {
  it('are the same within a hundred-thousandth of the longest side', () => {
    const box = (max: number) => ({
      min: [0, 0, 0] as [number, number, number],
      max: [max, 2, 1] as [number, number, number],
    });
    expect(compareBounds(box(4), box(4.00003))).toMatchObject({
      ok: true,
      expected: '4.0000 x 2.0000 x 1.0000 m',
      found: '4.0000 x 2.0000 x 1.0000 m, 0.000030 m apart',
    });
    expect(compareBounds(box(4), box(4 + 1e-7)).found).toBe('4.0000 x 2.0000 x 1.0000 m');
    expect(compareBounds(box(4), box(4.00005)).ok).toBe(false);
    expect([
      compareBounds(null, null).ok,
      compareBounds(box(1), null).ok,
      compareBounds(null, box(1)).found,
    ]).toEqual([true, false, 'geometry']);
  });
});

it('the bounds of a package are held against, but where parts are sheared', () => {
  const document = createDocument('fbx', '');
  Object.assign(document, { axes: Y_UP, metresPerUnit: 1 });
  document.meshes.push(
    createMesh('Hull', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    }),
  );
  document.nodes.push(createNode('Hull', 'mesh', -1, { mesh: 0 }));
  const box = (size: number) => ({ min: [0, 0, 0], max: [size, 1, 0] }) as Parameters<typeof boundsOf>[1];
  expect([boundsOf(document, box(1)).ok, boundsOf(document, box(2)).ok]).toEqual([true, false]);
  document.nodes[0].transform.matrix = Float64Array.of(1, 0, 0, 0, 0.5, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1);
  expect(boundsOf(document, box(2))).toMatchObject({ ok: true, found: expect.stringContaining('1 part') });
});
