import type { AssetSource, AssetState, LoadedAsset, ParcelImage } from '../asset/asset.ts';
import { fillName } from '../destinations/names.ts';
import type { Destination, DestinationFormat } from '../destinations/profile.ts';
import {
  type HandoffChoices,
  type ResolvedDestination,
  resolveChoices,
} from '../destinations/resolveChoices.ts';
import { saysClear } from '../formats/usd/writeUsdMaterial.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { fileName } from '../parcel/fileSource.ts';
import { cleanName, createNamer } from '../parcel/names.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import { type Loss, lossesInWords } from '../scene/loss.ts';
import { groupsOf } from '../scene/split.ts';
import { geometryChanges } from './plan/pieces.ts';
import type { HandoffPlan, PlannedMaterial } from './plan/plan.ts';
import { planFor } from './plan/planFor.ts';
import { type ComponentSource, type ImageKind, type PlannedImage, plannedKind } from './plan/planImage.ts';
import { prepare } from './prepare/prepare.ts';
import { componentInBrief, componentInWords } from './words.ts';
import { pathInPackage } from './write/destinationDocument.ts';
import { plannedSky } from './write/skies.ts';

/** What one component of an image is made from. */
export interface PreviewComponent {
  component: string;
  text: string;
  /** By the file's name alone, and without the component where it stays the one that it was. */
  brief: string;
  /** Name of the file that it comes from; null where it comes from none, or from several. */
  file: string | null;
}

/** A file that a handoff would write. */
export interface PreviewFile {
  path: string;
  kind: 'model' | 'map' | 'sheet';
  /** Bytes, estimated unless `exact`; null where only making it tells. */
  bytes: number | null;
  exact: boolean;
  /** Of maps. */
  image: {
    width: number;
    height: number;
    depth: string;
    copied: boolean;
    components: PreviewComponent[];
  } | null;
}

/** What a handoff would do, before anyone waits. */
export interface HandoffPreview {
  destination: { id: string; title: string; summary: string };
  variant: string;
  /** The source file itself would be changed. */
  patched: boolean;
  files: PreviewFile[];
  /** What geometry and materials go through. */
  changes: string[];
  losses: string[];
  notes: string[];
}

/** An asset as it stands and the destination whose result is shown before anything is written. */
export interface PreviewInputs extends LoadedAsset {
  destination: Destination;
  choices?: HandoffChoices;
  /** Small copies of images that are kept anyway. */
  decode?(path: string): Promise<PixelBuffer>;
}

/** Side of the copies on which conversions are tried. */
const SKETCH_SIZE = 16;

/**
 * Every file that a handoff would write, from which sources and how large, and what will be lost. Materials
 * that must be converted first are converted on small copies, so that their images are told as they will be.
 * Throws what settling the choices throws.
 */
export async function previewHandoff(inputs: PreviewInputs): Promise<HandoffPreview> {
  const { source, state, images, read, decode } = inputs;
  const destination = resolveChoices(inputs.destination, inputs.choices);
  const name = cleanName(source.name, 'asset');
  const prepared = await prepare({ source, state, images, read }, destination, {
    sketch: { maxSize: SKETCH_SIZE, decode },
  });
  const plan = planFor(prepared, destination, name);
  const { origins } = prepared;
  const sizes = new Map(prepared.images.map((image) => [image.path, image]));
  const maps = plan.images.map((image) => previewMap(image, sizes, origins));
  const inside = carriesMaps(destination);
  const models = modelFiles(
    { source, state },
    destination,
    name,
    inside ? maps.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0) : 0,
  );
  return {
    destination: { id: destination.id, title: destination.title, summary: destination.summary },
    variant: destination.variant,
    patched: plan.patched,
    files: [
      ...models,
      ...(inside ? maps.map((map) => ({ ...map, path: `${map.path} (inside)` })) : maps),
      ...sky(destination),
      ...sheets(destination, name),
    ],
    changes: [...plan.prepared, ...(plan.patched ? [] : geometryChanges(destination, source.counts))],
    losses: lossesInWords([...plan.losses, ...formatLosses(source, destination, plan)]),
    notes: destination.notes,
  };
}

function carriesMaps({ variant, embed, format }: ResolvedDestination): boolean {
  return variant === 'glb' || variant === 'usdz' || (embed && format === 'fbx');
}

function previewMap(
  image: PlannedImage,
  images: ReadonlyMap<string, ParcelImage>,
  origins: ReadonlyMap<string, string[]>,
): PreviewFile {
  const { width, height, copyOf, components } = image;
  const copied = copyOf ? images.get(copyOf)?.size : undefined;
  return {
    path: pathInPackage({ folder: image.folder, pattern: image.file }),
    kind: 'map',
    bytes: copied ?? aboutBytes(image, images, origins),
    exact: copied !== undefined,
    image: {
      width,
      height,
      depth: kindInWords(plannedKind(image)),
      copied: copyOf !== null,
      components: components.map((component, i) => previewComponent(component, 'rgba'[i], origins)),
    },
  };
}

/** `PNG, 8 bit`, `EXR, half`. */
function kindInWords({ type, depth }: ImageKind): string {
  return `${type.toUpperCase()}, ${typeof depth === 'number' ? `${depth} bit` : depth}`;
}

/** Names the parcel's own images where a component comes from one that is made on the way. */
function previewComponent(
  source: ComponentSource,
  component: string,
  origins: ReadonlyMap<string, string[]>,
): PreviewComponent {
  const from = source.from === 'image' ? origins.get(source.path) : undefined;
  if (from) {
    const text = `${channelInWords(source.channel)} computed from ${from.map(fileName).join(' and ')}`;
    return { component, text, brief: text, file: null };
  }
  return {
    component,
    text: componentInWords(source),
    brief: componentInBrief(source, component),
    file: source.from === 'image' ? fileName(source.path) : null,
  };
}

