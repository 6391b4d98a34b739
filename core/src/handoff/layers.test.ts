import { Document, NodeIO } from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  type Clearcoat,
  KHRMaterialsClearcoat,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  type Sheen,
} from '@gltf-transform/extensions';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { initialState } from '../asset/asset.ts';
import { DESTINATIONS, findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { gltfIo } from '../formats/gltf/io.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { type HandoffResult, handOff } from './handoff.ts';

/** Four by four pixels that get brighter in red and darker in blue. */
async function ramp(r: number, g: number, b: number): Promise<Uint8Array> {
  const pixels = Array.from({ length: 16 }, (_, i) => [r + i, g, b - i]).flat();
  return new Uint8Array(
    await sharp(Buffer.from(pixels), { raw: { width: 4, height: 4, channels: 3 } })
      .png()
      .toBuffer(),
  );
}

type FenderLayer = 'coat' | 'sheen' | 'specular' | 'clear' | 'net';

/** A fender of one square with a coat, a sheen or a weakened reflection, or clear by the colours of its points. */
async function fender(layers: ReadonlySet<FenderLayer>): Promise<Uint8Array> {
  const gltf = new Document();
  const buffer = gltf.createBuffer();
  const texture = async (name: string, r: number, g: number, b: number) =>
    gltf
      .createTexture(name)
      .setImage(await ramp(r, g, b))
      .setMimeType('image/png');
  const material = gltf
    .createMaterial('Fender')
    .setRoughnessFactor(0.6)
    .setMetallicFactor(0)
    .setBaseColorFactor([0.4, 0.3, 0.2, 1]);
  if (layers.has('coat')) {
    const coat = gltf
      .createExtension(KHRMaterialsClearcoat)
      .createClearcoat()
      .setClearcoatFactor(0.8)
      .setClearcoatRoughnessFactor(0.5);
    coat
      .setClearcoatTexture(await texture('coat', 100, 20, 30))
      .setClearcoatRoughnessTexture(await texture('coat_rough', 10, 120, 30));
    material.setExtension('KHR_materials_clearcoat', coat);
  }
  if (layers.has('sheen')) {
    const sheen = gltf
      .createExtension(KHRMaterialsSheen)
      .createSheen()
      .setSheenColorFactor([0.2, 0.3, 0.4])
      .setSheenRoughnessFactor(0.7);
    material.setExtension(
      'KHR_materials_sheen',
      sheen.setSheenColorTexture(await texture('sheen', 200, 120, 30)),
    );
  }
  if (layers.has('specular'))
    material.setExtension(
      'KHR_materials_specular',
      gltf.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(0.7),
    );
  const of = (
    type: 'VEC4' | 'VEC3' | 'VEC2' | 'SCALAR',
    array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>,
  ) => gltf.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = gltf
    .createPrimitive()
    .setAttribute('POSITION', of('VEC3', Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0])))
    .setAttribute('TEXCOORD_0', of('VEC2', Float32Array.from([0, 1, 1, 1, 1, 0, 0, 0])))
    .setIndices(of('SCALAR', Uint16Array.from([0, 1, 2, 0, 2, 3])))
    .setMaterial(material);
  if (layers.has('clear')) {
    material.setAlphaMode('BLEND');
    const clear = [1, 0.5, 0.25, 0.75].flatMap((alpha) => [1, alpha, 0, alpha]);
    primitive.setAttribute('COLOR_0', of('VEC4', Float32Array.from(clear)));
  }
  const mesh = gltf.createMesh('Fender').addPrimitive(primitive);
  if (layers.has('net')) {
    const points = Float32Array.from([0, 0, 1, 1, 0, 1, 1, 2, 1]);
    const net = gltf.createPrimitive().setAttribute('POSITION', of('VEC3', points));
    mesh.addPrimitive(net.setMaterial(gltf.createMaterial('Net').setDoubleSided(true)));
  }
  gltf.createScene().addChild(gltf.createNode('Fender').setMesh(mesh));
  return (await gltfIo()).writeBinary(gltf);
}

async function send(layers: FenderLayer[], id: string, variant?: string): Promise<HandoffResult> {
  const { document, source, images, read } = await openAsset(
    memorySource('fender', { 'fender.glb': await fender(new Set(layers)) }),
    'fender.glb',
  );
  const destination = findDestination(id) as Destination;
  return handOff({
    document,
    source,
    state: initialState(source),
    edits: [],
    findings: [],
    images,
    destination,
    choices: { variant },
    read,
  });
}

