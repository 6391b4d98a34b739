import type { AssetImage, AssetSource, AssetState, LoadedAsset, ParcelImage } from '../../asset/asset.ts';
import { scanImage } from '../../asset/scanImages.ts';
import { chromaticitiesOf } from '../../colour/primaries.ts';
import type { Destination } from '../../destinations/profile.ts';
import { decodeImage } from '../../images/decode.ts';
import { encodeImage, encodePng } from '../../images/encode.ts';
import type { PixelBuffer } from '../../images/pixelBuffer.ts';
import { stitch } from '../../images/stitch.ts';
import type { ReadFile } from '../../parcel/fileSource.ts';
import { sha256 } from '../../parcel/hash.ts';
import { cleanName } from '../../parcel/names.ts';
import type { Channel, ChannelName, Material } from '../../scene/material.ts';
import { pickedKey, pickedPath } from '../../scene/pickedImage.ts';
import type { TiledMaterial, TilePlace } from '../../scene/splitTiles.ts';

/** An asset whose maps in tiles were brought to plain images, as a destination without tiles wants them. */
export interface Untiled {
  state: AssetState;
  images: readonly ParcelImage[];
  read: ReadFile;
  /** How the model's faces follow. */
  tiled: TiledMaterial[];
  /** What was done, in words. */
  done: string[];
  /** Of stitched images: the tiles that they came from. */
  origins: ReadonlyMap<string, string[]>;
}

/** Whether small copies suffice. */
export interface UntileOptions {
  /** For plans: tiles are decoded so small; sizes are told as they will be. */
  sketch?: number;
}

/** Longest side of an atlas where the destination sets no limit. */
const LARGEST = 16_384;

/**
 * Splits materials with maps in tiles by tile, or joins the tiles to one atlas where the destination wants
 * that and it fits. Null where nothing lies in tiles, or the destination keeps them. Throws the errors of
 * decoding.
 */
export async function untile(
  { source, state, images, read }: LoadedAsset,
  destination: Destination,
  { sketch = 0 }: UntileOptions = {},
): Promise<Untiled | null> {
  const tiledKeys = new Set(state.images.flatMap(({ key, tiles = [] }) => (tiles.length > 1 ? [key] : [])));
  const inTiles = (material: Material) =>
    Object.values(material.channels).some((channel) => channel?.map && tiledKeys.has(channel.map.image));
  if (destination.tiles || !state.materials.some(inTiles)) return null;
  const work: Untiling = {
    source,
    state,
    files: new Map(images.map((image) => [image.path, image])),
    read,
    destination,
    sketch,
    made: new Map(),
    origins: new Map(),
  };
  const [materials, tiled, done]: [Material[], TiledMaterial[], string[]] = [[], [], []];
  for (const material of state.materials) {
    if (!inTiles(material)) {
      materials.push(material);
      continue;
    }
    const numbers = tilesOf(material, work);
    const atlas = destination.withoutTiles === 'atlas' && atlasFits(material, numbers, work);
    const single = atlas ? await asAtlas(material, numbers, work) : byTile(material, numbers, work);
    materials.push(...single.materials);
    tiled.push(single.tiled);
    const names = single.materials.map(({ name }) => name).join(', ');
    done.push(
      atlas
        ? `Tiles of ${material.key} joined to one image of ${numbers.length}`
        : `Tiles of ${material.key} split into ${names}`,
    );
  }
  const made = work.made;
  return {
    state: { ...state, materials, images: [...state.images, ...newImages(materials, state.images)] },
    images: [...images, ...[...made.values()].map(({ image }) => image)],
    read: async (path) => made.get(path)?.bytes ?? read(path),
    tiled,
    done,
    origins: work.origins,
  };
}

interface Untiling {
  source: AssetSource;
  state: AssetState;
  files: ReadonlyMap<string, ParcelImage>;
  read: ReadFile;
  destination: Destination;
  sketch: number;
  /** Stitched images by path. */
  made: Map<string, { image: ParcelImage; bytes: Uint8Array }>;
  origins: Map<string, string[]>;
}

interface UntiledMaterial {
  materials: Material[];
  tiled: TiledMaterial;
}

/** Tiles that the material's faces reach into; where that is not known, those that its images have. */
function tilesOf(material: Material, { source, state }: Untiling): number[] {
  const reached = source.uvTiles?.[material.key];
  if (reached && reached.length > 0) return [...reached];
  const numbers = tileSets(material, state).flatMap(({ tiles = [] }) => tiles.map(({ number }) => number));
  return [...new Set(numbers)].sort((a, b) => a - b);
}

function tileSets({ channels }: Material, state: AssetState): AssetImage[] {
  const keys = new Set(Object.values(channels).flatMap((channel) => channel?.map?.image ?? []));
  return state.images.filter(({ key, tiles = [] }) => keys.has(key) && tiles.length > 1);
}

function uvSetOf(material: Material, state: AssetState): string | null {
  const sets = new Set(tileSets(material, state).map(({ key }) => key));
  return (
    Object.values(material.channels).find((channel) => channel?.map && sets.has(channel.map.image))?.map
      ?.uvSet ?? null
  );
}

