import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { initialState } from '../../asset/asset.ts';
import { DESTINATIONS, findDestination } from '../../destinations/destinations.ts';
import { createDestination, type Destination, outputMap, SRGB, triple } from '../../destinations/profile.ts';
import { openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { pickedKey } from '../../scene/pickedImage.ts';
import { type HandoffResult, handOff } from '../handoff.ts';
import { previewHandoff } from '../previewHandoff.ts';
import { prepare } from './prepare.ts';
import { untile } from './tileMaterials.ts';

const SIDE = 8;
/** A quarter of the plate each, in the tiles 1001, 1002 and 1011; sRGB codes. */
const TILES: Record<number, [number, number, number]> = {
  1001: [200, 40, 40],
  1002: [40, 180, 60],
  1011: [50, 60, 190],
};

async function png([r, g, b]: number[], grey = false): Promise<Uint8Array> {
  const channels = grey ? 1 : 3;
  const data = Buffer.alloc(SIDE * SIDE * channels, Buffer.from(grey ? [r] : [r, g, b]));
  return new Uint8Array(
    await sharp(data, { raw: { width: SIDE, height: SIDE, channels } })
      .toColourspace(grey ? 'b-w' : 'srgb')
      .png()
      .toBuffer(),
  );
}

/** Three squares in a row, each with its UVs in a tile of its own. */
async function boat() {
  const places: [u: number, v: number][] = [
    [0, 0],
    [1, 0],
    [0, 1],
  ];
  const lines = ['mtllib boat.mtl', 'o Deck', 'usemtl Deck'];
  places.forEach(([u, v], i) => {
    for (const [x, y] of [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ])
      lines.push(`v ${i + x} ${y} 0`, `vt ${u + 0.1 + 0.8 * x} ${v + 0.1 + 0.8 * y}`);
    const index = i * 4;
    lines.push(`f ${[1, 2, 3, 4].map((k) => `${index + k}/${index + k}`).join(' ')}`);
  });
  const files: Record<string, Uint8Array> = {
    'boat.obj': new TextEncoder().encode(`${lines.join('\n')}\n`),
    'boat.mtl': new TextEncoder().encode(
      'newmtl Deck\nPm 0\nmap_Kd deck_color.<UDIM>.png\nmap_Pr deck_rough.<UDIM>.png\n',
    ),
  };
  for (const [number, colour] of Object.entries(TILES)) {
    files[`deck_color.${number}.png`] = await png(colour);
    files[`deck_rough.${number}.png`] = await png(colour, true);
  }
  const asset = await openAsset(memorySource('boat', files), 'boat.obj');
  const { document, source, images, read } = asset;
  return { document, source, state: initialState(source), images, read };
}

async function make(destination: Destination, variant?: string): Promise<HandoffResult> {
  return handOff({
    ...(await boat()),
    edits: [],
    findings: [],
    destination,
    choices: { variant },
    threads: 1,
  });
}

const failed = ({ receipt }: HandoffResult) =>
  receipt.readBack.checks.filter(({ ok }) => !ok).map(({ check, found }) => `${check}: ${found}`);

/** Mean colour of an image by an outside decoder. */
async function meanOf(
  bytes: Uint8Array,
  box?: { left: number; top: number; width: number; height: number },
): Promise<number[]> {
  const image = sharp(bytes).toColourspace('srgb').removeAlpha();
  const cut = await (box ? image.extract(box) : image).png().toBuffer();
  const { channels } = await sharp(cut).stats();
  return channels.map(({ mean }) => Math.round(mean));
}

describe('maps in tiles', () => {
  it('go to every destination with a package that holds', async () => {
    for (const destination of DESTINATIONS) {
      const result = await make(destination);
      expect([destination.id, failed(result), result.receipt.verdict === 'failed']).toEqual([
        destination.id,
        [],
        false,
      ]);
      expect(result.receipt.losses.filter((loss) => /tiles? of/.test(loss))).toEqual([]);
    }
  });

  it('become one material each where the destination has none, with UVs in 0 to 1', async () => {
    const { files, receipt } = await make(findDestination('web-gltf') as Destination);
    const glb = files.get('boat.glb') as Uint8Array;
    const length = new DataView(glb.buffer, glb.byteOffset).getUint32(12, true);
    const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length)));
    const binary = glb.subarray(28 + length);
    const view = (index: number) => {
      const { byteOffset = 0, byteLength } = json.bufferViews[index];
      return binary.slice(byteOffset, byteOffset + byteLength);
    };
    expect(receipt.prepared).toEqual([
      'Tiles of Deck split into Deck_tile1001, Deck_tile1002, Deck_tile1011',
    ]);
    for (const { primitives } of json.meshes) {
      for (const { attributes, material } of primitives) {
        const { name, pbrMetallicRoughness } = json.materials[material];
        const tile = Number(name.slice(-4));
        const texture = json.textures[pbrMetallicRoughness.baseColorTexture.index].source;
        expect(await meanOf(view(json.images[texture].bufferView))).toEqual(TILES[tile]);
        const accessor = json.accessors[attributes.TEXCOORD_0];
        const bytes = view(accessor.bufferView);
        const stride = (json.bufferViews[accessor.bufferView].byteStride ?? 8) / 4;
        const floats = new Float32Array(bytes.buffer, bytes.byteOffset + (accessor.byteOffset ?? 0));
        const uvs = Array.from({ length: accessor.count }, (_, i) => [
          floats[i * stride],
          floats[i * stride + 1],
        ]).flat();
        expect([Math.min(...uvs), Math.max(...uvs)].map((value) => value.toFixed(3))).toEqual([
          '0.100',
          '0.900',
        ]);
        // The squares stand at x 0, 1 and 2, in the order of their tiles.
        const place = json.accessors[attributes.POSITION].min[0];
        expect([1001, 1002, 1011][place]).toBe(tile);
      }
    }
  });

  it('are joined to one image where the profile wants an atlas and it fits, else split', async () => {
    const own = (maxSize: number) =>
      createDestination({
        id: 'quay-atlas',
        title: 'Quay atlas',
        summary: '',
        format: 'obj',
        variants: ['obj'],
        upAxis: 'Y',
        metresPerUnit: 1,
        triangulate: false,
        workflow: 'metalRough',
        maps: [outputMap('colour', 'colour', triple('baseColor'), SRGB)],
        whiteFactors: false,
        tiles: false,
        withoutTiles: 'atlas',
        maxSize,
        notes: [],
      } as never);
    const { files, receipt } = await make(own(64));
    expect(receipt.prepared).toEqual(['Tiles of Deck joined to one image of 3']);
    expect([receipt.verdict === 'failed', [...files.keys()].filter((path) => path.endsWith('.png'))]).toEqual(
      [false, ['maps/Deck_colour.png']],
    );
    const atlas = files.get('maps/Deck_colour.png') as Uint8Array;
    // v grows upwards: the first row of cells is the lower half of the picture.
    const cell = (column: number, row: number) => ({
      left: column * SIDE,
      top: (1 - row) * SIDE,
      width: SIDE,
      height: SIDE,
    });
    expect(await meanOf(atlas, cell(0, 0))).toEqual(TILES[1001]);
    expect(await meanOf(atlas, cell(1, 0))).toEqual(TILES[1002]);
    expect(await meanOf(atlas, cell(0, 1))).toEqual(TILES[1011]);
    const obj = new TextDecoder().decode(files.get('boat.obj'));
    const uvs = [...obj.matchAll(/^vt (\S+) (\S+)/gm)].map(([, u, v]) => [Number(u), Number(v)]);
    // Each square reaches from a tenth to nine tenths of its cell, and a cell is half of the image.
    const edges = [0.05, 0.45, 0.55, 0.95];
    for (const place of uvs.flat())
      expect(Math.min(...edges.map((edge) => Math.abs(edge - place)))).toBeLessThan(1e-4);

    const small = await make(own(12));
    expect(small.receipt.prepared).toEqual([
      'Tiles of Deck split into Deck_tile1001, Deck_tile1002, Deck_tile1011',
    ]);
  });

  it('name each tile as an image of its own, and none where a channel lacks the tile', async () => {
    const asset = await boat();
    const [colour, rough] = asset.state.images;
    const lacking = { ...rough, tiles: (rough.tiles ?? []).filter(({ number }) => number !== 1002) };
    const plain = { ...rough, key: 'plain', written: 'plain.png', tiles: undefined };
    const destination = findDestination('web-gltf') as Destination;
    const made = await untile(
      { ...asset, state: { ...asset.state, images: [colour, lacking, plain] } },
      destination,
    );
    const tile = (name: string, number: number) => `deck_${name}.${number}.png`;
    const named = (name: string, numbers: number[]) => numbers.map((number) => tile(name, number));
    const fresh = made?.state.images.slice(3) ?? [];
    expect(made?.state.images.slice(0, 3)).toEqual([colour, lacking, plain]);
    expect(fresh.map(({ resolved }) => resolved).sort()).toEqual([
      ...named('color', [1001, 1002, 1011]),
      ...named('rough', [1001, 1011]),
    ]);
    for (const { resolved, ...entry } of fresh)
      expect(entry).toEqual({
        key: pickedKey(resolved as string),
        written: resolved,
        relative: null,
        status: 'found',
        how: 'one tile',
      });
    expect(
      made?.state.materials.map(({ key, channels }) => [
        key,
        channels.baseColor?.map?.image,
        channels.roughness?.map?.image,
      ]),
    ).toEqual([
      ['Deck_tile1001', pickedKey(tile('color', 1001)), pickedKey(tile('rough', 1001))],
      ['Deck_tile1002', pickedKey(tile('color', 1002)), undefined],
      ['Deck_tile1011', pickedKey(tile('color', 1011)), pickedKey(tile('rough', 1011))],
    ]);
    expect([made?.done, made?.images]).toEqual([
      ['Tiles of Deck split into Deck_tile1001, Deck_tile1002, Deck_tile1011'],
      asset.images,
    ]);
    // Materials beside it, without a map in tiles, stay as they are.
    const other = {
      ...asset.state.materials[0],
      key: 'Rail',
      channels: { metalness: asset.state.materials[0].channels.metalness },
    } as (typeof asset.state.materials)[0];
    const both = await untile(
      { ...asset, state: { ...asset.state, materials: [other, ...asset.state.materials] } },
      destination,
    );
    expect([both?.state.materials[0], both?.tiled.map(({ key }) => key)]).toEqual([other, ['Deck']]);
    expect(await untile({ ...asset, state: { ...asset.state, materials: [other] } }, destination)).toBeNull();
    // Where nobody knows which tiles its faces reach, its own images tell, and a single tile is none.
    const source = { ...asset.source, uvTiles: undefined };
    const spar = { ...colour, key: 'spar', tiles: colour.tiles?.map((one) => ({ ...one, number: 1033 })) };
    const untold = (...images: (typeof asset)['state']['images']) =>
      untile({ ...asset, source, state: { ...asset.state, images } }, destination);
    expect([...((await untold(colour, rough, spar))?.tiled[0].places.keys() ?? [])]).toEqual([
      1001, 1002, 1011,
    ]);
    const [first] = colour.tiles ?? [];
    expect(await untold({ ...colour, tiles: [first] }, plain, spar)).toBeNull();
    const bare = await prepare({ ...asset, state: { ...asset.state, materials: [] } }, destination);
    expect([bare.done, bare.tiled, bare.refusal]).toEqual([[], [], 'not wanted']);
  });

  it('are told so in the plan', async () => {
    const plan = await previewHandoff({
      ...(await boat()),
      destination: findDestination('engine-packed') as Destination,
    });
    expect(plan.changes).toContain('Tiles of Deck split into Deck_tile1001, Deck_tile1002, Deck_tile1011');
    expect(plan.files.filter(({ kind }) => kind === 'map').map(({ path }) => path)).toContain(
      'maps/T_Deck_tile1011_BC.png',
    );
    expect(plan.losses.filter((loss) => loss.includes('tile'))).toEqual([]);
  });
});
