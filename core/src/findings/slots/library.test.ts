import { describe, expect, it } from 'vitest';
import { collectFacts } from '../../asset/collectFacts.ts';
import { encodeImage } from '../../images/encode.ts';
import { mendAsset, openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { readings } from '../../test/sets.ts';

const MODELS = ['lamp', 'buoy', 'crane'];
const SIZE = 64;

type Paint = (x: number, y: number) => number[];

function image(paint: Paint, size = SIZE): Promise<Uint8Array> {
  const values: number[] = [];
  for (let y = 0; y < size; y += 1)
    for (let x = 0; x < size; x += 1) values.push(...paint(x / size, y / size));
  const components = values.length / (size * size);
  return encodeImage({ width: size, height: size, components, data: Uint8Array.from(values) }, 'png');
}

const thing: Paint = (x, y) => [200, 90 + 120 * y, 40, Math.hypot(x - 0.5, y - 0.5) < 0.4 ? 255 : 0];
const planks: Paint = (x, y) => [120 + 60 * Math.sin(x * 40), 80 + 40 * y, 50];

/** A square with a material, and others that nothing says more of. */
const obj = (materials: readonly string[], uvs = true) =>
  [
    'mtllib m.mtl',
    'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0',
    ...(uvs ? ['vt 0 0\nvt 1 0\nvt 1 1\nvt 0 1'] : []),
    ...materials.flatMap((name) => [`usemtl ${name}`, uvs ? 'f 1/1 2/2 3/3 4/4' : 'f 1 2 3 4']),
  ].join('\n');

const mtl = (materials: Record<string, string | null>) =>
  Object.entries(materials)
    .map(([name, map]) => `newmtl ${name}\nKd 0.4 0.15 0.17\n${map ? `map_Kd ${map}\n` : ''}`)
    .join('\n');

/** What slots read once what is safe is mended, and which doubts are left. */
async function settle(files: Record<string, string | Uint8Array>, model: string) {
  const bytes = Object.fromEntries(
    Object.entries(files).map(([path, content]) => [
      path,
      typeof content === 'string' ? new TextEncoder().encode(content) : content,
    ]),
  );
  const { source, images, read } = await openAsset(memorySource('quay', bytes), model);
  const { facts } = await collectFacts(images, read);
  const { state, findings } = mendAsset(source, images, 'safe', { facts });
  return {
    reads: readings(state),
    doubts: findings.map(({ code }) => code).filter((code) => /^(set|slot|map|link)\./.test(code)),
  };
}

/** Every model in a folder of its own, with an image of its name beside the folder. */
async function library(
  materials: Record<string, string | null>,
  { uvs = true, beside = {} }: { uvs?: boolean; beside?: Record<string, Uint8Array> } = {},
) {
  const picture = await image(thing);
  const files: Record<string, string | Uint8Array> = {};
  for (const name of MODELS) {
    files[`${name}/${name}.obj`] = obj(Object.keys(materials), uvs);
    files[`${name}/m.mtl`] = mtl(materials);
    files[`${name}.png`] = picture;
  }
  return { ...files, ...beside };
}

describe('pictures of the models of a library', () => {
  it.each([
    ['one material', { paint: null }],
    ['a material of its name', { lamp: null }],
    ['a material of another model’s name', { buoy: null }],
    ['several materials', { brass: null, glass: null }],
  ])('are worn by none of them: %s', async (_, materials) => {
    expect(await settle(await library(materials), 'lamp/lamp.obj')).toEqual({ reads: [], doubts: [] });
  });

  it('are what they wear where they are no pictures', async () => {
    const grain = Object.fromEntries(
      await Promise.all(MODELS.map(async (name) => [`${name}.png`, await image(planks)] as const)),
    );
    const { reads } = await settle(await library({ lamp: null }, { beside: grain }), 'lamp/lamp.obj');
    expect(reads).toEqual(['lamp baseColor: lamp.png']);
    const { reads: others } = await settle(
      await library({ paint: null }, { beside: grain }),
      'lamp/lamp.obj',
    );
    expect(others.filter((line) => !line.endsWith('lamp.png'))).toEqual([]);
  });

  it('are asked about where they are large', async () => {
    const leaf = await image(thing, 600);
    const leaves = Object.fromEntries(MODELS.map((name) => [`${name}.png`, leaf]));
    const { reads, doubts } = await settle(
      await library({ lamp: null }, { beside: leaves }),
      'lamp/lamp.obj',
    );
    expect(reads).toEqual([]);
    expect(doubts).toEqual(['slot.candidate']);
  });

  it('are read where the model says so', async () => {
    const { reads } = await settle(await library({ paint: '../lamp.png' }), 'lamp/lamp.obj');
    expect(reads).toContain('paint baseColor: lamp.png');
  });
});

describe('faces without UVs', () => {
  const grain = async () => ({ 'lamp/planks_color.png': await image(planks) });

  it('are asked about no image, and take one whose name is theirs', async () => {
    const beside = await grain();
    expect(await settle(await library({ paint: null }, { uvs: false, beside }), 'lamp/lamp.obj')).toEqual({
      reads: [],
      doubts: ['map.unused'],
    });
    const { reads } = await settle(await library({ planks: null }, { uvs: false, beside }), 'lamp/lamp.obj');
    expect(reads).toEqual(['planks baseColor: lamp/planks_color.png']);
    const { reads: mapped } = await settle(await library({ paint: null }, { beside }), 'lamp/lamp.obj');
    expect(mapped).toEqual(['paint baseColor: lamp/planks_color.png']);
  });
});

describe('a file that says what each material wears', () => {
  const alone = async (materials: Record<string, string | null>, images: Record<string, Paint>) => ({
    'quay/candle/candle.obj': obj(Object.keys(materials)),
    'quay/candle/m.mtl': mtl(materials),
    ...Object.fromEntries(
      await Promise.all(
        Object.entries(images).map(async ([name, paint]) => [`quay/candle/${name}`, await image(paint)]),
      ),
    ),
  });
  const settled = async (...of: Parameters<typeof alone>) =>
    settle(await alone(...of), 'quay/candle/candle.obj');

  it('leaves bare what has no image, whatever others read and folders are called', async () => {
    expect(
      await settled({ candle: null, flame: 'flame.png', holder: null }, { 'flame.png': planks }),
    ).toEqual({ reads: ['flame baseColor: quay/candle/flame.png'], doubts: [] });
    expect(
      await settled({ tea_towel: 'tea_towel.png', tea_towel_loop: null }, { 'tea_towel.png': planks }),
    ).toEqual({ reads: ['tea_towel baseColor: quay/candle/tea_towel.png'], doubts: [] });
  });

  it('gives no image of another material, though they are called alike', async () => {
    const { reads } = await settled(
      { edge: 'stitching.png', seam: 'stitching_roughness.png' },
      { 'stitching.png': planks, 'stitching_roughness.png': (x, y) => Array(3).fill(40 + 150 * x * y) },
    );
    expect(reads.filter((line) => line.startsWith('edge'))).toEqual([
      'edge baseColor: quay/candle/stitching.png',
    ]);
  });

  it('still finds what nobody reads, by its name', async () => {
    const { reads } = await settled(
      { flame: 'flame.png', holder: null },
      { 'flame.png': planks, 'holder_color.png': (x, y) => [90 * y, 60, 200 * x] },
    );
    expect(reads).toContain('holder baseColor: quay/candle/holder_color.png');
  });

  it('keeps the only image of a material, though its name says a bump; vectors are none', async () => {
    const grey: Paint = (x, y) => Array(3).fill(20 + Math.round(60 * Math.abs(Math.sin(x * 30 + y * 9))));
    const { reads, doubts } = await settled({ wood: 'wood_bump.png' }, { 'wood_bump.png': grey });
    expect(reads).toEqual(['wood baseColor: quay/candle/wood_bump.png']);
    expect(doubts).toEqual(['slot.contradiction']);
    const vectors: Paint = (x) => [128 + Math.round(70 * Math.sin(x * 20)), 128, 240];
    const { reads: moved } = await settled({ wood: 'wood_normal.png' }, { 'wood_normal.png': vectors });
    expect(moved).toEqual(['wood normal: quay/candle/wood_normal.png']);
  });
});
