import { describe, expect, it } from 'vitest';
import { initialState } from '../../asset/asset.ts';
import { DESTINATIONS, findDestination } from '../../destinations/destinations.ts';
import type { Destination } from '../../destinations/profile.ts';
import { decodeImage } from '../../images/decode.ts';
import { encodeImage } from '../../images/encode.ts';
import { openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import type { ChannelName, ColourSpace } from '../../scene/material.ts';
import { handOff } from '../handoff.ts';
import { withColoursInRange } from './colourRange.ts';
import { prepare } from './prepare.ts';

const SIDE = 8;
const encode = (text: string) => new TextEncoder().encode(text);

/** A sail whose image is one colour on the left and another on the right, in floats or 8 bits. */
async function sail(statement: string, colours: number[][], space: ColourSpace | null = null) {
  const rgb = Array.from({ length: SIDE * SIDE }, (_, i) => colours[i % SIDE < SIDE / 2 ? 0 : 1]).flat();
  const floats = statement.endsWith('.exr');
  const data = floats ? Float32Array.from(rgb) : Uint8Array.from(rgb);
  const pixels = { width: SIDE, height: SIDE, components: 3, data };
  const image = await encodeImage(pixels, floats ? 'exr' : 'png', { depth: 32 });
  const corners = ['0 0', '1 0', '1 1', '0 1'];
  const files = {
    'sail.obj': encode(
      [
        'mtllib sail.mtl',
        ...corners.map((corner) => `v ${corner} 0`),
        ...corners.map((corner) => `vt ${corner}`),
        'usemtl Sail',
        'f 1/1 2/2 3/3 4/4',
      ].join('\n'),
    ),
    'sail.mtl': encode(`newmtl Sail\nKd 0.5 0.5 0.5\nPr 0.5\nKe 1 1 1\n${statement}\n`),
    [statement.split(' ')[1]]: image,
  };
  const asset = await openAsset(memorySource('sail', files), 'sail.obj');
  const state = initialState(asset.source);
  for (const { channels } of state.materials)
    for (const channel of Object.values(channels))
      if (space && channel.map) channel.map = { ...channel.map, space };
  return { ...asset, state, edits: [], findings: [], threads: 1 };
}

const LAMP: [string, number[][]] = [
  'map_Ke glow.exr',
  [
    [0.5, 1.5, 4],
    [0.1, 0.2, 0.05],
  ],
];
/** The purest red and green of Display P3, which are (1.2249, -0.0420, -0.0196) and so on in Rec.709. */
const PURE: [string, number[][], ColourSpace] = [
  'map_Kd paint.png',
  [
    [255, 0, 0],
    [0, 255, 0],
  ],
  'srgb_p3d65_scene',
];
const usesOf = async (asset: Awaited<ReturnType<typeof sail>>, id: string, channel: ChannelName) => {
  const { state, losses } = await prepare(asset, findDestination(id) as Destination);
  const { value, map } = state.materials[0].channels[channel] ?? {};
  return { value, gain: map?.gain, cut: map?.cut, losses };
};

describe('colours that integers cannot hold', () => {
  it('are divided by the brightest where they shine, which becomes the value', async () => {
    expect(await usesOf(await sail(...LAMP), 'web-gltf', 'emission')).toEqual({
      value: [4, 4, 4],
      gain: 0.25,
      cut: undefined,
      losses: [],
    });
    // Half a step of 8 bits above white is rounding.
    const white = await sail('map_Ke glow.exr', [
      [1.001, 1, 1],
      [0, 0, 0],
    ]);
    expect(await usesOf(white, 'web-gltf', 'emission')).toMatchObject({ value: [1, 1, 1], gain: 1 });
  });

  it('are cut where they shine under a curve, which no division of its numbers divides', async () => {
    const encoded = await sail(...LAMP, 'srgb_rec709_scene');
    expect(await usesOf(encoded, 'web-gltf', 'emission')).toEqual({
      value: [1, 1, 1],
      gain: 1,
      cut: true,
      losses: [{ code: 'colour.cut', material: 'Sail', channel: 'emission' }],
    });
  });

  it('are looked for in every tile', async () => {
    const { state, images, read } = await sail(...LAMP);
    const [{ path }] = images;
    const dark = { ...images[0], path: 'dark.exr' };
    const [entry] = state.images;
    const tiles = [
      { number: 1001, path: dark.path },
      { number: 1002, path },
    ];
    const tiled = { ...state, images: [{ ...entry, resolved: dark.path, tiles }] };
    const decode = async (at: string) =>
      at === dark.path
        ? { width: 1, height: 1, components: 3, data: Float32Array.of(0, 0, 0) }
        : decodeImage(await read(at), at);
    const web = findDestination('web-gltf') as Destination;
    const made = await withColoursInRange({ state: tiled, images: [dark, ...images] }, web, decode);
    expect(made.state.materials[0].channels.emission?.value).toEqual([4, 4, 4]);
  });

  it('are cut where they lie beyond Rec.709, and told, of any other channel', async () => {
    const told = [{ code: 'colour.cut', material: 'Sail', channel: 'baseColor' }];
    expect(await usesOf(await sail(...PURE), 'web-gltf', 'baseColor')).toMatchObject({
      gain: 1,
      cut: true,
      losses: told,
    });
    const bright = await sail('map_Kd paint.exr', LAMP[1]);
    expect(await usesOf(bright, 'web-gltf', 'baseColor')).toMatchObject({ cut: true, losses: told });
    const grey = await sail(
      'map_Kd paint.png',
      [
        [90, 90, 90],
        [20, 20, 20],
      ],
      'srgb_p3d65_scene',
    );
    expect(await usesOf(grey, 'web-gltf', 'baseColor')).toMatchObject({ cut: undefined, losses: [] });
  });

  it('stay as they are where the destination holds floats, and where nothing is wide', async () => {
    for (const asset of [await sail(...LAMP), await sail(...PURE)])
      for (const channel of ['emission', 'baseColor'] as const)
        expect((await usesOf(asset, 'render-film', channel)).cut).toBeUndefined();
    const plain = await sail(PURE[0], PURE[1]);
    expect(await usesOf(plain, 'web-gltf', 'baseColor')).toMatchObject({ cut: undefined, losses: [] });
    const floats = await sail('map_Kd paint.exr', LAMP[1]);
    expect((await usesOf(floats, 'render-specgloss', 'baseColor')).losses).toEqual([]);
  });

  it.each(DESTINATIONS.map((destination) => [destination.id, destination] as const))(
    'go to %s with a receipt that holds',
    async (_, destination) => {
      for (const asset of [
        await sail(...LAMP),
        await sail(...PURE),
        await sail('map_Kd paint.exr', LAMP[1]),
      ]) {
        const { receipt } = await handOff({ ...asset, destination });
        expect(receipt.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);
      }
    },
  );

  it('are the same brightness in what a reader of glTF multiplies', async () => {
    const { files } = await handOff({
      ...(await sail(...LAMP)),
      destination: findDestination('web-gltf') as Destination,
    });
    const glb = Buffer.from(files.get('sail.glb') as Uint8Array);
    const json = JSON.parse(glb.subarray(20, 20 + glb.readUInt32LE(12)).toString());
    expect(json.materials[0].extensions.KHR_materials_emissive_strength.emissiveStrength).toBe(4);
  });
});
