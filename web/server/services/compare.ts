import {
  type AssetSource,
  type AssetState,
  initialState,
  type ParcelImage,
} from '@kinkajou/core/asset/asset';
import { readCarelessly } from '@kinkajou/core/compare/careless';
import type { Reading } from '@kinkajou/core/compare/channelField';
import {
  type ChannelDifference,
  compareChannel,
  compareMaterials,
  type MaterialSide,
} from '@kinkajou/core/compare/compareMaterials';
import { differencePicture, type PairPicture } from '@kinkajou/core/compare/differencePicture';
import { plainName } from '@kinkajou/core/compare/worldParts';
import { KinkajouError } from '@kinkajou/core/errors';
import { encodePng } from '@kinkajou/core/images/encode';
import { TAKE_ALL } from '@kinkajou/core/scene/intake';
import type { Material } from '@kinkajou/core/scene/material';
import { and, desc, eq, isNotNull, isNull, ne } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets, handoffs } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { replayedAsset } from './assetState.ts';
import { parseSide, type Side } from './side.ts';

/** One way to read an asset, or another asset that is laid beside it; see {@link parseSide}. */
export interface SideEntry {
  kind: Side['kind'];
  /** As requests name it. */
  side: string;
  title: string;
  detail: string;
  /** Of a handoff: when it was asked for. */
  at?: string;
  /** Of another asset: the parcel that it came in. */
  parcel?: string;
}

/**
 * What the view shows of one side: each model with its geometry, state and images, and the asset whose edits
 * shape it.
 */
export interface SideView {
  side: string;
  models: {
    id: string | null;
    geometry: string;
    source: Omit<AssetSource, 'materials' | 'images'>;
    state: AssetState;
    images: ParcelImage[];
  }[];
  /** The side's own material for each of the asset's. */
  materials: Record<string, string>;
}

/** Other assets that are offered, the newest first: what came back was dropped just now. */
const BESIDE = 100;

/** What an asset can be compared with: itself before and after its edits, a careless reader, its packages, and other assets. */
export async function listSides(assetId: string): Promise<SideEntry[]> {
  const rows = await db().query.handoffs.findMany({
    where: and(eq(handoffs.assetId, assetId), isNotNull(handoffs.reading)),
    orderBy: desc(handoffs.createdAt),
    limit: 50,
    columns: { id: true, destination: true, variant: true, createdAt: true, receipt: true, profile: true },
  });
  const others = await db()
    .select({ id: assets.id, name: assets.name, model: assets.model, parcel: assets.parcelId })
    .from(assets)
    .where(and(ne(assets.id, assetId), isNull(assets.removedAt)))
    .orderBy(desc(assets.createdAt))
    .limit(BESIDE);
  return [
    { kind: 'delivered', side: 'delivered', title: 'Source as delivered', detail: 'before any edit' },
    { kind: 'edited', side: 'edited', title: 'Source with edits', detail: 'as the bench shows it' },
    {
      kind: 'careless',
      side: 'careless',
      title: 'A careless reader',
      detail: 'data read as sRGB, normals the wrong way, alpha ignored',
    },
    ...rows.map(({ id, destination, variant, createdAt, receipt, profile }) => ({
      kind: 'handoff' as const,
      side: `handoff:${id}`,
      title: `${profile?.title ?? destination}, ${variant}`,
      detail: `handoff, ${receipt?.verdict ?? ''}`,
      at: createdAt.toISOString(),
    })),
    ...others.map(({ id, name, model, parcel }) => ({
      kind: 'asset' as const,
      side: `asset:${id}`,
      title: name,
      detail: `beside this one: ${model}`,
      parcel,
    })),
  ];
}

/** One side as the view shows it. */
export async function viewSide(assetId: string, side: string): Promise<SideView> {
  const way = parseSide(side);
  if (way.kind === 'handoff') {
    const { models, pairs } = await readingOfHandoff(assetId, way.id);
    return {
      side,
      models: models.map(({ source, images, geometry }) => ({
        id: null,
        geometry,
        source: bare(source),
        state: { materials: source.materials, images: source.images, intake: TAKE_ALL },
        images,
      })),
      materials: Object.fromEntries(pairs.map(({ key, b }) => [key, b])),
    };
  }
  const { asset, state, images } = await replayedAsset(way.kind === 'asset' ? way.id : assetId);
  const shown = way.kind === 'asset' ? state : stateOf(way.kind, asset.source, state);
  const keys = way.kind === 'asset' ? (await replayedAsset(assetId)).state.materials : shown.materials;
  return {
    side,
    models: [{ id: asset.id, geometry: asset.geometry, source: bare(asset.source), state: shown, images }],
    materials: Object.fromEntries(
      keys.flatMap((material) => {
        const other = namesake(material, shown.materials);
        return other ? [[material.key, other.key]] : [];
      }),
    ),
  };
}