describe('layers of a surface', () => {
  it.each(DESTINATIONS.map(({ id }) => id))(
    'go to %s, or are told as losses of just their channels',
    async (id) => {
      const { receipt } = await send(['coat', 'sheen', 'specular', 'clear'], id);
      expect(receipt.differences.filter(({ exempt }) => exempt === null)).toEqual([]);
      // What is lost is never clean, however well it was told.
      expect(receipt.verdict).toBe(receipt.losses.length > 0 ? 'with remarks' : 'clean');
      for (const { channel, exempt } of receipt.differences)
        if (exempt && channel)
          expect(['coat', 'coatRoughness', 'sheenColor', 'specular', 'opacity']).toContain(channel);
      const said = receipt.losses.join('\n');
      expect(/it blends or is cut out/.test(said)).toBe(['compositor-usd', 'render-film'].includes(id));
      expect(/no alpha in the colours of points/.test(said)).toBe(id === 'building-parts');
      if (id !== 'web-gltf') expect(receipt.losses.join('\n')).toMatch(/the map of coat has no place/);
    },
  );

  it('show both sides in USD where another of their part does, which the receipt tells', async () => {
    const { receipt } = await send(['net'], 'compositor-usd');
    expect(receipt.verdict).toBe('with remarks');
    const sides = receipt.differences.filter(({ material }) => material === 'Fender');
    expect(sides.map(({ code, exempt }) => `${code} ${exempt}`).sort()).toEqual([
      'sheet.contradicts usd.sides',
      'sides usd.sides',
    ]);
  });

  it('are written into glTF as its extensions say, as another reader finds', async () => {
    const { files, receipt } = await send(['coat', 'sheen', 'specular'], 'web-gltf', 'glb');
    expect(receipt.losses).toEqual([]);
    const bytes = [...files].find(([path]) => path.endsWith('.glb'))?.[1] as Uint8Array;
    const [material] = (await new NodeIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes))
      .getRoot()
      .listMaterials();
    const coat = material.getExtension<Clearcoat>('KHR_materials_clearcoat');
    expect([coat?.getClearcoatFactor(), coat?.getClearcoatRoughnessFactor()]).toEqual([0.8, 0.5]);
    const pixel = async (image: Uint8Array | null | undefined, component: 'red' | 'green') =>
      (
        await sharp(image as Uint8Array)
          .extractChannel(component)
          .raw()
          .toBuffer()
      )[5];
    // The sixth pixel: red 105 of the coat, green 120 of its roughness.
    expect(await pixel(coat?.getClearcoatTexture()?.getImage(), 'red')).toBe(105);
    expect(
      await pixel(
        await sharp(coat?.getClearcoatRoughnessTexture()?.getImage() as Uint8Array)
          .toColourspace('srgb')
          .png()
          .toBuffer(),
        'green',
      ),
    ).toBe(120);
    const sheen = material.getExtension<Sheen>('KHR_materials_sheen');
    expect([sheen?.getSheenColorFactor(), sheen?.getSheenRoughnessFactor()]).toEqual([[0.2, 0.3, 0.4], 0.7]);
    expect(await pixel(sheen?.getSheenColorTexture()?.getImage(), 'red')).toBe(205);
  });

  it('weaken what spec/gloss reflects by their own weight', async () => {
    const { files, receipt } = await send(['specular'], 'render-specgloss', 'fbx');
    expect(receipt.verdict).toBe('clean');
    const model = [...files.keys()].find((path) => path.endsWith('.fbx')) as string;
    const [{ channels }] = (await readModel(model, memorySource('package', Object.fromEntries(files))))
      .materials;
    // 0.7 of the 4% that dielectrics reflect.
    for (const component of (channels.specularColor?.value ?? []) as number[])
      expect(component).toBeCloseTo(0.028, 6);
    expect(channels.specularColor?.value).toHaveLength(3);
  });

  it('give way to the gloss where that goes out as the strength of the highlight', async () => {
    const { files } = await send(['specular'], 'compositor-classic', 'obj');
    const text = new TextDecoder().decode([...files].find(([path]) => path.endsWith('.mtl'))?.[1]);
    // 1 - 0.6, not the 0.7 of the source.
    expect(text).toMatch(/^Ks 0\.4 0\.4 0\.4$/m);
  });
});
