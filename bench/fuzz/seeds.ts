import { writeModel } from '@kinkajou/core/formats/writeModel';
import { encodeImage } from '@kinkajou/core/images/encode';
import type { PixelBuffer } from '@kinkajou/core/images/pixelBuffer';
import { previewGlb } from '@kinkajou/core/preview/previewGlb';
import type { SceneDocument } from '@kinkajou/core/scene/document';
import { createMapUse, createMaterial } from '@kinkajou/core/scene/material';
import { riggedCrane } from '@kinkajou/core/test/rigged';
import { pilotBoat } from '@kinkajou/demo/pilotBoat';
import { signalFlags } from '@kinkajou/demo/signalFlags';
import { stormLantern } from '@kinkajou/demo/stormLantern';

/** A whole file that is broken in many ways, with what lies beside it. */
export interface Seed {
  kind: 'image' | 'model';
  path: string;
  bytes: Uint8Array;
  beside: Record<string, Uint8Array>;
}

/** Files of every reader and decoder: of our own writers, and of the harbour's. */
export async function makeSeeds(): Promise<Seed[]> {
  const image = (path: string, bytes: Uint8Array): Seed => ({ kind: 'image', path, bytes, beside: {} });
  const model = (path: string, bytes: Uint8Array, beside: Record<string, Uint8Array> = {}): Seed => ({
    kind: 'model',
    path,
    bytes,
    beside,
  });
  const seeds: Seed[] = [];
  for (const [format, extension] of [
    ['png', 'png'],
    ['jpeg', 'jpg'],
    ['tiff', 'tif'],
    ['tga', 'tga'],
    ['webp', 'webp'],
    ['exr', 'exr'],
    ['hdr', 'hdr'],
  ] as const)
    seeds.push(
      image(
        `picture.${extension}`,
        await encodeImage(picture(extension === 'exr' || extension === 'hdr'), format),
      ),
    );
  seeds.push(
    image('picture.bmp', bitmap()),
    image('picture.dds', surface()),
    image('picture.psd', layered()),
  );
  const crane = dressed();
  const picturePng = { 'tex/plank.png': await encodeImage(picture(false), 'png') };
  seeds.push(
    model('crane.fbx', writeModel(crane, 'crane.fbx').files.get('crane.fbx') as Uint8Array, picturePng),
  );
  seeds.push(
    model(
      'text.fbx',
      writeModel(crane, 'text.fbx', { form: 'text' }).files.get('text.fbx') as Uint8Array,
      picturePng,
    ),
  );
  for (const extension of ['usda', 'usdc', 'usdz'] as const) {
    const path = `crane.${extension}`;
    seeds.push(model(path, writeModel(crane, path).files.get(path) as Uint8Array, picturePng));
  }
  const { files } = writeModel(crane, 'crane.obj');
  const [obj, mtl] = [files.get('crane.obj') as Uint8Array, files.get('crane.mtl') as Uint8Array];
  seeds.push(model('crane.obj', obj, { ...picturePng, 'crane.mtl': mtl }));
  seeds.push(model('crane.glb', await previewGlb(crane), picturePng));
  for (const make of [pilotBoat, signalFlags, stormLantern]) {
    const parcel = await make();
    const own = Object.entries(parcel.files).filter(([path]) =>
      /\.(fbx|obj|usd[acz]?|glb|gltf|mtl)$/.test(path),
    );
    const [first] = own.filter(([path, bytes]) => !path.endsWith('.mtl') && bytes.length < 3e6);
    if (first)
      seeds.push(model(first[0], first[1], Object.fromEntries(own.filter(([path]) => path !== first[0]))));
  }
  return seeds;
}

function dressed(): SceneDocument {
  const crane = riggedCrane();
  const plank = createMaterial('Plank', 'metalRough');
  plank.channels.baseColor = {
    value: [1, 1, 1],
    map: createMapUse('plank', 'baseColor'),
    source: { from: 'file', detail: '' },
  };
  plank.channels.roughness = { value: 0.5, map: null, source: { from: 'file', detail: '' } };
  crane.materials.push(plank);
  crane.nodes[4].materials = [1];
  crane.images.push({ key: 'plank', written: 'tex/plank.png', relative: 'tex/plank.png', embedded: null });
  return crane;
}

function picture(floats: boolean): PixelBuffer {
  const [width, height] = [37, 29];
  const at = (i: number) => ((i * 37) % 200) + ((i * 7) % 13);
  const length = width * height * 3;
  return {
    width,
    height,
    components: 3,
    data: floats
      ? Float32Array.from({ length }, (_, i) => at(i) / 100)
      : Uint8Array.from({ length }, (_, i) => at(i)),
  };
}

function bitmap(): Uint8Array {
  const { width, height, data } = picture(false);
  const row = Math.ceil((width * 3) / 4) * 4;
  const out = new Uint8Array(54 + row * height);
  const view = new DataView(out.buffer);
  out.set([0x42, 0x4d]);
  for (const [offset, value] of [
    [2, out.length],
    [10, 54],
    [14, 40],
    [18, width],
    [22, height],
  ])
    view.setUint32(offset, value, true);
  view.setUint16(26, 1, true);
  view.setUint16(28, 24, true);
  for (let y = 0; y < height; y += 1)
    out.set(data.subarray(y * width * 3, (y + 1) * width * 3) as Uint8Array, 54 + y * row);
  return out;
}

function surface(): Uint8Array {
  const out = new Uint8Array(128 + 16 * 64);
  const view = new DataView(out.buffer);
  [0x20534444, 124, 0x81007, 32, 32, 1024].forEach((value, i) => view.setUint32(i * 4, value, true));
  [32, 4, 0x35545844].forEach((value, i) => view.setUint32(76 + i * 4, value, true));
  for (let i = 128; i < out.length; i += 1) out[i] = (i * 31) & 255;
  return out;
}

/** A flattened picture in runs, behind empty sections. */
function layered(): Uint8Array {
  const [width, height, channels] = [16, 12, 3];
  const rows = height * channels;
  const out = new Uint8Array(26 + 12 + 2 + rows * 2 + rows * (width + 1));
  const view = new DataView(out.buffer);
  out.set(new TextEncoder().encode('8BPS'));
  view.setUint16(4, 1);
  view.setUint16(12, channels);
  view.setUint32(14, height);
  view.setUint32(18, width);
  view.setUint16(22, 8);
  view.setUint16(24, 3);
  view.setUint16(38, 1);
  for (let row = 0; row < rows; row += 1) {
    view.setUint16(40 + row * 2, width + 1);
    const start = 40 + rows * 2 + row * (width + 1);
    out[start] = width - 1;
    for (let x = 0; x < width; x += 1) out[start + 1 + x] = (row * 7 + x * 11) & 255;
  }
  return out;
}