function bare({
  materials: _materials,
  images: _images,
  ...source
}: AssetSource): SideView['models'][number]['source'] {
  return source;
}

/** Careless readers meet the edited asset. */
export function stateOf(
  side: 'delivered' | 'edited' | 'careless',
  source: AssetSource,
  state: AssetState,
): AssetState {
  switch (side) {
    case 'delivered':
      return { ...initialState(source), intake: state.intake };
    case 'edited':
      return state;
    case 'careless':
      return { ...state, materials: readCarelessly(state.materials) };
  }
}

/** The material that goes by the same name elsewhere, as any format can write it. */
function namesake({ key, name }: Material, others: readonly Material[]): Material | undefined {
  return (
    others.find((other) => other.key === key) ??
    others.find((other) => plainName(other.name) === plainName(name))
  );
}

/** Two sides and the material whose pictures are drawn. */
export interface CompareRequest {
  a: string;
  b: string;
  /** Key of one of the asset's materials. */
  material: string;
  /** In 0..1 of a channel's range. */
  limit: number;
}

/** How one material differs between two sides; empty where either side does not have it. */
export async function compareSides(assetId: string, request: CompareRequest): Promise<ChannelDifference[]> {
  const pair = await pairOf(assetId, request);
  return pair ? compareMaterials(...pair, { limit: request.limit }) : [];
}

/** Longest side of the pictures of channels. */
const PICTURE_SIDE = 512;

/** One channel of a material on side A, on side B, or the difference times `scale`, as PNG. */
export async function pictureOfSides(
  assetId: string,
  request: CompareRequest & { channel: string; what: PairPicture; scale: number },
): Promise<Uint8Array> {
  const pair = await pairOf(assetId, request);
  const fields = pair && (await compareChannel(request.channel, ...pair, { grid: PICTURE_SIDE }));
  if (!fields) throw notFound('channel to compare');
  return encodePng(differencePicture(fields, request.what, request.scale));
}

type Pair = [MaterialSide, MaterialSide];

async function pairOf(assetId: string, { a, b, material }: CompareRequest): Promise<Pair | null> {
  const [one, two] = await Promise.all([readSide(assetId, a, material), readSide(assetId, b, material)]);
  const [first, second] = [one, two].map(({ reading, key }) =>
    reading.materials.find((other) => other.key === key),
  );
  if (!first || !second) return null;
  return [
    { material: first, reading: one.reading },
    { material: second, reading: two.reading },
  ];
}

/**
 * A side as a reading, and its own key of a material. Models of one package are kept apart by whose material
 * it is.
 */
async function readSide(
  assetId: string,
  side: string,
  material: string,
): Promise<{ reading: Reading; key: string }> {
  const way = parseSide(side);
  if (way.kind !== 'handoff') {
    const own = await replayedAsset(assetId);
    const { asset, state, images } = way.kind === 'asset' ? await replayedAsset(way.id) : own;
    const shown = way.kind === 'asset' ? state : stateOf(way.kind, asset.source, state);
    const expected = own.state.materials.find(({ key }) => key === material);
    const key =
      way.kind === 'asset' ? ((expected && namesake(expected, shown.materials)?.key) ?? '') : material;
    return { reading: reading(shown.materials, shown.images, asset.source.metresPerUnit, images), key };
  }
  const { models, pairs } = await readingOfHandoff(assetId, way.id);
  const name = pairs.find(({ key }) => key === material)?.b ?? '';
  const model =
    models.find(({ source }) => source.materials.some((other) => other.name === name)) ?? models[0];
  const key = model.source.materials.find((other) => other.name === name)?.key ?? '';
  return {
    reading: reading(model.source.materials, model.source.images, model.source.metresPerUnit, model.images),
    key,
  };
}

function reading(
  materials: AssetState['materials'],
  images: AssetState['images'],
  metresPerUnit: number,
  files: readonly ParcelImage[],
): Reading {
  return { materials, images, metresPerUnit, read: readerOf(files) };
}

/** Reads images by their paths from what is stored. */
export function readerOf(files: readonly ParcelImage[]): Reading['read'] {
  const byPath = new Map(files.map((file) => [file.path, file.sha256]));
  return async (path) => {
    const hash = byPath.get(path);
    if (!hash) throw new KinkajouError('source.missing', `"${path}" is not there`, { file: path });
    return blobs.get(hash);
  };
}

async function readingOfHandoff(assetId: string, id: string) {
  const [row] = await db()
    .select({ reading: handoffs.reading })
    .from(handoffs)
    .where(and(eq(handoffs.id, id), eq(handoffs.assetId, assetId)));
  if (!row?.reading) throw notFound('handoff');
  return row.reading;
}
