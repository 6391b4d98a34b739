import { describe, expect, it } from 'vitest';
import { writeModel } from '../formats/writeModel.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { BOX_QUADS, boxPoints } from '../test/boxes.ts';
import { createDocument, createMesh, createNode, type SceneDocument, Y_UP, Z_UP } from './document.ts';
import { multiply, toYUpMetres, transformPoint, worldMatrices } from './matrix.ts';
import { reorient } from './reorient.ts';
import { parseStage, type StageChoice, withStage } from './stage.ts';

const STAGE: StageChoice = {
  camera: { position: [3, 2, 4], target: [0, 2, 0], focal: 50 },
  lamps: [{ name: 'key', position: [0, 9, 0], target: [0, 0, 0], colour: [1, 0.5, 0.25], strength: 2 }],
  environment: { image: 'studio', turn: 30, strength: 0.5 },
};

function crate(axes = Y_UP, metresPerUnit = 1): SceneDocument {
  const document = createDocument('fbx', 'binary');
  document.axes = axes;
  document.metresPerUnit = metresPerUnit;
  document.meshes.push(
    createMesh('crate', {
      points: Float64Array.from(boxPoints(0, 1)),
      faceCounts: new Uint32Array(6).fill(4),
      faceCorners: Uint32Array.from(BOX_QUADS.flat()),
    }),
  );
  document.nodes.push(createNode('crate', 'mesh', -1, { mesh: 0 }));
  return document;
}

/** Where a node stands and looks, in metres, Y up. */
function standing(document: SceneDocument, name: string): { place: number[]; ahead: number[]; up: number[] } {
  const index = document.nodes.findIndex((node) => node.name === name);
  const world = multiply(
    toYUpMetres(document.axes, document.metresPerUnit),
    worldMatrices(document.nodes)[index],
  );
  const place = transformPoint(world, 0, 0, 0);
  const towards = (x: number, y: number, z: number) => {
    const off = transformPoint(world, x, y, z).map((value, k) => value - place[k]);
    return off.map((value) => Number((value / Math.hypot(...off)).toFixed(5)) + 0);
  };
  return {
    place: place.map((value) => Number(value.toFixed(4)) + 0),
    ahead: towards(0, 0, -1),
    up: towards(0, 1, 0),
  };
}

describe('a stage', () => {
  it.each([
    ['Y up in metres', Y_UP, 1],
    ['Z up in centimetres', Z_UP, 0.01],
  ] as const)('stands where the view had it, in a document %s', (_, axes, metresPerUnit) => {
    const staged = withStage(crate(axes, metresPerUnit), STAGE);
    // From (3, 2, 4) to (0, 2, 0) is 3, 0, 4 of five metres.
    expect(standing(staged, 'view')).toEqual({ place: [3, 2, 4], ahead: [-0.6, 0, -0.8], up: [0, 1, 0] });
    // Seen from straight above, what is far lies up.
    expect(standing(staged, 'key')).toEqual({ place: [0, 9, 0], ahead: [0, -1, 0], up: [0, 0, -1] });
    expect(staged.cameras).toEqual([
      {
        name: 'view',
        projection: 'perspective',
        focalLength: 50,
        aperture: [36, 24],
        width: 5 / metresPerUnit,
        near: 0.025 / metresPerUnit,
        far: 100 / metresPerUnit,
      },
    ]);
    expect(staged.lights).toMatchObject([
      { name: 'key', kind: 'directional', colour: [1, 0.5, 0.25], intensity: 2, castsShadow: true },
      {
        name: 'environment',
        kind: 'dome',
        colour: [1, 1, 1],
        intensity: 0.5,
        sky: { image: 'stage:environment', layout: 'latlong' },
      },
    ]);
    expect(withStage(crate(), { camera: null, lamps: [], environment: null })).toEqual(crate());
  });

  it.each([
    ['Y up', Y_UP],
    ['Z up', Z_UP],
    ['left-handed', { ...Y_UP, right: { axis: 0, sign: -1 } }],
  ] as const)(
    'stays where it is in other axes, with its environment turned as the view has it, %s',
    (_, axes) => {
      const document = reorient(withStage(crate(axes, 0.01), STAGE), Z_UP, 0.01);
      expect(standing(document, 'view')).toEqual({ place: [3, 2, 4], ahead: [-0.6, 0, -0.8], up: [0, 1, 0] });
      expect(standing(document, 'key')).toMatchObject({ place: [0, 9, 0], ahead: [0, -1, 0] });
      const index = document.nodes.findIndex(({ name }) => name === 'environment');
      const world = multiply(toYUpMetres(Z_UP, 1), worldMatrices(document.nodes)[index]);
      const seen = (x: number, y: number, z: number) =>
        transformPoint(world, x, y, z).map((value) => Number(value.toFixed(5)) + 0);
      const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)].map((value) => Number(value.toFixed(5)));
      // The middle of the picture is +Z of a dome, and +X of the view before it is turned; a quarter to its
      // right is -X, and +Z.
      expect([seen(0, 0, 1), seen(-1, 0, 0), seen(0, 1, 0)]).toEqual([
        [c, 0, -s],
        [s, 0, c],
        [0, 1, 0],
      ]);
    },
  );

  it.each(['fbx', 'usda', 'usdc'])('comes back from %s as it went', async (extension) => {
    const { files } = writeModel(withStage(crate(Z_UP, 0.01), STAGE), `crate.${extension}`);
    const read = await readModel(`crate.${extension}`, memorySource('crate', Object.fromEntries(files)));
    expect(standing(read, 'view')).toEqual({ place: [3, 2, 4], ahead: [-0.6, 0, -0.8], up: [0, 1, 0] });
    expect(standing(read, 'key')).toMatchObject({ place: [0, 9, 0], ahead: [0, -1, 0] });
    const [{ focalLength, aperture }] = read.cameras;
    expect(aperture[1] / focalLength).toBeCloseTo(24 / 50, 5);
    expect(read.lights[0]).toMatchObject({ kind: 'directional', colour: [1, 0.5, 0.25] });
  });

  it('of a file names the field that is wrong, and has what is usual where nothing is said', () => {
    expect(parseStage({ camera: { position: [1, 2, 3], target: [0, 0, 0] } })).toEqual({
      camera: { position: [1, 2, 3], target: [0, 0, 0], focal: 42 },
      lamps: [],
      environment: null,
    });
    expect(parseStage({ environment: { image: 'quay.hdr' } }).environment).toEqual({
      image: 'quay.hdr',
      turn: 0,
      strength: 1,
    });
    expect(() => parseStage({ camera: { position: [1, 2], target: [0, 0, 0] } }, 's.json')).toThrow(
      /camera.position.*3 items/,
    );
    expect(() => parseStage({ lamps: [{ name: 'key' }] })).toThrow(/lamps\[0\].position/);
  });
});
