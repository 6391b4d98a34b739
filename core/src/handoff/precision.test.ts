import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { initialState } from '../asset/asset.ts';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { encodeImage } from '../images/encode.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { halfToNumber, numberToHalf } from '../scene/half.ts';
import { decodeOutside, oiiotool, put } from '../test/tools.ts';
import { handOff } from './handoff.ts';
import { previewHandoff } from './previewHandoff.ts';

const SIDE = 8;
const SQUARE = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n';
const encode = (text: string) => new TextEncoder().encode(text);
/** Steps finer than a 16-bit integer has. */
const fine = Float32Array.from({ length: SIDE * SIDE }, (_, i) => 0.25 + i * 1e-6);

async function quay(images: Record<string, Uint8Array>, statements: string) {
  const files = {
    'quay.obj': encode(`mtllib quay.mtl\no Quay\n${SQUARE}usemtl Stone\nf 1/1 2/2 3/3 4/4\n`),
    'quay.mtl': encode(`newmtl Stone\nPm 0\n${statements}`),
    ...images,
  };
  const {
    document,
    source,
    images: scanned,
    read,
  } = await openAsset(memorySource('quay', files), 'quay.obj');
  return { document, source, state: initialState(source), images: scanned, read };
}

const to = (id: string) => findDestination(id) as Destination;
const plain = (channels: 1 | 3) =>
  sharp(Buffer.alloc(SIDE * SIDE * channels, 90), { raw: { width: SIDE, height: SIDE, channels } });

describe('float data', () => {
  const roughness = { width: SIDE, height: SIDE, components: 1, data: fine };

  it('stays float in a film package, and in the TIFF of a renderer', async () => {
    const asset = await quay(
      { 'rough.exr': await encodeImage(roughness, 'exr', { depth: 32 }) },
      'map_Pr rough.exr\n',
    );
    const film = await handOff({
      ...asset,
      edits: [],
      findings: [],
      destination: to('render-film'),
      threads: 1,
    });
    const path = [...film.files.keys()].find((name) => name.includes('roughness')) as string;
    expect(path).toMatch(/\.exr$/);
    const back = decodeOutside(put('film_rough.exr', film.files.get(path) as Uint8Array), 'R,R,R', true);
    fine.forEach((value, i) => expect(Math.abs(back[i * 3] - value)).toBeLessThan(1e-7));
    expect(film.receipt.verdict).toBe('clean');

    const renderer = await handOff({
      ...asset,
      edits: [],
      findings: [],
      destination: to('render-specgloss'),
      threads: 1,
    });
    const tiff = [...renderer.files.keys()].find((name) => name.includes('glossiness')) as string;
    const file = put('gloss.tif', renderer.files.get(tiff) as Uint8Array);
    expect(oiiotool('--info', '-v', file)).toMatch(/float tiff|tiff.*float/i);
    const gloss = decodeOutside(file, '0,0,0', true);
    fine.forEach((value, i) => expect(Math.abs(gloss[i * 3] - (1 - value))).toBeLessThan(1e-6));
  });

  it('of halves goes out as halves', async () => {
    const halves = fine.map((_, i) => halfToNumber(numberToHalf(0.1 + i / 100)));
    const asset = await quay(
      { 'rough.exr': await encodeImage({ ...roughness, data: halves }, 'exr', { depth: 16 }) },
      'map_Pr rough.exr\n',
    );
    const film = await handOff({
      ...asset,
      edits: [],
      findings: [],
      destination: to('render-film'),
      threads: 1,
    });
    const path = [...film.files.keys()].find((name) => name.includes('roughness')) as string;
    const file = put('film_half.exr', film.files.get(path) as Uint8Array);
    expect(oiiotool('--info', '-v', file)).toMatch(/half openexr/i);
    const back = decodeOutside(file, 'R,R,R', true);
    halves.forEach((value, i) => expect(back[i * 3]).toBeCloseTo(value, 6));
  });

  it('of integers goes out as the destination wants it', async () => {
    const asset = await quay(
      { 'rough.png': new Uint8Array(await plain(1).toColourspace('b-w').png().toBuffer()) },
      'map_Pr rough.png\n',
    );
    const film = await handOff({
      ...asset,
      edits: [],
      findings: [],
      destination: to('render-film'),
      threads: 1,
    });
    const path = [...film.files.keys()].find((name) => name.includes('roughness')) as string;
    expect((await sharp(film.files.get(path) as Uint8Array).metadata()).depth).toBe('ushort');
  });
});

describe('a plan', () => {
  it('tells type and depth of what is copied as they are', async () => {
    const images = {
      'stone.jpg': new Uint8Array(await plain(3).jpeg().toBuffer()),
      'stone_normal.png': new Uint8Array(await plain(3).png().toBuffer()),
    };
    const asset = await quay(images, 'map_Kd stone.jpg\nnorm stone_normal.png\n');
    const depths = async (id: string) => {
      const { files } = await previewHandoff({ ...asset, destination: to(id) });
      return files.flatMap(({ path, image }) =>
        image
          ? [
              `${path.replace(/^.*Stone_/, '').replace(/ .*$/, '')}: ${image.depth}${image.copied ? ', copied' : ''}`,
            ]
          : [],
      );
    };
    expect(await depths('web-gltf')).toEqual([
      'basecolor.jpg: JPEG, 8 bit, copied',
      'normal.png: PNG, 8 bit, copied',
    ]);
    expect(await depths('render-film')).toEqual([
      'basecolor.exr: EXR, half',
      'normal.png: PNG, 8 bit, copied',
    ]);
    expect(await depths('render-specgloss')).toEqual([
      'diffuse.tif: TIFF, 16 bit',
      'normal.tif: TIFF, 16 bit',
    ]);
  });
});
