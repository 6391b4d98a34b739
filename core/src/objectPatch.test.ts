import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type AssetState, nodeKeys } from './asset/asset.ts';
import { patchFbx } from './formats/fbx/patchFbx.ts';
import { NO_OBJECTS } from './formats/fbx/patchObjects.ts';
import { readFbx } from './formats/fbx/readFbx.ts';
import { writeFbx } from './formats/fbx/writeFbx.ts';
import { emptyPatch } from './formats/patch.ts';
import type { OpenAsset } from './inspect.ts';
import { objectChanges } from './objectPatch.ts';
import { patchModel } from './patch.ts';
import { changeParts } from './scene/changeParts.ts';
import { createNode, type SceneDocument } from './scene/document.ts';
import { TAKE_ALL } from './scene/intake.ts';
import { geometricMatrix, multiply, worldMatrices } from './scene/matrix.ts';
import type { PartChange } from './scene/partChange.ts';
import { riggedCrane } from './test/rigged.ts';

const MODELS = '/usr/share/assimp/models/FBX';
const FILES: [string, Uint8Array][] = [
  ...[
    'cubes_with_names',
    'cubes_with_mirroring_and_pivot',
    'global_settings',
    'animation_with_skeleton',
    'maxPbrMaterial_metalRough',
  ].map((name): [string, Uint8Array] => [name, new Uint8Array(readFileSync(`${MODELS}/${name}.fbx`))]),
  ['crane', writeFbx(riggedCrane()).bytes],
];

/** Changes that a file may have records for. */
const changesOf = (keys: readonly string[]): fc.Arbitrary<PartChange[]> => {
  const some = fc.uniqueArray(fc.constantFrom(...keys), { minLength: 1, maxLength: 2 });
  const change = fc.oneof(
    some.map((parts): PartChange => ({ do: 'group', parts, name: 'Set' })),
    some.map((parts): PartChange => ({ do: 'ungroup', parts })),
    some.map((parts): PartChange => ({ do: 'drop', parts })),
    some.map((parts): PartChange => ({ do: 'reset', parts })),
    fc.tuple(some, fc.integer({ min: -3, max: 3 }), fc.constantFrom(0, 30, 90)).map(
      ([parts, by, angle]): PartChange => ({
        do: 'place',
        parts,
        about: [0.1, 0.2, 0],
        move: [by, 0.5, 0],
        turn: [0, angle, 0],
        scale: angle > 30 ? 2 : 1,
      }),
    ),
    some.map(([part]): PartChange => ({ do: 'rename', names: [{ part, name: 'Bollard' }] })),
    fc
      .tuple(some, fc.option(fc.constantFrom(...keys)))
      .map(([parts, under]): PartChange => ({ do: 'move', parts, under })),
    fc
      .tuple(some, fc.constantFrom('centre', 'bottom', 'origin'))
      .map(([parts, at]): PartChange => ({ do: 'pivot', parts, at: at as 'centre' })),
  );
  return fc.array(change, { minLength: 1, maxLength: 3 });
};

function stateOf({ materials }: SceneDocument, more: Partial<AssetState>): AssetState {
  return { materials, images: [], intake: TAKE_ALL, ...more };
}

/** What hangs on what, where it and its points stand, and what moves; in no order. */
function standing({ nodes, meshes, skins, clips }: SceneDocument) {
  const worlds = worldMatrices(nodes);
  const rounded = (matrix: Iterable<number>) =>
    [...matrix].map((value) => (Math.abs(value) < 1e-4 ? 0 : Number(value.toPrecision(5))));
  const parts = nodes.map(({ name, parent, mesh, transform }, i) =>
    JSON.stringify([
      name,
      nodes[parent]?.name ?? null,
      meshes[mesh]?.points.length ?? null,
      rounded(worlds[i]),
      rounded(multiply(worlds[i], geometricMatrix(transform))),
    ]),
  );
  const tracks = clips.map((clip) =>
    clip.tracks.map(({ node, path }) => `${nodes[node].name} ${path}`).sort(),
  );
  return { parts: parts.sort(), skins: skins.length, tracks };
}

