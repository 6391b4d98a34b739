import { describe, expect, it } from 'vitest';
import { initialState } from '../../asset/asset.ts';
import { findDestination } from '../../destinations/destinations.ts';
import type { Destination } from '../../destinations/profile.ts';
import type { HandoffChoices } from '../../destinations/resolveChoices.ts';
import { decodeImage } from '../../images/decode.ts';
import { encodeHdr } from '../../images/hdr.ts';
import { openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { readModel } from '../../readModel.ts';
import { handOff } from '../handoff.ts';
import { previewHandoff } from '../previewHandoff.ts';
import { plannedSky } from './skies.ts';

/** A triangle under a dome, whose picture has a sun that no half float can say. */
const SCENE = `#usda 1.0
( metersPerUnit = 1 upAxis = "Y" )
def Mesh "sail" {
  point3f[] points = [(0, 0, 0), (1, 0, 0), (0, 1, 0)]
  int[] faceVertexCounts = [3]
  int[] faceVertexIndices = [0, 1, 2]
}
def DomeLight "sky" {
  float inputs:intensity = 2
  asset inputs:texture:file = @light/quay.hdr@
  token inputs:texture:format = "latlong"
  float3 xformOp:rotateXYZ = (0, 45, 0)
  uniform token[] xformOpOrder = ["xformOp:rotateXYZ"]
}
`;
const SKY = encodeHdr({
  width: 4,
  height: 2,
  components: 3,
  data: new Float32Array(24).fill(0.25).fill(1e6, 0, 3),
});
const STAGE = { camera: null, lamps: [], environment: { image: 'overcast', turn: 20, strength: 1.5 } };

async function handedOff(
  id: string,
  choices: HandoffChoices = {},
  files: Record<string, Uint8Array> = { 'light/quay.hdr': SKY },
) {
  const { document, source, images, read } = await openAsset(
    memorySource('quay', { ...files, 'sail.usda': new TextEncoder().encode(SCENE) }),
    'sail.usda',
  );
  const state = initialState(source);
  const destination = findDestination(id) as Destination;
  const readEnvironment = async (name: string) => {
    if (name !== 'pier.hdr') throw new Error(name);
    return SKY;
  };
  const { files: made, receipt } = await handOff({
    document,
    source,
    state,
    edits: [],
    findings: [],
    images,
    destination,
    choices,
    read,
    readEnvironment,
  });
  const plan = await previewHandoff({ source, state, images, destination, choices, read });
  const model = receipt.outputs
    .map(({ path }) => path)
    .find((path) => /\.(glb|fbx|usda|usdc|usdz)$/.test(path)) as string;
  const check = receipt.readBack.checks.find((one) => one.check === 'cameras and lights');
  return {
    files: made,
    receipt,
    plan,
    check,
    read: await readModel(model, memorySource('package', Object.fromEntries(made))),
  };
}

describe('what a dome shows', () => {
  it('goes along into USD, as an EXR whose brightest is the brightest that halves can say', async () => {
    const { files, check, read, receipt } = await handedOff('compositor-usd', { variant: 'usdc' });
    expect([receipt.verdict, check]).toEqual([
      'clean',
      { check: 'cameras and lights', ok: true, expected: '1', found: '1' },
    ]);
    expect(read.lights).toMatchObject([
      { kind: 'dome', intensity: 2, sky: { image: 'maps/environment_quay.exr', layout: 'latlong' } },
    ]);
    const { width, data } = await decodeImage(files.get('maps/environment_quay.exr') as Uint8Array, 'a.exr');
    expect([width, data[0], data[4]]).toEqual([4, 65504, expect.closeTo(0.25, 2)]);
  });

  it('lies within a package that is one file', async () => {
    const { files, check, read } = await handedOff('compositor-usd', { variant: 'usdz' });
    expect([...files.keys()].filter((path) => path.includes('environment'))).toEqual([]);
    expect([check?.ok, read.images.map(({ written }) => written)]).toEqual([
      true,
      ['maps/environment_quay.exr'],
    ]);
  });

  it.each([
    ['web-gltf', 'glTF has no area or environment lights; these are left out'],
    ['render-specgloss', 'FBX has no environment light; it is left out'],
  ])('lies beside what has no domes (%s), and that is told', async (id, loss) => {
    const { files, check, receipt, read } = await handedOff(id);
    expect([...files.keys()].filter((path) => path.includes('environment_quay.exr'))).toHaveLength(1);
    expect([receipt.losses.includes(loss), check?.ok, read.lights]).toEqual([true, true, []]);
  });

  it('is missed by name where it is not there', async () => {
    const { receipt, check, read } = await handedOff('compositor-usd', {}, {});
    expect(receipt.losses).toContain(
      'the picture quay.hdr of an environment is missing or broken; its light is even',
    );
    expect([check?.ok, read.lights[0].sky]).toEqual([true, undefined]);
  });
});

describe('the environment of the view', () => {
  it('goes along as a dome that is turned as it was, planned before', async () => {
    const { files, check, read, plan } = await handedOff('compositor-usd', { variant: 'usdc', stage: STAGE });
    const dome = read.nodes.find(({ name }) => name === 'environment');
    expect(read.lights[dome?.light ?? -1]).toMatchObject({
      kind: 'dome',
      intensity: 1.5,
      sky: { image: 'maps/environment_overcast.exr' },
    });
    expect(dome?.transform.rotation[1]).toBeCloseTo(70, 4);
    expect(check).toMatchObject({ ok: true, expected: '2' });
    const { width, height } = await decodeImage(
      files.get('maps/environment_overcast.exr') as Uint8Array,
      'a.exr',
    );
    expect([width, height]).toEqual([1024, 512]);
    expect(plan.files.map(({ path }) => path)).toContain('maps/environment_overcast.exr');
    expect(plan.changes).toContain(
      'the environment "Overcast" (turned by 20°, 1.5 times as strong) of the view goes along',
    );
    expect((await handedOff('web-gltf', { stage: STAGE })).plan.losses).toContain(
      'glTF has no area or environment lights; these are left out',
    );
  });

  it('may be a picture, which is named where it cannot be read', async () => {
    const environment = { image: 'pier.hdr', name: 'Pier at noon.hdr', turn: 0, strength: 1 };
    const { files, plan } = await handedOff('compositor-usd', {
      variant: 'usdc',
      stage: { ...STAGE, environment },
    });
    expect(files.has('maps/environment_Pier_at_noon.exr')).toBe(true);
    expect(plan.changes).toContain('the environment "Pier at noon.hdr" of the view goes along');
    expect(plan.files.map(({ path }) => path).filter((path) => path.includes('environment'))).toEqual([
      'maps/environment_Pier_at_noon.exr',
    ]);
    expect(
      ['pier.exr', 'pier.JPG', 'pier.tga', 'pier.hdr'].map((image) =>
        plannedSky({ image, turn: 0, strength: 1 }),
      ),
    ).toEqual([
      'environment_pier.exr',
      'environment_pier.jpg',
      'environment_pier.png',
      'environment_pier.exr',
    ]);
    await expect(
      handedOff('compositor-usd', {
        stage: { ...STAGE, environment: { ...environment, image: 'gone.hdr' } },
      }),
    ).rejects.toThrow('gone.hdr');
  });
});
