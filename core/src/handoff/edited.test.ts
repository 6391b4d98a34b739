import type { Document, Material } from '@gltf-transform/core';
import {
  KHRMaterialsIOR,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
  type Volume,
} from '@gltf-transform/extensions';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import type { Edit } from '../asset/asset.ts';
import { DESTINATIONS, findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { replay } from '../edits/log.ts';
import { writeFbx } from '../formats/fbx/writeFbx.ts';
import { gltfIo } from '../formats/gltf/io.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { createDocument, createMesh, createNode } from '../scene/document.ts';
import { toYUpMetres } from '../scene/matrix.ts';
import { type Bounds, measureBoundsIn } from '../scene/measure.ts';
import { TAKE_PARTS } from '../scene/take.ts';
import { BOX_QUADS, boxPoints } from '../test/boxes.ts';
import { quadGlb, textureOf } from '../test/quad.ts';
import { boundsOff, threeSees, weSee } from '../test/witness.ts';
import { handOff } from './handoff.ts';
import { prepare } from './prepare/prepare.ts';

const origin = { from: 'hand', detail: 'at the quay' } as const;
type Dress = (material: Material, gltf: Document) => Promise<void>;

/** A sail that was edited and handed off; and what another asset's reading says of it. */
async function handedOff(id: string, from: Dress | Record<string, Uint8Array>, edits: readonly unknown[]) {
  const files = typeof from === 'function' ? { 'sail.glb': await quadGlb('Sail', from) } : from;
  const asset = await openAsset(memorySource('sail', files), Object.keys(files)[0]);
  const log = edits.map((edit) => ({ ...(edit as object), origin }) as Edit);
  const { state } = replay(asset.source, log, asset.images);
  const destination = findDestination(id) as Destination;
  const { files: written, receipt } = await handOff({
    ...asset,
    state,
    edits: log,
    findings: [],
    threads: 1,
    destination,
  });
  const model = [...written.keys()].find((path) => /\.(glb|fbx|usd[acz]|obj)$/.test(path)) as string;
  const failed = receipt.readBack.checks.filter(({ ok }) => !ok).map(({ found }) => found);
  const read = await openAsset(memorySource('package', Object.fromEntries(written)), model);
  const { document } = read;
  const { state: prepared } = await prepare({ ...asset, state }, destination);
  return {
    ...{ files: written, model, failed, losses: receipt.losses, document, material: document.materials[0] },
    ...{ state, prepared },
  };
}
const plain: Dress = async () => {};
const encode = (text: string) => new TextEncoder().encode(text);

describe('what edits leave', () => {
  it('is what was chosen of size, parts and materials, whatever is converted on the way', async () => {
    const dress: Dress = async (material, gltf) => {
      const codes = Array.from({ length: 16 }, (_, i) => [i * 16, 90, 200 - i * 9]).flat();
      material
        .setBaseColorTexture(await textureOf(gltf, 'paint', 4, codes))
        .setMetallicRoughnessTexture(await textureOf(gltf, 'metal', 4, codes))
        .setBaseColorFactor([0.5, 0.6, 0.7, 1]);
      gltf.createMaterial('Spare');
    };
    const choice = { parts: TAKE_PARTS, up: null, metresPerUnit: null, rotation: [0, 0, 0], scale: 3 };
    const edits = [
      { kind: 'setIntake', choice },
      { kind: 'editParts', change: { do: 'rename', names: [{ part: 'Sail', name: 'Jib' }] } },
      { kind: 'mergeMaterials', materials: ['Sail'], into: 'Spare' },
      { kind: 'numberMaterials', numbers: [{ material: 'Spare', number: 4 }] },
    ];
    // One wants everything a metre long, one writes millimetres and has no word for them.
    const lengths: Record<string, number> = { 'compositor-classic': 1, 'building-parts': 3000 };
    for (const { id } of DESTINATIONS) {
      const { document, state, prepared } = await handedOff(id, dress, edits);
      const part = document.nodes.find(({ mesh }) => mesh >= 0);
      expect([id, part?.name]).toEqual([id, expect.stringContaining('Jib')]);
      const { max, min } = measureBoundsIn(
        document,
        toYUpMetres(document.axes, document.metresPerUnit),
      ) as Bounds;
      expect([id, max[0] - min[0]]).toEqual([id, expect.closeTo(lengths[id] ?? 3, 3)]);
      const { materials: _, images: __, ...rest } = state;
      expect(prepared).toMatchObject(rest);
      expect(document.materials.map(({ name }) => name)).toEqual([expect.stringMatching(/Spare/)]);
    }
  });

  it('has its texels taken one by one where they were, in images that were made on the way too', async () => {
    const dress: Dress = async (material, gltf) => {
      const codes = Array.from({ length: 16 }, (_, i) => [i * 16, 90, 200 - i * 9]).flat();
      material
        .setBaseColorTexture(await textureOf(gltf, 'flags', 4, codes))
        .setBaseColorFactor([0.5, 0.6, 0.7, 1]);
      material.getBaseColorTextureInfo()?.setMagFilter(9728).setMinFilter(9728);
    };
    for (const id of ['compositor-classic', 'render-specgloss', 'garment-figure'])
      expect([
        id,
        (await handedOff(id, dress, [])).prepared.materials[0].channels.baseColor?.map?.filter,
      ]).toEqual([id, 'nearest']);
  });

  it('has no opacity where it is opaque, though a value stands there', async () => {
    const half = { kind: 'setValues', slots: [{ material: 'Sail', channel: 'opacity' }], value: 0.5 };
    for (const id of ['modelling', 'compositor-usd', 'render-specgloss']) {
      const { failed, material } = await handedOff(id, plain, [half]);
      expect([id, failed, material.alphaMode]).toEqual([id, [], 'opaque']);
      expect(material.channels.opacity?.value ?? 1).toBe(1);
    }
    const blended = { kind: 'setAlpha', materials: ['Sail'], change: { alphaMode: 'blend' } };
    const { material } = await handedOff('modelling', plain, [half, blended]);
    expect(material.channels.opacity?.value).toBe(0.5);
  });

  it('has no alpha in its image that nobody asked for', async () => {
    const codes = Array.from({ length: 16 }, () => [200, 100, 50, 90]).flat();
    const cloth: Dress = async (material, gltf) => {
      const image = await sharp(Buffer.from(codes), { raw: { width: 4, height: 4, channels: 4 } })
        .png()
        .toBuffer();
      const texture = gltf.createTexture('cloth').setImage(new Uint8Array(image)).setMimeType('image/png');
      material.setBaseColorTexture(texture);
    };
    const change = { alphaMode: 'blend', opacity: 0.4 };
    const { failed, files, model } = await handedOff('web-gltf', cloth, [
      { kind: 'setAlpha', materials: ['Sail'], change },
    ]);
    expect(failed).toEqual([]);
    const gltf = await (await gltfIo()).readBinary(files.get(model) as Uint8Array);
    const [texture] = gltf.getRoot().listTextures();
    expect((await sharp(texture.getImage() as Uint8Array).metadata()).channels).toBe(3);
    // While it is opaque nobody reads the alpha, and the image stays what it was.
    const untouched = await handedOff('web-gltf', cloth, []);
    const before = await (await gltfIo()).readBinary(untouched.files.get(untouched.model) as Uint8Array);
    expect(
      (await sharp(before.getRoot().listTextures()[0].getImage() as Uint8Array).metadata()).channels,
    ).toBe(4);
  });

  it('has the occlusion of its map, whatever value stands beside it', async () => {
    const dress: Dress = async (material, gltf) => {
      material.setOcclusionTexture(
        await textureOf(
          gltf,
          'ao',
          2,
          [...Array(12).keys()].map((k) => 40 + k * 15),
        ),
      );
    };
    const edit = { kind: 'setValues', slots: [{ material: 'Sail', channel: 'occlusion' }], value: 0.5 };
    for (const id of ['modelling', 'web-gltf', 'compositor-usd'])
      expect([id, (await handedOff(id, dress, [edit])).failed]).toEqual([id, []]);
  });

  it('is glass as thick in metres as it was in the unit that the model is taken in', async () => {
    const dress: Dress = async (material, gltf) => {
      const volume = gltf.createExtension(KHRMaterialsVolume).createVolume().setThicknessFactor(3);
      const glass = gltf.createExtension(KHRMaterialsTransmission).createTransmission();
      material
        .setExtension('KHR_materials_transmission', glass.setTransmissionFactor(1))
        .setExtension('KHR_materials_volume', volume);
    };
    const choice = { parts: TAKE_PARTS, up: null, metresPerUnit: 0.01, rotation: [0, 0, 0], scale: 1 };
    for (const [edits, thick] of [[[], 3] as const, [[{ kind: 'setIntake', choice }], 0.03] as const]) {
      const { files, model, failed } = await handedOff('web-gltf', dress, edits);
      expect(failed).toEqual([]);
      const gltf = await (await gltfIo()).readBinary(files.get(model) as Uint8Array);
      const [material] = gltf.getRoot().listMaterials();
      const volume = material.getExtension<Volume>('KHR_materials_volume');
      expect(volume?.getThicknessFactor()).toBeCloseTo(thick, 6);
    }
  });

  it('reflects as its index of refraction says, in spec/gloss too', async () => {
    const dress: Dress = async (material, gltf) => {
      const ior = gltf.createExtension(KHRMaterialsIOR).createIOR().setIOR(2);
      material.setExtension('KHR_materials_ior', ior).setRoughnessFactor(0.3);
    };
    const { failed, material } = await handedOff('render-specgloss', dress, []);
    expect(failed).toEqual([]);
    // ((2 - 1) / (2 + 1)) squared.
    expect(material.channels.specularColor?.value).toEqual(Array(3).fill(expect.closeTo(1 / 9, 6)));
  });

  it('has no coat roughness without a coat, nor glossiness beside a roughness, and tells highlights', async () => {
    const dress: Dress = async (material, gltf) => {
      material.setMetallicRoughnessTexture(await textureOf(gltf, 'rough', 2, Array(12).fill(120)));
    };
    const assign = (channel: string) => ({
      ...{
        material: 'Sail',
        channel,
        image: 'embedded/rough.png',
        component: channel === 'specularColor' ? 'rgb' : 'r',
      },
      ...{ invert: false, space: 'data', normalY: 'Y+' },
    });
    const edits = [
      { kind: 'setValues', slots: [{ material: 'Sail', channel: 'coatRoughness' }], value: 0.3 },
      { kind: 'assignSlots', assignments: [assign('glossiness'), assign('specularColor')] },
    ];
    for (const id of ['web-gltf', 'engine-gloss-alpha', 'compositor-classic', 'modelling', 'render-film']) {
      const { failed, losses } = await handedOff(id, dress, edits);
      expect([id, failed]).toEqual([id, []]);
      // glTF has a place for it.
      expect(/map of specular colour has no place/.test(losses.join())).toBe(id !== 'web-gltf');
    }
  });

  it('reflects as strongly in classic words as its weight says', async () => {
    const edit = { kind: 'setValues', slots: [{ material: 'Sail', channel: 'specular' }], value: 0.5 };
    const drop = { kind: 'clearSlots', slots: [{ material: 'Sail', channel: 'metalness' }] };
    const { failed, material } = await handedOff('engine-gloss-alpha', plain, [edit, drop]);
    expect(failed).toEqual([]);
    expect(material.extras['classic highlight'].split(' ').map(Number)).toEqual(
      [0.02, 0.02, 0.02].map((component) => expect.closeTo(component, 6)),
    );
  });

  it('is valid where cameras alone are taken, and refused where nothing is', async () => {
    const choice = { parts: ['cameras'], up: null, metresPerUnit: null, rotation: [0, 0, 0], scale: 1 };
    const watched: Dress = async (_, gltf) => {
      const camera = gltf.createCamera('lens').setType('perspective').setYFov(0.7).setZNear(0.1);
      gltf.createScene().addChild(gltf.createNode('Watch').setCamera(camera));
    };
    expect((await handedOff('web-gltf', watched, [{ kind: 'setIntake', choice }])).failed).toEqual([]);
    const left = /nothing of the model is left/;
    await expect(handedOff('web-gltf', plain, [{ kind: 'setIntake', choice }])).rejects.toThrow(left);
    const drop = { kind: 'editParts', change: { do: 'drop', parts: ['Sail'] } };
    await expect(handedOff('modelling', plain, [drop])).rejects.toThrow(left);
  });

  it('has sides that USD cannot say told under the name that its material goes by', async () => {
    const files = {
      'sail.obj': encode(
        'mtllib sail.mtl\no Sail\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nusemtl Front\nf 1 2 3\nusemtl Back\nf 1 3 4\n',
      ),
      'sail.mtl': encode('newmtl Front\nKd 1 0 0\nPr 0.5\nnewmtl Back\nKd 0 1 0\nPr 0.5\n'),
    };
    const { failed, losses } = await handedOff('compositor-usd', files, [
      { kind: 'setAlpha', materials: ['Back'], change: { doubleSided: true } },
      { kind: 'renameMaterials', names: [{ material: 'Front', name: 'a/b 1' }] },
    ]);
    expect(failed).toEqual([]);
    expect(losses.join()).toContain('sides');
  });
});

it('parts that share a mesh and have other pivots are where they are for readers that move what is shared', async () => {
  const document = createDocument('fbx', 'made');
  document.metresPerUnit = 1;
  const points = Float64Array.from(boxPoints(-0.5, 0.5));
  const faces = { faceCounts: new Uint32Array(6).fill(4), faceCorners: Uint32Array.from(BOX_QUADS.flat()) };
  document.meshes = [createMesh('box', { points, ...faces })];
  document.nodes = ['Near', 'Far', 'Twin'].map((name) => createNode(name, 'mesh', -1, { mesh: 0 }));
  document.nodes[1].transform.translation = [5, 0, 0];
  document.nodes[1].transform.geometricTranslation = [0, 3, 0];
  document.nodes[2].transform.translation = [0, 0, 4];
  const seen = await threeSees('fbx', writeFbx(document).bytes);
  expect(boundsOff(seen, weSee(document))).toBeLessThan(1e-6);
});
