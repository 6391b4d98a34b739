import { NodeIO } from '@gltf-transform/core';
import { beforeAll, describe, expect, it } from 'vitest';
import { mooringStair } from '../../../demo/src/mooringStair.ts';
import type { DemoParcel } from '../../../demo/src/scene.ts';
import type { Edit } from '../asset/asset.ts';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { replay } from '../edits/log.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { multiply, toYUpMetres, transformPoint, worldMatrices } from '../scene/matrix.ts';
import type { PartChange } from '../scene/partChange.ts';
import { measureShape } from '../shape/shapeFacts.ts';
import { harbourParcel } from '../test/harbour.ts';
import { handOff } from './handoff.ts';

let parcel: DemoParcel;
beforeAll(async () => {
  parcel = await harbourParcel(mooringStair);
});

const origin = { from: 'hand' as const, detail: '' };
const part = (change: PartChange): Edit => ({ kind: 'editParts', change, origin });

/** Hands a model off with edits, and reads the package's model back. */
async function handedOff(model: string, edits: Edit[], id: string, choices: object = {}) {
  const destination = findDestination(id) as Destination;
  const source = memorySource('stair', parcel.files);
  const asset = await openAsset(source, `mooring-stair/${model}`);
  const { state, skipped } = replay(asset.source, edits, asset.images);
  const { document, images, read } = asset;
  const { files, receipt, sheet } = await handOff({
    document,
    source: asset.source,
    state,
    edits,
    findings: [],
    images,
    destination,
    choices,
    read,
    threads: 1,
  });
  const written =
    receipt.outputs.map(({ path }) => path).find((path) => /\.(glb|fbx|obj|usdz|usdc|usda)$/.test(path)) ??
    '';
  return {
    skipped,
    receipt,
    sheet,
    files,
    written,
    document: await readModel(written, memorySource('package', Object.fromEntries(files))),
  };
}

const unexplained = ({ receipt }: { receipt: Awaited<ReturnType<typeof handedOff>>['receipt'] }) =>
  receipt.differences.filter(({ exempt }) => exempt === null);
const CHANGES: Edit[] = [
  part({ do: 'drop', parts: ['Stone', 'Mat'] }),
  part({ do: 'turnFaces', parts: ['Crate'] }),
  part({ do: 'rename', names: [{ part: 'Hatch', name: 'Deck_hatch' }] }),
  part({ do: 'apply', parts: ['Gate'] }),
  part({ do: 'normals', parts: ['Bar', 'Ring'], angle: 60 }),
  part({ do: 'group', parts: ['Wedge', 'Plate'], name: 'Irons' }),
  part({ do: 'merge', parts: ['Sign', 'Board'], name: 'Boards' }),
  part({ do: 'pivot', parts: ['Bell'], at: 'bottom' }),
  part({ do: 'collision', parts: ['Crate'], shape: 'hull' }),
  { kind: 'mergeMaterials', materials: ['Tar'], into: 'Pitch', origin },
  { kind: 'renameMaterials', names: [{ material: 'Iron', name: 'Forged' }], origin },
  {
    kind: 'numberMaterials',
    numbers: [
      { material: 'Pitch', number: 1 },
      { material: 'Iron', number: 2 },
    ],
    origin,
  },
];

