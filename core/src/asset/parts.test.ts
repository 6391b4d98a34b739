import { describe, expect, it } from 'vitest';
import { describeEdit, replay } from '../edits/log.ts';
import { parseEdit } from '../edits/schema.ts';
import { overlap, touchesOf } from '../edits/touches.ts';
import {
  createDocument,
  createMesh,
  createNode,
  type SceneDocument,
  type Vec3,
  Y_UP,
} from '../scene/document.ts';
import { createMaterial } from '../scene/material.ts';
import type { PartChange } from '../scene/partChange.ts';
import { BOX_QUADS } from '../test/boxes.ts';
import { alikeParts } from './alikeParts.ts';
import { type Edit, initialState } from './asset.ts';
import { describeSource } from './describeSource.ts';
import { editedDocument } from './editedDocument.ts';
import { partsOf } from './parts.ts';

const origin = { from: 'hand' as const, detail: '' };

function box(name: string, [x, y, z]: Vec3) {
  return createMesh(name, {
    points: Float64Array.from(
      Array.from({ length: 8 }, (_, i) => [(i & 1) + x, ((i >> 1) & 1) + y, ((i >> 2) & 1) + z]).flat(),
    ),
    faceCounts: new Uint32Array(6).fill(4),
    faceCorners: Uint32Array.from(BOX_QUADS.flat()),
    faceMaterial: Int32Array.of(0, 0, 0, 1, 1, 1),
  });
}

/** A slip with two steps of one mesh and a rail; materials Stone, Moss and Steel. */
function slip(): SceneDocument {
  const document = createDocument('fbx', 'text');
  Object.assign(document, { axes: Y_UP, metresPerUnit: 0.5 });
  document.materials.push(
    createMaterial('Stone', 'metalRough'),
    createMaterial('Moss', 'metalRough'),
    createMaterial('Steel', 'metalRough'),
  );
  document.meshes.push(box('step', [0, 0, 0]), box('rail', [4, 0, 0]));
  const group = createNode('Slip', 'group', -1);
  group.transform.translation = [2, 0, 0];
  const second = createNode('Step', 'mesh', 0, { mesh: 0, materials: [0, 1] });
  second.transform.translation = [0, 2, 0];
  document.nodes.push(
    group,
    createNode('Step', 'mesh', 0, { mesh: 0, materials: [0, 1] }),
    second,
    createNode('Rail', 'mesh', -1, { mesh: 1, materials: [2, 2] }),
  );
  return document;
}

const source = describeSource(slip(), 'slip.fbx', []);
const part = (change: PartChange): Edit => ({ kind: 'editParts', change, origin });

/** What the tree shows beside what the model becomes. */
function both(...edits: Edit[]) {
  const { state, skipped } = replay(source, edits, []);
  const shown = partsOf(source, state).filter(({ dropped }) => !dropped);
  const { document } = editedDocument(slip(), state);
  const made = partsOf(describeSource(document, 'slip.fbx', []), initialState(source));
  return { state, skipped, shown, made, document };
}

const named = (parts: ReturnType<typeof partsOf>) => {
  const names = new Map(parts.map(({ key, name }) => [key, name]));
  return parts
    .map(({ name, parent, polygons, bounds, slots }) =>
      JSON.stringify([name, names.get(parent ?? '') ?? null, polygons, bounds, [...new Set(slots)]]),
    )
    .sort();
};