describe('what a file can say of changed parts', () => {
  it.each(FILES)('%s: stands as the changed document does, once it is patched', (name, bytes) => {
    const document = readFbx(bytes, name);
    const keys = nodeKeys(document.nodes);
    let said = 0;
    fc.assert(
      fc.property(changesOf(keys), (parts) => {
        const { patch, missed } = objectChanges(document, stateOf(document, { parts }));
        if (missed.length > 0) return;
        const patched = patchFbx(bytes, name, emptyPatch(), patch);
        const expected = changeParts(document, keys, parts, () => null).document;
        if (patched.missed.length > 0 || expected.nodes.length === 0) return;
        said += 1;
        const written = readFbx(patched.files.get(name) as Uint8Array, name);
        expect(standing(written)).toEqual(standing(expected));
      }),
      { numRuns: 40, seed: 6 },
    );
    expect(said).toBeGreaterThan(5);
  });

  it.each<[string, PartChange[], string]>([
    ['other faces', [{ do: 'turnFaces', parts: ['Jib'] }], 'Jib has other points or faces'],
    ['collision', [{ do: 'collision', parts: ['Jib'], shape: 'box' }], 'Jib has a shape for collision'],
    ['a joint elsewhere', [{ do: 'reset', parts: ['Mid'] }], 'Mid is a joint that stands elsewhere'],
    [
      'a pivot that clips turn about',
      [{ do: 'pivot', parts: ['Crane'], at: 'bottom' }],
      'Crane: its clips turn it about the new pivot',
    ],
  ])('is not %s', (_, parts, why) => {
    const document = riggedCrane();
    expect(objectChanges(document, stateOf(document, { parts })).missed).toContain(why);
  });

  it('is not what stands beside a view, shares points or slots', () => {
    const document = riggedCrane();
    const mesh = document.nodes.findIndex(({ name }) => name === 'Jib');
    document.nodes.push(
      createNode('Lamp', 'light', -1, { light: 0 }),
      createNode('Crate', 'mesh', -1, { mesh: document.nodes[mesh].mesh, materials: [0] }),
      createNode('Box', 'mesh', -1, { mesh: document.nodes[mesh].mesh, materials: [0, -1] }),
    );
    const missed = (more: Partial<AssetState>) => objectChanges(document, stateOf(document, more)).missed;
    expect(missed({ parts: [{ do: 'move', parts: ['Crate'], under: 'Lamp' }] })).toEqual([
      'Crate stands otherwise beside a camera or light',
    ]);
    expect(missed({ parts: [{ do: 'pivot', parts: ['Crate'], at: [1, 2, 3] }] })).toEqual([
      'Crate shares its points with a part that has them elsewhere',
    ]);
    expect(missed({ parts: [{ do: 'move', parts: ['Crate'], under: 'Crane' }] })).toEqual([]);
    const [steel] = document.materials;
    document.materials.push({ ...steel, key: 'Tar', name: 'Tar' });
    expect(missed({ bindings: { Crate: 'Tar' } })).toEqual([]);
    expect(missed({ bindings: { Box: 'Tar' } })).toEqual(['Box has one material in several slots']);
  });

  it('is said by names alone where the rest cannot be', async () => {
    const [[name, bytes]] = FILES;
    const document = readFbx(bytes, name);
    const [first, second] = document.nodes.map((node) => node.name);
    const patch = { ...NO_OBJECTS, parts: new Map([[first, 'Bollard']]), drops: [second] };
    const asset = { source: { model: name, format: 'fbx' }, read: async () => bytes, files: {} };
    const namesIn = async (missed: string[]) => {
      const made = await patchModel(asset as unknown as OpenAsset, emptyPatch(), {
        patch,
        missed,
        losses: [],
      });
      expect(made.missed).toEqual(missed);
      return readFbx(made.files.get(name) as Uint8Array, name).nodes.map((node) => node.name);
    };
    expect(await namesIn(['no'])).toEqual(['Bollard', ...document.nodes.slice(1).map((node) => node.name)]);
    expect(await namesIn([])).toHaveLength(document.nodes.length - 1);
  });
});