/** One material per tile, whose UVs come into 0 to 1. */
function byTile(material: Material, numbers: readonly number[], { state }: Untiling): UntiledMaterial {
  const places = new Map<number, TilePlace>();
  const sets = new Map(tileSets(material, state).map((image) => [image.key, image]));
  const materials = numbers.map((number): Material => {
    // A bare number between separators would be taken for a tile again.
    const suffix = numbers.length === 1 ? '' : `_tile${number}`;
    const key = `${material.key}${suffix}`;
    places.set(number, { material: key, offset: [0, 0], scale: [1, 1] });
    const channels = mapChannels(material, (channel, map) => {
      const set = sets.get(map.image);
      if (!set) return channel;
      const path = set.tiles?.find((tile) => tile.number === number)?.path;
      return { ...channel, map: path === undefined ? null : { ...map, image: pickedKey(path) } };
    });
    return { ...material, key, name: `${material.name}${suffix}`, channels };
  });
  return { materials, tiled: { key: material.key, uvSet: uvSetOf(material, state), places } };
}

interface Grid {
  columns: number;
  rows: number;
}

/** As square as may be. */
function gridOf(count: number): Grid {
  const columns = Math.ceil(Math.sqrt(count));
  return { columns, rows: Math.ceil(count / columns) };
}

function atlasFits(
  material: Material,
  numbers: readonly number[],
  { state, files, destination }: Untiling,
): boolean {
  const { columns, rows } = gridOf(numbers.length);
  const limit = destination.maxSize || LARGEST;
  return tileSets(material, state).every((set) => {
    const [width, height] = largestTile(set, files);
    return width * columns <= limit && height * rows <= limit;
  });
}

function largestTile({ tiles = [] }: AssetImage, files: ReadonlyMap<string, ParcelImage>): [number, number] {
  const infos = tiles.flatMap(({ path }) => files.get(path)?.info ?? []);
  return [Math.max(1, ...infos.map(({ width }) => width)), Math.max(1, ...infos.map(({ height }) => height))];
}

/** All tiles beside each other in one image per map; the UVs of each tile come into its cell. */
async function asAtlas(
  material: Material,
  numbers: readonly number[],
  work: Untiling,
): Promise<UntiledMaterial> {
  const grid = gridOf(numbers.length);
  const places = new Map(
    numbers.map((number, i): [number, TilePlace] => [
      number,
      {
        material: material.key,
        offset: [(i % grid.columns) / grid.columns, Math.floor(i / grid.columns) / grid.rows],
        scale: [1 / grid.columns, 1 / grid.rows],
      },
    ]),
  );
  const paths = new Map<string, string>();
  for (const set of tileSets(material, work.state))
    paths.set(set.key, await stitchTiles(material, set, { numbers, ...grid }, work));
  const channels = mapChannels(material, (channel, map) => {
    const path = paths.get(map.image);
    return path ? { ...channel, map: { ...map, image: pickedKey(path), wrap: ['clamp', 'clamp'] } } : channel;
  });
  return {
    materials: [{ ...material, channels }],
    tiled: { key: material.key, uvSet: uvSetOf(material, work.state), places },
  };
}

async function stitchTiles(
  material: Material,
  set: AssetImage,
  { numbers, columns, rows }: Grid & { numbers: readonly number[] },
  work: Untiling,
): Promise<string> {
  const { files, read, sketch, made, origins } = work;
  const [width, height] = largestTile(set, files);
  const shrink = sketch > 0 ? Math.min(1, sketch / Math.max(width, height)) : 1;
  const cell = {
    width: Math.max(1, Math.round(width * shrink)),
    height: Math.max(1, Math.round(height * shrink)),
  };
  const cells: (PixelBuffer | null)[] = [];
  const used: string[] = [];
  for (const number of numbers) {
    const path = set.tiles?.find((tile) => tile.number === number)?.path;
    if (path) used.push(path);
    cells.push(
      path ? await decodeImage(await read(path), path, sketch > 0 ? { maxSize: sketch } : {}) : null,
    );
  }
  const pixels = stitch(cells, { columns, rows, ...cell });
  const floating = pixels.data instanceof Float32Array;
  const space =
    Object.values(material.channels).find((channel) => channel?.map?.image === set.key)?.map?.space ?? 'data';
  const bytes = floating
    ? await encodeImage(pixels, 'exr', { depth: 32, primaries: chromaticitiesOf(space) })
    : await encodePng(pixels);
  const path = `made/${cleanName(material.key)}_${sha256(new TextEncoder().encode(used.join())).slice(0, 6)}_${cleanName(set.key)}.${floating ? 'exr' : 'png'}`;
  const image = await scanImage(path, bytes, null);
  const whole =
    sketch > 0 && image.info
      ? { ...image, info: { ...image.info, width: width * columns, height: height * rows } }
      : image;
  made.set(path, { image: whole, bytes });
  origins.set(path, used);
  return path;
}

function mapChannels(
  { channels }: Material,
  change: (channel: Channel, map: NonNullable<Channel['map']>) => Channel,
): Material['channels'] {
  return Object.fromEntries(
    (Object.entries(channels) as [ChannelName, Channel][]).map(([name, channel]) => [
      name,
      channel.map ? change(channel, channel.map) : channel,
    ]),
  );
}

/** Entries for images that the new materials name by their path. */
function newImages(materials: readonly Material[], existing: readonly AssetImage[]): AssetImage[] {
  const keys = new Set(existing.map(({ key }) => key));
  const required = new Set(
    materials.flatMap(({ channels }) =>
      Object.values(channels).flatMap((channel) => channel?.map?.image ?? []),
    ),
  );
  return [...required].flatMap((key): AssetImage[] => {
    const path = pickedPath(key);
    return keys.has(key) || path === null
      ? []
      : [{ key, written: path, relative: null, status: 'found', resolved: path, how: 'one tile' }];
  });
}