describe('the tree', () => {
  it('has a key, a place and a pivot for every part, in metres', () => {
    const { shown } = both();
    expect(
      shown.map(({ key, parent, polygons, pivot, bounds }) => [key, parent, polygons, pivot, bounds]),
    ).toEqual([
      ['Slip', null, 0, [1, 0, 0], null],
      ['Step', 'Slip', 6, [1, 0, 0], { min: [1, 0, 0], max: [1.5, 0.5, 0.5] }],
      ['Step (2)', 'Slip', 6, [1, 1, 0], { min: [1, 1, 0], max: [1.5, 1.5, 0.5] }],
      ['Rail', null, 6, [0, 0, 0], { min: [2, 0, 0], max: [2.5, 0.5, 0.5] }],
    ]);
  });

  it.each<[string, PartChange[]]>([
    ['nothing', []],
    ['dropped parts', [{ do: 'drop', parts: ['Slip'] }]],
    [
      'one brought back below what was dropped',
      [
        { do: 'drop', parts: ['Slip'] },
        { do: 'restore', parts: ['Step (2)'] },
      ],
    ],
    ['other names', [{ do: 'rename', names: [{ part: 'Step (2)', name: 'Tread' }] }]],
    [
      'another place in the tree',
      [
        { do: 'move', parts: ['Rail'], under: 'Slip' },
        { do: 'move', parts: ['Step'], under: null },
      ],
    ],
    ['a place below itself', [{ do: 'move', parts: ['Slip'], under: 'Step' }]],
    ['a place that is not there', [{ do: 'move', parts: ['Step'], under: 'Ghost' }]],
    [
      'a group',
      [
        { do: 'group', parts: ['Step', 'Rail'], name: 'Set' },
        { do: 'rename', names: [{ part: 'Set', name: 'Kit' }] },
      ],
    ],
    ['no group', [{ do: 'ungroup', parts: ['Slip'] }]],
    ['merged parts', [{ do: 'merge', parts: ['Step', 'Step (2)'], name: 'Steps' }]],
    ['pivots', [{ do: 'pivot', parts: ['Step', 'Rail'], at: 'bottom' }]],
    [
      'turned faces and normals',
      [
        { do: 'turnFaces', parts: ['Rail'] },
        { do: 'normals', parts: ['Step'], angle: 30 },
      ],
    ],
  ])('shows %s as the model has them when it goes out', (_, changes) => {
    const { shown, made } = both(...changes.map(part));
    expect(named(shown)).toEqual(named(made));
    const pivots = (parts: typeof made) =>
      parts
        .filter(({ polygons }) => polygons > 0)
        .map(({ name, pivot }) => [name, pivot?.map((value) => Number(value.toFixed(9)))]);
    if (changes.every((change) => change.do === 'pivot' || change.do === 'rename'))
      expect(pivots(shown)).toEqual(pivots(made));
    const inside = (parts: typeof made) =>
      parts.flatMap(({ name, facts }) => (facts?.inward.solids ? [name] : []));
    if (changes.some((change) => change.do === 'turnFaces'))
      expect([inside(shown), inside(made)]).toEqual([['Rail'], ['Rail']]);
  });

  it('shows the pieces of a part that is cut, with names, faces, bounds and materials of their own', () => {
    const { shown, made } = both(
      part({ do: 'rename', names: [{ part: 'Step', name: 'Tread' }] }),
      part({ do: 'cut', parts: ['Step', 'Step (2)'], by: 'materials' }),
    );
    expect(
      shown.slice(4).map(({ key, name, parent, polygons, slots }) => [key, name, parent, polygons, slots]),
    ).toEqual([
      ['Step_Stone', 'Tread_Stone', 'Step', 3, ['Stone']],
      ['Step_Moss', 'Tread_Moss', 'Step', 3, ['Moss']],
      ['Step (2)_Stone', 'Step_Stone', 'Step (2)', 3, ['Stone']],
      ['Step (2)_Moss', 'Step_Moss', 'Step (2)', 3, ['Moss']],
    ]);
    expect(named(shown)).toEqual(named(made));
    // Faces of a material's lie on three sides of the box, so that the bounds are the box's.
    expect(shown[4].bounds).toEqual({ min: [1, 0, 0], max: [1.5, 0.5, 0.5] });
    expect([shown[1].kind, shown[1].polygons, shown[1].slots]).toEqual(['group', 0, []]);
  });

  it('gives a piece a material of its own, which stays with it when materials are renamed', () => {
    const { shown, made, document } = both(
      part({ do: 'cut', parts: ['Step'], by: 'materials' }),
      { kind: 'bindNodes', nodes: ['Step_Moss'], material: 'Steel', origin },
      { kind: 'renameMaterials', names: [{ material: 'Moss', name: 'Weed' }], origin },
    );
    expect(shown.slice(4).map(({ key, name, slots }) => [key, name, slots])).toEqual([
      ['Step_Stone', 'Step_Stone', ['Stone']],
      ['Step_Moss', 'Step_Weed', ['Steel']],
    ]);
    expect(named(shown)).toEqual(named(made));
    expect(
      document.nodes
        .filter(({ name }) => name.startsWith('Step_'))
        .map(({ materials }) => materials.map((index) => document.materials[index].name)),
    ).toEqual([['Stone'], ['Steel']]);
  });

  it('keeps the keys of its pieces when materials are merged, or the part got another one before', () => {
    const cut = part({ do: 'cut', parts: ['Step', 'Rail'], by: 'materials' });
    const bound: Edit = { kind: 'bindNodes', nodes: ['Step_Moss'], material: 'Steel', origin };
    const merged = both(cut, bound, { kind: 'mergeMaterials', materials: ['Moss'], into: 'Stone', origin });
    expect(merged.skipped).toEqual([]);
    expect(merged.shown.slice(4).map(({ key, name, slots }) => [key, name, slots])).toEqual([
      ['Step_Stone', 'Step_Stone', ['Stone']],
      ['Step_Moss', 'Step_Stone', ['Steel']],
      ['Rail_Steel', 'Rail_Steel', ['Steel']],
      ['Rail_Steel (2)', 'Rail_Steel', ['Steel']],
    ]);
    expect(named(merged.shown)).toEqual(named(merged.made));
    const before = both(
      { kind: 'bindNodes', nodes: ['Step'], material: 'Steel', origin },
      cut,
      part({ do: 'drop', parts: ['Step_Moss'] }),
    );
    expect([before.skipped, before.shown.map(({ key }) => key)]).toEqual([
      [],
      ['Slip', 'Step', 'Step (2)', 'Rail', 'Step_Stone', 'Rail_Steel', 'Rail_Steel (2)'],
    ]);
    expect(named(before.shown)).toEqual(named(before.made));
  });

  it('finds parts of the same form, and tells mirrored ones apart', () => {
    const document = slip();
    const wedge = (sign: number) =>
      createMesh('wedge', {
        points: Float64Array.of(0, 0, 0, 3 * sign, 0, 0, 0, 2, 0, 0, 0, 1),
        faceCounts: Uint32Array.of(3, 3),
        faceCorners: Uint32Array.of(0, 2, 1, 0, 1, 3),
      });
    document.meshes.push(wedge(1), wedge(-1));
    for (const [name, mesh] of [
      ['Wedge', 2],
      ['Chock', 3],
      ['Gone', 2],
      // As large as the wedge, mirrored by its place; twice as large; stretched, and stretched in another
      // way.
      ['Turned', 2],
      ['Large', 2],
      ['Long', 2],
      ['Wide', 2],
    ] as const)
      document.nodes.push(createNode(name, 'mesh', -1, { mesh, materials: [0] }));
    const [turned, large, long, wide] = document.nodes.slice(-4);
    turned.transform.scale = [-1, 1, 1];
    large.transform.scale = [2, 2, 2];
    long.transform.scale = [3, 1, 1];
    wide.transform.scale = [1, 3, 1];
    // Of another mesh, drawn twice as large as it is.
    const twice = createMesh('twice', { ...wedge(1), points: wedge(1).points.map((value) => value * 2) });
    document.nodes.push(
      createNode('Twice', 'mesh', -1, { mesh: document.meshes.push(twice) - 1, materials: [0] }),
    );
    const parts = partsOf(describeSource(document, 'slip.fbx', []), {
      parts: [{ do: 'drop', parts: ['Gone'] }],
    });
    expect(alikeParts(parts, ['Step'])).toEqual({ same: ['Step', 'Step (2)', 'Rail'], mirrored: [] });
    expect(alikeParts(parts, ['Wedge'])).toEqual({ same: ['Wedge'], mirrored: ['Chock', 'Turned'] });
    expect(alikeParts(parts, ['Large'])).toEqual({ same: ['Large', 'Twice'], mirrored: [] });
    expect(alikeParts(parts, ['Long'])).toEqual({ same: ['Long'], mirrored: [] });
    expect(alikeParts(parts, ['Slip'])).toEqual({ same: [], mirrored: [] });
  });

  it('tells pieces of a part that is drawn larger from those of one that is not', () => {
    const document = slip();
    document.nodes[2].transform.scale = [2, 2, 2];
    const parts = partsOf(describeSource(document, 'slip.fbx', []), {
      parts: [{ do: 'cut', parts: ['Step', 'Step (2)'], by: 'materials' }],
    });
    const pieces = parts
      .filter(({ solid, parent }) => solid && parent?.startsWith('Step'))
      .map(({ key }) => key);
    expect(pieces).toHaveLength(4);
    // Both halves of a cube are alike; those of the larger cube are like each other alone.
    expect(alikeParts(parts, [pieces[0]]).same).toEqual(pieces.slice(0, 2));
    expect(alikeParts(parts, [pieces[2]]).same).toEqual(pieces.slice(2));
  });

  it('marks what it cannot cut beforehand, and cuts nothing that stays whole', () => {
    const old = { ...source, shapes: source.shapes?.map(({ pieces: _, form: __, ...facts }) => facts) };
    const cut: PartChange = { do: 'cut', parts: ['Step', 'Slip'], by: 'materials' };
    expect(partsOf(old, { parts: [cut] }).map(({ key, kind, cut: by }) => [key, kind, by])).toEqual([
      ['Slip', 'group', null],
      ['Step', 'mesh', 'materials'],
      ['Step (2)', 'mesh', null],
      ['Rail', 'mesh', null],
    ]);
    expect(partsOf(source, { parts: [{ ...cut, by: 'solids' }] }).map(({ key }) => key)).toEqual([
      'Slip',
      'Step',
      'Step (2)',
      'Rail',
    ]);
  });

  it('of twenty thousand nodes in one chain is changed and told', () => {
    const nodes = Array.from({ length: 20_000 }, (_, i) => ({
      name: 'node',
      kind: 'group',
      parent: i - 1,
      polygons: 0,
    }));
    const parts: PartChange[] = [
      { do: 'drop', parts: ['node'] },
      { do: 'restore', parts: ['node (20000)'] },
      { do: 'group', parts: ['node (3)'], name: 'node' },
    ];
    const shown = partsOf({ nodes, upAxis: 'Y' }, { parts });
    expect([shown.length, shown.at(-1)?.key, shown.every(({ dropped }) => !dropped)]).toEqual([
      20_001,
      'node (20001)',
      true,
    ]);
  });

  it('tells which parts of an edit are not there', () => {
    expect(
      both(
        part({ do: 'drop', parts: ['Step', 'Ghost'] }),
        part({ do: 'group', parts: ['Step'], name: 'Set' }),
        part({ do: 'drop', parts: ['Set', 'Kit'] }),
      ).skipped,
    ).toEqual([
      { edit: 0, what: 'part Ghost' },
      { edit: 2, what: 'part Kit' },
    ]);
  });
});