const BYTES = { 8: 1, 16: 2, half: 2, float: 4 } as const;

/**
 * As well packed as what it is made from: bytes per number of the sources, times the numbers that are
 * written.
 */
function aboutBytes(
  { width, height, map, components }: PlannedImage,
  images: ReadonlyMap<string, ParcelImage>,
  origins: ReadonlyMap<string, string[]>,
): number {
  const raw = width * height * components.length * BYTES[map.depth];
  if (map.type === 'tga') return raw;
  const paths = new Set(
    components.flatMap((component) =>
      component.from === 'image' ? (origins.get(component.path) ?? [component.path]) : [],
    ),
  );
  let [stored, plain] = [0, 0];
  for (const path of paths) {
    const image = images.get(path);
    if (!image?.info) continue;
    stored += image.size;
    plain += image.info.width * image.info.height * image.info.components * (image.info.bitDepth / 8);
  }
  return Math.round(raw * Math.min(1, plain > 0 ? stored / plain : 0.5));
}

/**
 * Bytes per corner of a face, as the writers pack the harbour's lantern, buoy and kit; they differ by up to a
 * half with how much repeats.
 */
const CORNER_BYTES: Record<string, number> = {
  glb: 13,
  gltf: 13,
  fbx: 10,
  obj: 40,
  usda: 68,
  usdc: 18,
  usdz: 18,
};

function modelFiles(
  { source, state }: { source: AssetSource; state: AssetState },
  destination: ResolvedDestination,
  asset: string,
  carried: number,
): PreviewFile[] {
  const { variant, split, names } = destination;
  const corners = source.counts.triangles + 2 * source.counts.polygons;
  const model = (path: string, share: number): PreviewFile => ({
    path,
    kind: 'model',
    bytes: Math.round(share * (corners * CORNER_BYTES[variant] + 4000) + carried),
    exact: false,
    image: null,
  });
  const named = createNamer();
  const parts = splitNames(source, state, split);
  const files = (parts ?? ['']).map((part) =>
    model(
      `${named(fillName(names.file, { asset, part }, 'asset'), 'asset')}.${variant}`,
      1 / Math.max(1, parts?.length ?? 1),
    ),
  );
  if (variant === 'gltf') files.push({ ...model(`${asset}.bin`, 1), bytes: corners * CORNER_BYTES.gltf });
  if (variant === 'obj') files.push({ ...model(`${asset}.mtl`, 1), bytes: state.materials.length * 200 });
  return files;
}

/** Names of the parts that get files of their own; null for one file. */
function splitNames(
  { nodes, facesPerMaterial }: AssetSource,
  { materials }: AssetState,
  split: Destination['split'],
): string[] | null {
  if (split === 'one') return null;
  if (split === 'materials')
    return materials.filter(({ key }) => (facesPerMaterial[key] ?? 0) > 0).map(({ name }) => name);
  const isPart = nodes.map(({ kind, polygons }) => kind === 'mesh' && polygons > 0);
  if (split === 'nodes') return nodes.filter((_, i) => isPart[i]).map(({ name }) => name);
  const groups = groupsOf(
    nodes.map(({ parent }) => parent),
    isPart,
  );
  return [...new Set(groups.filter((_, i) => isPart[i]))].map((group) => nodes[group].name);
}

/** The picture of the environment that goes along. */
function sky({ stage, folder }: ResolvedDestination): PreviewFile[] {
  if (!stage?.environment) return [];
  return [
    {
      path: pathInPackage({ folder, pattern: plannedSky(stage.environment) }),
      kind: 'map',
      bytes: null,
      exact: false,
      image: null,
    },
  ];
}

function sheets({ materialX, takeoff }: ResolvedDestination, asset: string): PreviewFile[] {
  const sheet = (path: string): PreviewFile => ({
    path,
    kind: 'sheet',
    bytes: null,
    exact: false,
    image: null,
  });
  return [
    ...(materialX ? [`${asset}.mtlx`] : []),
    ...(takeoff ? ['takeoff.csv'] : []),
    'README.html',
    'handoff.json',
    'receipt.json',
  ].map(sheet);
}

/** What the format has no place for, told from what the model holds. */
function formatLosses(
  { counts, uvSets }: AssetSource,
  { format, stage }: ResolvedDestination,
  plan: HandoffPlan,
): Loss[] {
  if (plan.patched) return [];
  const dome = !!stage?.environment;
  const losses: Record<DestinationFormat, [boolean, Loss['code']][]> = {
    obj: [
      [counts.clips > 0, 'obj.motion'],
      [counts.skins > 0, 'obj.skins'],
      [counts.cameras > 0, 'obj.cameras'],
      [counts.lights > 0 || dome, 'obj.lights'],
      [uvSets.length > 1, 'obj.uvSets'],
    ],
    usd: [[counts.clips > 1, 'usd.clips']],
    fbx: [[dome, 'fbx.dome']],
    gltf: [[dome, 'gltf.lights']],
  };
  return [
    ...losses[format].flatMap(([there, code]) => (there ? [{ code }] : [])),
    ...(format === 'usd'
      ? plan.materials.filter(isOpaqueInUsd).map(({ key }): Loss => ({ code: 'usd.blend', material: key }))
      : []),
  ];
}

function isOpaqueInUsd({ shading, inputs: { opacity } }: PlannedMaterial): boolean {
  return shading.alphaMode !== 'opaque' && !(opacity && saysClear(opacity));
}
