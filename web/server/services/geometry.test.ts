import { reshapedKey } from '@kinkajou/core/asset/reshaped';
import { describe, expect, it } from 'vitest';
import { closeAfterwards, send } from '../test/harness.ts';
import { benchView } from './benchView.ts';
import { addEdits, moveCursor } from './edits.ts';
import { reshapedGeometry } from './geometry.ts';

closeAfterwards();

const origin = { from: 'hand', detail: '' } as const;

/** Two squares a metre apart in one lump, of one material. */
const TILES = {
  'tiles.obj': `mtllib tiles.mtl\no Tiles\n${[0, 2].map((x) => `v ${x} 0 0\nv ${x + 1} 0 0\nv ${x + 1} 1 0\nv ${x} 1 0`).join('\n')}\nusemtl Clay\nf 1 2 3 4\nf 5 6 7 8\n`,
  'tiles.mtl': 'newmtl Clay\nKd 0.6 0.3 0.2\nnewmtl Slate\nKd 0.1 0.1 0.1\n',
};

interface Gltf {
  nodes: { mesh?: number; extras: { nodeKey: string } }[];
  meshes: { primitives: { material: number; attributes: { POSITION: number } }[] }[];
  materials: { name: string }[];
  accessors: { min: number[]; max: number[] }[];
}

/** By node its key, and of each of its primitives the material and how far it reaches along x. */
async function ask(id: string, of: string) {
  const bytes = Buffer.from(await reshapedGeometry(id, of));
  const { nodes, meshes, materials, accessors } = JSON.parse(
    bytes.subarray(20, 20 + bytes.readUInt32LE(12)).toString(),
  ) as Gltf;
  return nodes.map(({ mesh, extras }) => [
    extras.nodeKey,
    ...(mesh === undefined ? [] : meshes[mesh].primitives).flatMap(
      ({ material, attributes: { POSITION } }) => [
        materials[material].name,
        accessors[POSITION].min[0],
        accessors[POSITION].max[0],
      ],
    ),
  ]);
}

describe('the geometry as edits have left it', () => {
  it('has the pieces of what was cut, by their keys and with the materials that they were given', async () => {
    const { tiles: id } = (await send('Tiles', TILES)).assets;
    const key = async () => {
      const { state, geometry } = await benchView(id);
      return reshapedKey(state, geometry);
    };
    expect(await key()).toBeNull();
    const { state, geometry } = await benchView(id);
    // What a page works out before the server has heard of it is what the server works out from its database.
    const ahead = reshapedKey({ ...state, parts: [{ parts: ['Tiles'], do: 'cut', by: 'solids' }] }, geometry);
    await addEdits(id, [
      { kind: 'editParts', change: { do: 'cut', parts: ['Tiles'], by: 'solids' }, origin },
    ]);
    const cut = (await key()) ?? '';
    expect(cut).toBe(ahead);
    expect(await ask(id, cut)).toEqual([['Tiles'], ['Tiles_1', 'Clay', 0, 1], ['Tiles_2', 'Clay', 2, 3]]);
    await addEdits(id, [{ kind: 'bindNodes', nodes: ['Tiles_2'], material: 'Slate', origin }]);
    const bound = (await key()) ?? '';
    expect(bound).not.toBe(cut);
    expect((await ask(id, bound))[2]).toEqual(['Tiles_2', 'Slate', 2, 3]);
    // Dropping is shown by the page itself, and what was left out is there to be brought back.
    await addEdits(id, [{ kind: 'editParts', change: { do: 'drop', parts: ['Tiles_1'] }, origin }]);
    expect(await key()).toBe(bound);
    // A page that is ahead of the server, or behind it, is told to ask again.
    await expect(ask(id, '0123456789abcdef')).rejects.toMatchObject({ code: 'conflict' });
    await moveCursor(id, { to: 0 });
    await expect(ask(id, 'fedcba9876543210')).rejects.toMatchObject({ code: 'conflict' });
  });
});