describe('the list of materials', () => {
  const materialsOf = ({ document }: ReturnType<typeof both>) => document.materials.map(({ name }) => name);
  const onFaces = ({ document }: ReturnType<typeof both>) =>
    document.nodes
      .filter(({ mesh }) => mesh >= 0)
      .map(({ materials }) => materials.map((index) => document.materials[index]?.name ?? 'none'));

  it('has one where two were merged, also one that was merged before', () => {
    const merged = both(
      { kind: 'mergeMaterials', materials: ['Moss'], into: 'Stone', origin },
      { kind: 'mergeMaterials', materials: ['Stone'], into: 'Steel', origin },
    );
    expect([materialsOf(merged), onFaces(merged)]).toEqual([
      ['Steel'],
      [
        ['Steel', 'Steel'],
        ['Steel', 'Steel'],
        ['Steel', 'Steel'],
      ],
    ]);
    expect(merged.shown.map(({ slots }) => slots)).toEqual([
      [],
      ['Steel', 'Steel'],
      ['Steel', 'Steel'],
      ['Steel', 'Steel'],
    ]);
    expect(
      both({ kind: 'mergeMaterials', materials: ['Moss', 'Ghost'], into: 'Nothing', origin }).skipped,
    ).toEqual([{ edit: 0, what: 'material Nothing' }]);
  });

  it('leaves what was dropped, and its faces have none', () => {
    const dropped = both({ kind: 'dropMaterials', materials: ['Moss', 'Ghost'], origin });
    expect([materialsOf(dropped), onFaces(dropped)[0], dropped.skipped]).toEqual([
      ['Stone', 'Steel'],
      ['Stone', 'none'],
      [{ edit: 0, what: 'material Ghost' }],
    ]);
  });

  it('takes other names, which faces follow', () => {
    const renamed = both({ kind: 'renameMaterials', names: [{ material: 'Moss', name: 'Weed' }], origin });
    expect([materialsOf(renamed), onFaces(renamed)[0]]).toEqual([
      ['Stone', 'Weed', 'Steel'],
      ['Stone', 'Weed'],
    ]);
  });

  it('comes in the order of its numbers; one number is one material', () => {
    const numbered = both(
      {
        kind: 'numberMaterials',
        numbers: [
          { material: 'Steel', number: 1 },
          { material: 'Moss', number: 2 },
        ],
        origin,
      },
      { kind: 'numberMaterials', numbers: [{ material: 'Stone', number: 2 }], origin },
    );
    expect(numbered.state.numbers).toEqual({ Steel: 1, Stone: 2 });
    expect([materialsOf(numbered), onFaces(numbered)]).toEqual([
      ['Steel', 'Stone', 'Moss'],
      [
        ['Stone', 'Moss'],
        ['Stone', 'Moss'],
        ['Steel', 'Steel'],
      ],
    ]);
  });
});

