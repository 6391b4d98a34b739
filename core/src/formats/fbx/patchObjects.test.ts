import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { type AssetState, initialState, nodeKeys } from '../../asset/asset.ts';
import { findDestination } from '../../destinations/destinations.ts';
import type { Destination } from '../../destinations/profile.ts';
import { handOff } from '../../handoff/handoff.ts';
import { openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { changeParts } from '../../scene/changeParts.ts';
import { createNode, identityTransform, type SceneDocument } from '../../scene/document.ts';
import { geometricMatrix, multiply, worldMatrices } from '../../scene/matrix.ts';
import type { PartChange } from '../../scene/partChange.ts';
import { riggedCrane } from '../../test/rigged.ts';
import { put } from '../../test/tools.ts';
import { assimpInfo } from '../../test/witness.ts';
import { emptyPatch } from '../patch.ts';
import { parseBinaryFbx } from './parseBinary.ts';
import { patchFbx } from './patchFbx.ts';
import { NO_OBJECTS, type ObjectPatch } from './patchObjects.ts';
import { readFbx } from './readFbx.ts';
import { I, L, record, S } from './records.ts';
import { childOf, childrenOf, type FbxProperty, numberAt, textAt } from './tree.ts';
import { writeBinaryFbx } from './writeBinary.ts';
import { writeFbx } from './writeFbx.ts';

/** The crane with a box that hangs on its hook, and a second of the same name. */
function crane(): SceneDocument {
  const document = riggedCrane();
  document.meshes.push({ ...document.meshes[0], name: 'crate', influences: null, shapes: [] });
  document.nodes.push(
    createNode('Crate', 'mesh', 5, { mesh: 1, materials: [0] }),
    createNode('Crate', 'mesh', -1, { mesh: 1, materials: [0] }),
  );
  return document;
}

function patched(
  form: 'binary' | 'text',
  change: Partial<ObjectPatch>,
  bytes = writeFbx(crane(), { form }).bytes,
) {
  const { files, missed } = patchFbx(bytes, 'crane.fbx', emptyPatch(), { ...NO_OBJECTS, ...change });
  return { bytes: files.get('crane.fbx') as Uint8Array, missed };
}

const namesIn = (bytes: Uint8Array) => readFbx(bytes, 'crane.fbx').nodes.map(({ name }) => name);

describe('names in a file that is changed itself', () => {
  it.each(['binary', 'text'] as const)('%s: only those of the part and the material are others', (form) => {
    const { bytes, missed } = patched(form, {
      materials: new Map([['Steel', 'Harbour "steel"']]),
      parts: new Map([
        ['Crate (2)', 'Kiste 2'],
        ['Jib', 'Ausleger'],
      ]),
    });
    expect(missed).toEqual([]);
    const document = readFbx(bytes, 'crane.fbx');
    expect(document.nodes.map(({ name }) => name)).toEqual([
      'Crane',
      'Root',
      'Mid',
      'Tip',
      'Ausleger',
      'Hook',
      'Crate',
      'Kiste 2',
    ]);
    expect(document.materials.map(({ name }) => name)).toEqual(['Harbour "steel"']);
    const before = readFbx(writeFbx(crane(), { form }).bytes, 'crane.fbx');
    const nameless = ({ nodes, materials, classicMaterials, ...rest }: SceneDocument) => ({
      ...rest,
      nodes: nodes.map((node) => ({ ...node, name: '' })),
      materials: materials.map((material) => ({ ...material, name: '', key: '' })),
    });
    expect(nameless(document)).toEqual(nameless(before));
  });

  it('stay in a file before 7.0, which ties objects by them', () => {
    const old = readFileSync('/usr/share/assimp/models/FBX/phong_cube.fbx');
    const tree = parseBinaryFbx(new Uint8Array(old), 'old.fbx');
    expect(tree.version).toBeGreaterThan(0);
    const text =
      '; FBX 6.1.0 project file\nFBXHeaderExtension:  {\n FBXVersion: 6100\n}\nObjects:  {\n Model: "Model::Crate", "Mesh" {\n }\n}\n';
    const { missed, bytes } = patched(
      'text',
      { parts: new Map([['Crate', 'Kiste']]) },
      new TextEncoder().encode(text),
    );
    expect(missed[0]).toContain('FBX before 7.0');
    expect(new TextDecoder().decode(bytes)).toBe(text);
  });
});

describe('parts that are dropped from a file that is changed itself', () => {
  it('go with what hangs below and on them alone, and leave everything else as it was', () => {
    const { bytes, missed } = patched('binary', { drops: ['Hook'] });
    expect(missed).toEqual([]);
    expect(namesIn(bytes)).toEqual(['Crane', 'Root', 'Mid', 'Tip', 'Jib', 'Crate']);
    const document = readFbx(bytes, 'crane.fbx');
    // The box is shared by the second of that name.
    expect(document.meshes).toHaveLength(2);
    // Of the hook's own two tracks none is left.
    expect(document.clips.map(({ tracks }) => tracks.map(({ node }) => document.nodes[node].name))).toEqual([
      ['Mid'],
      ['Crane'],
    ]);
    // The curves of those tracks went, too: three of Mid and three of Crane are left.
    const objects =
      parseBinaryFbx(bytes, 'crane.fbx').nodes.find(({ name }) => name === 'Objects')?.children ?? [];
    expect(objects.filter(({ name }) => name === 'AnimationCurveNode')).toHaveLength(2);
    expect(objects.filter(({ name }) => name === 'AnimationCurve')).toHaveLength(6);
    const info = assimpInfo(put('dropped.fbx', bytes));
    expect([info?.meshes, info?.bones, info?.materials]).toEqual([2, 3, 1]);
  });

  it('take skin, bones of the skin and shapes along, and the counts tell what is there', () => {
    const { bytes, missed } = patched('binary', { drops: ['Root', 'Jib'] });
    expect(missed).toEqual([]);
    const tree = parseBinaryFbx(bytes, 'crane.fbx');
    const section = (name: string) => tree.nodes.find((node) => node.name === name);
    const objects = section('Objects')?.children ?? [];
    expect(objects.filter(({ name }) => name === 'Deformer')).toEqual([]);
    const ids = new Set(objects.map((object) => textAt(object, 0)).concat('0'));
    for (const link of section('Connections')?.children ?? [])
      expect([ids.has(textAt(link, 1)), ids.has(textAt(link, 2))]).toEqual([true, true]);
    for (const pose of objects.filter(({ name }) => name === 'Pose'))
      for (const node of childrenOf(pose, 'PoseNode'))
        expect(ids.has(textAt(childOf(node, 'Node'), 0))).toBe(true);
    for (const type of childrenOf(section('Definitions'), 'ObjectType')) {
      const kind = textAt(type, 0);
      if (kind === 'GlobalSettings') continue;
      const there = objects.filter(({ name }) => name === kind).length;
      expect([kind, numberAt(childOf(type, 'Count'), 0)]).toEqual([kind, there]);
    }
    expect(readFbx(bytes, 'crane.fbx').skins).toEqual([]);
  });

  it('leave the poses that name them', () => {
    const tree = parseBinaryFbx(writeFbx(crane()).bytes, 'crane.fbx');
    const objects = tree.nodes.find(({ name }) => name === 'Objects');
    const ids = new Map(
      childrenOf(objects, 'Model').map((node) => [textAt(node, 1).split('\0')[0], node.properties[0]]),
    );
    const poseNode = (name: string) =>
      record('PoseNode', [], [record('Node', [ids.get(name) as FbxProperty])]);
    const count = record('NbPoseNodes', [I(2)]);
    objects?.children.push(
      record(
        'Pose',
        [L(77), S('rest\0\x01Pose'), S('BindPose')],
        [count, poseNode('Hook'), poseNode('Crane')],
      ),
    );
    // What stands elsewhere now is not told where it stood at rest, either.
    const changes: Partial<ObjectPatch>[] = [
      { drops: ['Hook'] },
      { placed: new Map([['Hook', { ...identityTransform(), translation: [1, 2, 3] }]]) },
    ];
    for (const change of changes) {
      const { bytes } = patched('binary', change, writeBinaryFbx(tree));
      const after = parseBinaryFbx(bytes, 'crane.fbx').nodes.find(({ name }) => name === 'Objects');
      const [pose] = childrenOf(after, 'Pose');
      expect(childrenOf(pose, 'PoseNode').map((node) => textAt(childOf(node, 'Node'), 0))).toEqual([
        String(ids.get('Crane')?.value),
      ]);
      expect(numberAt(childOf(pose, 'NbPoseNodes'), 0)).toBe(1);
    }
  });

  it('stay where they move the points of a part that stays', () => {
    const { missed } = patched('binary', { drops: ['Mid'] });
    expect(missed).toEqual(['Mid moves the points of a part that stays']);
  });
});

describe('a group that a file is given', () => {
  it('has numbers of its own, is counted, and hangs where it is hung', () => {
    const groups = [{ key: 'Cargo', name: 'Cargo', transform: identityTransform() }];
    const hung = new Map([
      ['Cargo', 'Crane'],
      ['Crate (2)', 'Cargo'],
    ]);
    const { bytes, missed } = patched('binary', { groups, hung });
    expect(missed).toEqual([]);
    const { nodes } = readFbx(bytes, 'crane.fbx');
    const parentOf = (name: string) => {
      const index = nodes.findLastIndex((node) => node.name === name);
      return nodes[nodes[index].parent]?.name ?? null;
    };
    expect([parentOf('Cargo'), parentOf('Hook')]).toEqual(['Crane', 'Crane']);
    expect(nodes.filter(({ parent }) => nodes[parent]?.name === 'Cargo').map(({ name }) => name)).toEqual([
      'Crate',
    ]);
    const tree = parseBinaryFbx(bytes, 'crane.fbx');
    const section = (name: string) => tree.nodes.find((node) => node.name === name);
    const ids = section('Objects')?.children.map((object) => textAt(object, 0)) ?? [];
    expect(new Set(ids).size).toBe(ids.length);
    const models = childrenOf(section('Definitions'), 'ObjectType').find(
      (type) => textAt(type, 0) === 'Model',
    );
    expect(numberAt(childOf(models, 'Count'), 0)).toBe(9);
    expect(assimpInfo(put('grouped.fbx', bytes))?.meshes).toBe(2);
  });
});

describe('a handoff that changes the source file itself', () => {
  const crates = ['Crate (2)', 'Crate'];
  const BOUND: Partial<AssetState> = { bindings: { 'Crate (2)': 'Tar' } };
  it.each<[string, PartChange[], Partial<AssetState>, boolean]>([
    ['renames parts', [{ do: 'rename', names: [{ part: 'Hook', name: 'Haken' }] }], {}, true],
    ['drops a part', [{ do: 'drop', parts: ['Hook'] }], {}, true],
    [
      'drops one and takes one back',
      [
        { do: 'drop', parts: ['Hook', 'Crate (2)'] },
        { do: 'restore', parts: ['Hook'] },
      ],
      {},
      true,
    ],
    ['hangs a part elsewhere', [{ do: 'move', parts: ['Crate (2)'], under: 'Mid' }], {}, true],
    ['hangs a part on nothing', [{ do: 'move', parts: ['Crate'], under: null }], {}, true],
    ['groups parts', [{ do: 'group', parts: crates, name: 'Cargo' }], {}, true],
    [
      'groups parts and takes the group apart',
      [
        { do: 'group', parts: crates, name: 'Cargo' },
        { do: 'ungroup', parts: ['Cargo'] },
      ],
      {},
      true,
    ],
    ['takes a group apart that the file has', [{ do: 'ungroup', parts: ['Stand'] }], {}, true],
    ['moves a pivot', [{ do: 'pivot', parts: ['Jib'], at: 'balance' }], {}, false],
    [
      'moves the pivot of a part that has points of its own',
      [{ do: 'pivot', parts: ['Block'], at: 'bottom' }],
      {},
      true,
    ],
    ['forgets a placement', [{ do: 'reset', parts: ['Crate (2)'] }], {}, true],
    ['gives a part another material', [], BOUND, true],
    [
      'does all of it',
      [
        { do: 'rename', names: [{ part: 'Crate', name: 'Kiste' }] },
        { do: 'pivot', parts: ['Block'], at: [1, 2, 3] },
        { do: 'group', parts: crates, name: 'Cargo' },
        { do: 'drop', parts: ['Jib'] },
      ],
      BOUND,
      true,
    ],
    ['cannot turn faces', [{ do: 'turnFaces', parts: ['Crate'] }], {}, false],
    ['cannot merge parts', [{ do: 'merge', parts: crates, name: 'Cargo' }], {}, false],
    ['cannot apply a placement', [{ do: 'apply', parts: ['Crate (2)'] }], {}, false],
    ['cannot add a shape for collision', [{ do: 'collision', parts: ['Crate'], shape: 'box' }], {}, false],
    ['cannot move a joint', [{ do: 'reset', parts: ['Mid'] }], {}, false],
    ['cannot move a turning part', [{ do: 'pivot', parts: ['Hook'], at: 'bottom' }], {}, false],
  ])('%s, and its receipt holds', async (_, changes, more, patches) => {
    for (const form of ['binary', 'text'] as const) {
      const { bytes } = writeFbx(quay(), { form });
      const asset = await openAsset(memorySource('quay', { 'crane.fbx': bytes }), 'crane.fbx');
      const state: AssetState = { ...initialState(asset.source), parts: changes, ...more };
      state.materials = state.materials.map((material) =>
        material.name === 'Steel' ? { ...material, name: 'Stahl' } : material,
      );
      const destination = findDestination('modelling') as Destination;
      const { receipt, files } = await handOff({
        ...asset,
        state,
        edits: [],
        findings: [],
        destination: { ...destination, workflow: 'metalRough' },
      });
      expect(receipt.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);
      expect(receipt.prepared.some((line) => line.startsWith('The source file itself'))).toBe(patches);
      // What does not follow a motion any more is told, whichever way the file is written.
      const left = changeParts(asset.document, nodeKeys(asset.document.nodes), changes, () => null).losses;
      for (const { part, code } of left)
        if (code === 'part.leftMotion')
          expect(receipt.losses.join('\n')).toContain(`${part}: it does not follow the motion of`);
      const written = readFbx(files.get('crane.fbx') as Uint8Array, 'crane.fbx');
      expect(written.materials.map(({ name }) => name).sort()).toEqual(['Stahl', 'Tar']);
      const source = readFbx(bytes, 'crane.fbx');
      const expected = changeParts(source, nodeKeys(source.nodes), changes, () => null).document;
      if (patches) expect(standing(written)).toEqual(standing(expected));
      if (patches && 'bindings' in more) {
        const shown = written.nodes.map(({ materials }) => written.materials[materials[0]]?.name);
        expect(shown.filter(Boolean).sort()).toEqual(
          changes.length > 0 ? ['Stahl', 'Stahl', 'Tar'] : ['Stahl', 'Stahl', 'Stahl', 'Tar'],
        );
      }
    }
  });

  it('renames a material whose images another reader misses in the source, too', async () => {
    const bytes = new Uint8Array(readFileSync('/usr/share/assimp/models/FBX/maxPbrMaterial_metalRough.fbx'));
    const asset = await openAsset(memorySource('lack', { 'lack.fbx': bytes }), 'lack.fbx');
    const state = initialState(asset.source);
    state.materials = state.materials.map((material) => ({ ...material, name: 'Lack' }));
    const destination = findDestination('modelling') as Destination;
    const { receipt } = await handOff({ ...asset, state, edits: [], findings: [], destination });
    expect(receipt.prepared[0]).toMatch(/^The source file itself/);
    expect(receipt.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);
  });

  /** The crane, a stand that holds the second crate, and tar that nothing shows. */
  function quay(): SceneDocument {
    const document = crane();
    const stand = createNode('Stand', 'group', -1);
    stand.transform.translation = [0, 5, 0];
    document.nodes.push(stand);
    const [second] = document.nodes.splice(7, 1);
    second.parent = 7;
    second.transform = { ...identityTransform(), translation: [1, 2, 3], rotation: [0, 40, 0] };
    document.nodes.push(second, createNode('Block', 'mesh', 7, { mesh: 2, materials: [0] }));
    document.meshes.push({ ...document.meshes[1], name: 'block' });
    document.materials.push({ ...document.materials[0], name: 'Tar', key: 'Tar' });
    return document;
  }

  /** What hangs on what, and where each stands and its points do, in no order. */
  function standing({ nodes }: SceneDocument) {
    const worlds = worldMatrices(nodes);
    const rounded = (matrix: Iterable<number>) =>
      [...matrix].map((value) => Math.round(value * 1e6) / 1e6 || 0);
    return nodes
      .map(({ name, parent, transform }, i) => ({
        name,
        on: nodes[parent]?.name ?? null,
        world: rounded(worlds[i]),
        points: rounded(multiply(worlds[i], geometricMatrix(transform))),
      }))
      .sort((a, b) => JSON.stringify(a).localeCompare(JSON.stringify(b)));
  }
});