describe('a model whose parts were changed', () => {
  it.each(['web-gltf', 'modelling', 'compositor-usd', 'compositor-classic', 'render-film'])(
    'goes to %s as it was changed, and its receipt holds',
    async (id) => {
      const made = await handedOff('yard.usda', CHANGES, id);
      expect(made.skipped).toEqual([]);
      expect([unexplained(made), made.receipt.verdict === 'failed']).toEqual([[], false]);
      const { document } = made;
      const names = document.nodes.map(({ name }) => name);
      for (const name of ['Deck_hatch', 'Boards', 'Bell', 'Crate']) expect(names, id).toContain(name);
      for (const name of ['Stone', 'Mat', 'Hatch', 'Sign', 'Board']) expect(names, id).not.toContain(name);
      if (document.format !== 'obj')
        expect(document.nodes[document.nodes.find(({ name }) => name === 'Plate')?.parent ?? -1]?.name).toBe(
          'Irons',
        );
      expect(
        names.filter((name) => /crate.*collision|collision.*crate|UCX_Crate/i.test(name)),
        'its shape for collision',
      ).toHaveLength(1);
      const materials = document.materials.map(({ name }) => name);
      expect([materials.includes('Forged'), materials.includes('Iron'), materials.includes('Tar')]).toEqual([
        true,
        false,
        false,
      ]);
      expect(made.sheet.materials.slice(0, 2).map(({ name, number }) => [name, number])).toEqual([
        ['Pitch', 1],
        ['Forged', 2],
      ]);
      expect(new TextDecoder().decode(made.files.get('README.html'))).toContain(
        '<tr><td>1</td><td>Pitch</td></tr>',
      );
      // Where a shape for collision hangs below, USD puts the mesh beside it.
      const own = (name: string) =>
        document.nodes.find(
          ({ name: other, parent, mesh }) =>
            mesh >= 0 &&
            (other === name || (document.nodes[parent]?.name === name && !/collision/i.test(other))),
        );
      const facts = (name: string) => measureShape(document.meshes[own(name)?.mesh ?? -1]);
      expect([
        facts('Crate').inward.solids,
        facts('Gate').inward.solids,
        facts('Bar').normals.broken,
      ]).toEqual([0, 0, 0]);
    },
  );

  it.each(['web-gltf', 'modelling', 'compositor-usd'])(
    'goes to %s with the camera and the lamps of the view, which stand still while it turns',
    async (id) => {
      const stage = {
        camera: { position: [6, 2, 8], target: [0, 2, 0], focal: 50 },
        lamps: [{ name: 'key', position: [0, 9, 0], target: [0, 0, 0], colour: [1, 0.5, 0.25], strength: 2 }],
      };
      const made = await handedOff('stair.fbx', [], id, { stage, turn: 8 });
      expect(unexplained(made)).toEqual([]);
      expect(made.receipt.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);
      const { nodes, cameras, lights, clips, axes, metresPerUnit } = made.document;
      const camera = nodes.findIndex((node) => node.camera >= 0);
      const world = multiply(toYUpMetres(axes, metresPerUnit), worldMatrices(nodes)[camera]);
      const place = transformPoint(world, 0, 0, 0);
      const ahead = transformPoint(world, 0, 0, -1).map((value, k) => (value - place[k]) / metresPerUnit);
      [6, 2, 8].forEach((value, k) => expect(place[k]).toBeCloseTo(value, 4));
      [-0.6, 0, -0.8].forEach((value, k) => expect(ahead[k]).toBeCloseTo(value, 4));
      expect(cameras[0].aperture[1] / cameras[0].focalLength).toBeCloseTo(24 / 50, 4);
      expect(lights).toMatchObject([{ kind: 'directional' }]);
      const turning = nodes.findIndex(({ name }) => name === 'turn');
      expect(clips[0].tracks.map(({ node }) => node)).toEqual([turning]);
      for (let parent = nodes[camera].parent; parent >= 0; parent = nodes[parent].parent)
        expect(parent).not.toBe(turning);
    },
  );

  it('is written anew where the camera goes along, though the source could be changed itself', async () => {
    const camera = { position: [6, 2, 8], target: [0, 2, 0], focal: 50 };
    expect((await handedOff('stair.fbx', [], 'modelling')).receipt.prepared.join()).toContain(
      'The source file itself',
    );
    const made = await handedOff('stair.fbx', [], 'modelling', { stage: { camera, lamps: [] } });
    expect([
      made.receipt.prepared.join().includes('The source file itself'),
      made.document.cameras.length,
    ]).toEqual([false, 1]);
  });

  it('is seen so by another reader: names, places and materials of a glTF package', async () => {
    const { files, written } = await handedOff('yard.usda', CHANGES, 'web-gltf');
    const root = (await new NodeIO().readBinary(files.get(written) as Uint8Array)).getRoot();
    const bell = root.listNodes().find((node) => node.getName() === 'Bell');
    const place = bell?.getWorldTranslation() ?? [];
    // The bell hangs about (3, 0.4, 3) and is 0.4 high.
    expect(place.map((value) => Number(value.toFixed(4)))).toEqual([3, 0.2, 3]);
    expect(
      root
        .listMaterials()
        .slice(0, 2)
        .map((material) => material.getName()),
    ).toEqual(['Pitch', 'Forged']);
  });

  it('in one lump is cut into its solids, each of which closes', async () => {
    const made = await handedOff(
      'stair.fbx',
      [part({ do: 'cut', parts: ['Stair'], by: 'solids' })],
      'web-gltf',
    );
    expect(unexplained(made)).toEqual([]);
    const pieces = made.document.nodes.filter(({ mesh }) => mesh >= 0);
    expect(pieces.map(({ name }) => name)).toEqual(Array.from({ length: 8 }, (_, i) => `Stair_${i + 1}`));
    for (const { mesh } of pieces)
      expect(measureShape(made.document.meshes[mesh])).toMatchObject({ closed: 1, openEdges: 0 });
    const volume = pieces.reduce(
      (sum, { mesh }) => sum + (measureShape(made.document.meshes[mesh]).volume ?? 0),
      0,
    );
    expect(volume).toBeCloseTo(6 * 1.2 * 0.06 * 0.3 + 2 * 0.08 * 1.6 * 0.12, 5);
  });

  it.each(['web-gltf', 'modelling', 'compositor-usd'])(
    'goes to %s on a turntable: one clip of one turn',
    async (id) => {
      const made = await handedOff('stair.fbx', [], id, { turn: 6 });
      expect(unexplained(made)).toEqual([]);
      const [clip, ...others] = made.document.clips;
      expect([others, Number((clip.end - clip.start).toFixed(3))]).toEqual([[], 6]);
      expect(made.document.nodes[clip.tracks[0].node].name).toBe('turn');
    },
  );
});