describe('an edit of parts from outside', () => {
  it.each<[object, RegExp | null]>([
    [{ do: 'drop', parts: ['a'] }, null],
    [{ do: 'drop', parts: [] }, /parts/],
    [{ do: 'burn', parts: ['a'] }, /do/],
    [{ do: 'pivot', parts: ['a'], at: 'balance' }, null],
    [{ do: 'pivot', parts: ['a'], at: [1, 2, 3] }, null],
    [{ do: 'pivot', parts: ['a'], at: [1, 2] }, /at/],
    [{ do: 'pivot', parts: ['a'], at: 'top' }, /at/],
    [{ do: 'move', parts: ['a'], under: null }, null],
    [{ do: 'move', parts: ['a'] }, /under/],
    [{ do: 'rename', names: [{ part: 'a', name: '' }] }, /name/],
    [{ do: 'normals', parts: ['a'], angle: 200 }, /angle/],
    [{ do: 'collision', parts: ['a'], shape: 'ball' }, /shape/],
    [{ do: 'collision', parts: ['a'], shape: 'hulls', hulls: 65 }, /hulls/],
    [{ do: 'collision', parts: ['a'], shape: 'hulls', error: 0 }, /error/],
    [{ do: 'collision', parts: ['a'], shape: 'mesh', keep: 1.5 }, /keep/],
    [{ do: 'cut', parts: ['a'], by: 'solids', more: 1 }, /more/],
  ])('%j is as sound as it is', (change, fault) => {
    const edit = { kind: 'editParts', change, origin };
    if (fault === null) expect(parseEdit(edit)).toEqual(edit);
    else expect(() => parseEdit(edit)).toThrow(fault);
  });

  it('touches the parts that it names', () => {
    const touched = touchesOf(part({ do: 'move', parts: ['a'], under: 'b' }));
    expect(overlap(touched, touchesOf(part({ do: 'drop', parts: ['b'] })))).toBe(true);
    expect(overlap(touched, touchesOf(part({ do: 'drop', parts: ['c'] })))).toBe(false);
    expect(
      overlap(
        touchesOf({ kind: 'mergeMaterials', materials: ['x'], into: 'y', origin }),
        touchesOf({ kind: 'dropMaterials', materials: ['y'], origin }),
      ),
    ).toBe(true);
  });

  it.each<[PartChange, string]>([
    [{ do: 'drop', parts: ['a', 'b'] }, 'Dropped 2 parts'],
    [{ do: 'restore', parts: ['a'] }, 'Brought a back'],
    [{ do: 'rename', names: [{ part: 'a', name: 'b' }] }, 'Renamed a to b'],
    [{ do: 'move', parts: ['a'], under: null }, 'Moved a to the top'],
    [{ do: 'move', parts: ['a'], under: 'b' }, 'Moved a below b'],
    [{ do: 'group', parts: ['a'], name: 'g' }, 'Grouped a as g'],
    [{ do: 'ungroup', parts: ['a'] }, 'Ungrouped a'],
    [{ do: 'merge', parts: ['a', 'b'], name: 'm' }, 'Merged 2 parts into m'],
    [{ do: 'cut', parts: ['a'], by: 'solids' }, 'Cut a into solids'],
    [{ do: 'turnFaces', parts: ['a'] }, 'Turned the faces of a'],
    [{ do: 'normals', parts: ['a'], angle: 60 }, 'Computed normals of a, smooth below 60°'],
    [{ do: 'pivot', parts: ['a'], at: 'bottom' }, 'Put the pivot of a at the middle of the bottom'],
    [{ do: 'pivot', parts: ['a'], at: [1, 2, 3] }, 'Put the pivot of a at 1 2 3'],
    [{ do: 'apply', parts: ['a'] }, 'Applied the transform of a'],
    [{ do: 'reset', parts: ['a'] }, 'Reset the transform of a'],
    [
      { do: 'place', parts: ['a', 'b'], about: [9, 9, 9], move: [1, 0, -0.25], turn: [0, 90, 0], scale: 1.5 },
      'Placed 2 parts: moved by 1, 0, -0.25 m, turned by 0, 90, 0°, 1.5 times its size',
    ],
    [
      { do: 'place', parts: ['a'], about: [9, 9, 9], move: [0, 0, 0], turn: [0, 0, 0], scale: 1 },
      'Placed a: as it stood',
    ],
    [{ do: 'collision', parts: ['a'], shape: 'hull' }, 'Collision shape of a: convex hull'],
    [
      { do: 'collision', parts: ['a'], shape: 'hulls', hulls: 8, error: 0.05 },
      'Collision shape of a: several hulls, 8 at most, error 5 %',
    ],
    [
      { do: 'collision', parts: ['a'], shape: 'mesh', keep: 0.25 },
      'Collision shape of a: its own faces, 25 % of its triangles',
    ],
    [{ do: 'collision', parts: ['a'], shape: 'none' }, 'No collision shape for a'],
  ])('%j reads as words', (change, words) => {
    expect(describeEdit(part(change))).toBe(words);
  });
});
