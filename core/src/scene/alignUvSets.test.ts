import { describe, expect, it } from 'vitest';
import { alignUvSets } from './alignUvSets.ts';
import { createDocument, createMesh, createNode, type SceneDocument } from './document.ts';
import { createMapUse, createMaterial } from './material.ts';

/** Meshes by the names of their sets, each on one part with the materials that are told by number. */
function scene(
  meshes: [sets: string[], materials: number[]][],
  asked: (string | null)[][],
  format: SceneDocument['format'] = 'usd',
): SceneDocument {
  const document = createDocument(format, '');
  document.materials = asked.map((names, i) => {
    const material = createMaterial(`Paint${i}`, 'metalRough');
    const channels = ['baseColor', 'roughness'] as const;
    names.forEach((uvSet, k) => {
      material.channels[channels[k]] = {
        value: 1,
        map: createMapUse('deck.png', channels[k], { uvSet }),
        source: { from: 'file', detail: '' },
      };
    });
    return material;
  });
  for (const [sets, materials] of meshes) {
    const mesh = createMesh('Deck', {
      points: new Float64Array(9),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    });
    for (const [i, name] of sets.entries())
      mesh.uvSets.push({ name, size: 2, domain: 'face', values: Float64Array.of(i, 0), index: null });
    document.meshes.push(mesh);
    document.nodes.push(createNode('Deck', 'mesh', -1, { mesh: document.meshes.length - 1, materials }));
  }
  return document;
}

function aligned(...what: Parameters<typeof scene>): string[] {
  return alignUvSets(scene(...what)).meshes.map(({ uvSets }) => uvSets.map(({ name }) => name).join(' '));
}

describe('UV sets', () => {
  it('stand at one place on all meshes of a material that names one', () => {
    expect(
      aligned(
        [
          [['st', 'tide'], [0]],
          [['tide', 'st'], [0]],
        ],
        [['st']],
      ),
    ).toEqual(['st tide', 'st tide']);
    expect(
      aligned(
        [
          [['st', 'tide'], [0]],
          [['tide'], [0]],
        ],
        [['tide']],
      ),
    ).toEqual(['tide st', 'tide']);
  });

  it('stay where materials agree already, or name none', () => {
    const unlike: Parameters<typeof scene>[0] = [
      [['st', 'tide'], [0]],
      [['tide', 'st'], [1]],
    ];
    expect(aligned(unlike, [['tide'], ['st']])).toEqual(['st tide', 'tide st']);
    expect(aligned(unlike, [[null], [null]])).toEqual(['st tide', 'tide st']);
    expect(
      aligned(
        [
          [['st', 'tide'], [0]],
          [['other'], [0]],
        ],
        [['tide']],
      ),
    ).toEqual(['st tide', 'other']);
  });

  it('leave the first one first where a material wants it', () => {
    expect(
      aligned(
        [
          [
            ['st', 'tide'],
            [0, 1],
          ],
          [['net', 'tide', 'st'], [1]],
          [['tide', 'rust', 'st'], [2]],
        ],
        [[null], ['tide'], ['rust']],
      ),
    ).toEqual(['st tide', 'net tide st', 'tide rust st']);
    // Now one name stands at two places.
    expect(
      aligned(
        [
          [
            ['st', 'tide'],
            [0, 1],
          ],
          [['tide', 'rust', 'st'], [1]],
        ],
        [[null], ['tide']],
      ),
    ).toEqual(['st tide', 'rust tide st']);
  });

  it('stand twice on a mesh where no order does', () => {
    // Each is the only one of a mesh, so that both would have to come first on the one that has both.
    const found = aligned(
      [
        [
          ['st', 'tide'],
          [0, 1],
        ],
        [['st'], [0]],
        [['tide'], [1]],
      ],
      [['st'], ['tide']],
    );
    expect(found).toEqual(['st tide', 'st', 'tide_0 tide']);
  });

  it('are the first one on meshes that have none of the name, save in USD', () => {
    const meshes: Parameters<typeof scene>[0] = [
      [['st', 'tide'], [0]],
      [['net'], [0]],
    ];
    expect(aligned(meshes, [['tide']], 'fbx')).toEqual(['tide st', 'net']);
    expect(aligned(meshes, [['tide']], 'usd')).toEqual(['st tide', 'net']);
    // The first one is the first one everywhere, so that the other has to be the second.
    expect(
      aligned(
        [
          [
            ['st', 'tide'],
            [0, 1],
          ],
          [['net'], [0, 1]],
        ],
        [['tide'], [null]],
        'fbx',
      ),
    ).toEqual(['st tide', 'net tide']);
  });

  it('are found by every name that stands for them', () => {
    // The first mesh has neither `net` nor `tide`, and shows its first set for both.
    const found = alignUvSets(
      scene(
        [
          [
            ['st', 'rust'],
            [0, 1],
          ],
          [
            ['wet', 'tide', 'net'],
            [0, 1, 2],
          ],
        ],
        [['net'], ['tide'], [null]],
        'fbx',
      ),
    ).meshes;
    const places = { net: -1, tide: -1 };
    for (const name of ['net', 'tide'] as const)
      places[name] = found[1].uvSets.findIndex((set) => set.name === name);
    expect(new Set([0, places.net, places.tide]).size).toBe(3);
    // Sets are told apart by their first number.
    for (const place of Object.values(places)) expect(found[0].uvSets[place].values[0]).toBe(0);
  });

  it('are put in order however many others have names of their own', () => {
    const others = Array.from({ length: 9 }, (_, i): [string[], number[]] => [[`own${i}`, 'more'], [i + 1]]);
    const names = others.map(([[name]]) => [name]);
    const found = aligned([[['st', 'tide'], [0]], ...others, [['tide', 'st'], [0]]], [['tide'], ...names]);
    expect([found[0], found[1], found[10]]).toEqual(['tide st', 'own0 more', 'tide st']);
  });
});
