import { tagWord } from '../../colour/dialects.ts';
import type { Destination } from '../../destinations/profile.ts';
import { lossesInWords } from '../../scene/loss.ts';
import {
  type AlphaMode,
  type ChannelName,
  type ColourSpace,
  type Component,
  type Rgb,
  VECTOR_CHANNELS,
  type Workflow,
} from '../../scene/material.ts';
import type { TakeoffRow } from '../../shape/takeoff.ts';
import { writtenHeight } from '../plan/heights.ts';
import type { HandoffPlan, PlannedMaterial } from '../plan/plan.ts';
import { type ImageKind, plannedKind } from '../plan/planImage.ts';
import { colourWords, componentInWords } from '../words.ts';
import { feedsOf, pathInPackage } from './destinationDocument.ts';

/** One channel that an image of the package feeds. */
export interface SheetChannel {
  channel: ChannelName;
  component: Component;
  inverted: boolean;
}

/** An image of the package in a slot, with everything that a receiver needs to know to read it. */
export interface SheetMap {
  /** Path in the package; `<UDIM>` stands for the numbers of tiles. */
  file: string;
  /**
   * The colour space for people, by our name, and in the destination's own words (null where it has none).
   */
  colour: string;
  space: ColourSpace;
  tag: string | null;
  depth: string;
  channels: SheetChannel[];
  /** What each component was made from, in words. */
  from: Record<string, string>;
  /** A palette: texels are to be read one by one, and not compressed. */
  palette: boolean;
}

/** What the receiver must know of one material, since formats cannot say all of it. */
export interface SheetMaterial {
  /** The asset's own material. */
  key: string;
  name: string;
  /** Its number, where materials were given numbers; absent for one without. */
  number?: number;
  /** Names of its copies, where every part has one of its own. */
  copies: string[];
  shading: Workflow;
  alpha: { mode: AlphaMode; cutoff: number };
  doubleSided: boolean;
  /** Value per channel; with a map it multiplies what the map says. */
  values: Partial<Record<ChannelName, number | Rgb>>;
  /** Channels whose value multiplies a map. */
  mapped: ChannelName[];
  height: { amount: number; unit: string; mid: number } | null;
  maps: SheetMap[];
}

/** The sheet for the receiver as plain JSON; {@link sheetPage} makes a page of it to read and print. */
export interface Sheet {
  handoff: 2;
  asset: string;
  destination: { id: string; title: string; summary: string };
  /** The destination as it was settled, so that the package can be made again and held against. */
  profile?: Destination;
  /** Model files of the package. */
  models: string[];
  upAxis: string;
  metresPerUnit: number;
  normalY: 'Y+' | 'Y-';
  notes: string[];
  losses: string[];
  prepared: string[];
  /** What the format has no words for; the tables of the materials tell it. */
  unsaid: string[];
  materials: SheetMaterial[];
  takeoff: TakeoffRow[];
}

/** What the sheet tells besides the plan. */
export interface SheetExtras {
  models: string[];
  /** Copies of materials by the key of the first. */
  copies?: ReadonlyMap<string, string[]>;
  takeoff?: TakeoffRow[];
  /** Numbers of materials by key. */
  numbers?: Readonly<Record<string, number>>;
  /** Metres per unit of the scene that heights were given in. */
  sceneMetres: number;
  /** Longest side of the whole, in metres. */
  longest: number;
  /** Of a source file that was changed itself: its own axes and unit. */
  stated?: { upAxis: string; metresPerUnit: number };
}

/** The sheet of a package, in the shape of `handoff.json`. */
export function createSheet(plan: HandoffPlan, asset: string, extras: SheetExtras): Sheet {
  const { id, title, summary, upAxis, metresPerUnit, normalY, notes } = plan.destination;
  return {
    handoff: 2,
    asset,
    destination: { id, title, summary },
    models: extras.models,
    profile: plan.destination,
    upAxis: extras.stated?.upAxis ?? upAxis,
    metresPerUnit: extras.stated?.metresPerUnit ?? metresPerUnit,
    normalY,
    notes,
    losses: lossesInWords(plan.losses),
    prepared: [...plan.prepared],
    unsaid: lossesInWords(plan.unsaid),
    materials: plan.materials.map((material) => sheetMaterial(material, plan, extras)),
    takeoff: extras.takeoff ?? [],
  };
}

function sheetMaterial(
  planned: PlannedMaterial,
  { destination, images: all, patched }: HandoffPlan,
  extras: SheetExtras,
): SheetMaterial {
  const { key, name, inputs, source, shading, images } = planned;
  const patterns = [...new Set(Object.values(images).flatMap((image) => (image ? [image.pattern] : [])))];
  const maps = patterns.flatMap((pattern): SheetMap[] => {
    const image = all.find((plannedImage) => plannedImage.pattern === pattern);
    if (!image) return [];
    return [
      {
        file: pathInPackage(image),
        colour: colourWords(image.map.space),
        space: image.map.space,
        tag: tagWord(image.map.space, destination.dialect),
        depth: depthInWords(plannedKind(image)),
        channels: patched
          ? readAsSource(planned, pattern)
          : feedsOf(image).map(({ channel, component, invert }) => ({
              channel,
              component,
              inverted: invert,
            })),
        from: Object.fromEntries(
          image.components.map((component, i) => ['rgba'[i], componentInWords(component)]),
        ),
        // Another material may read the same image smoothly.
        palette: Object.values(images).some(
          (own) => own?.pattern === pattern && own.use.filter === 'nearest',
        ),
      },
    ];
  });
  const mapped = [...new Set(maps.flatMap(({ channels }) => channels.map(({ channel }) => channel)))];
  // Where the format has no factors of scalars, they are in the pixels.
  const isInPixels = (channel: ChannelName) =>
    !patched && destination.format !== 'gltf' && !VECTOR_CHANNELS.has(channel) && mapped.includes(channel);
  return {
    key,
    name,
    ...(extras.numbers?.[key] === undefined ? {} : { number: extras.numbers[key] }),
    copies: extras.copies?.get(key) ?? [],
    shading: patched ? source.workflow : (destination.writeAs ?? destination.workflow),
    alpha: { mode: source.alphaMode, cutoff: source.alphaCutoff },
    doubleSided: source.doubleSided,
    values: {
      ...Object.fromEntries(
        Object.entries(inputs).flatMap(([channel, input]) =>
          input && !SHAPE.has(channel) && !(channel === 'glossiness' && inputs.roughness)
            ? [[channel, input.map && isInPixels(channel as ChannelName) ? 1 : input.value]]
            : [],
        ),
      ),
      ...(shading.transmission.value > 0
        ? { transmission: isInPixels('transmission') ? 1 : shading.transmission.value, ior: shading.ior }
        : {}),
    },
    mapped,
    height: heightFor(planned, maps, destination, extras),
    maps,
  };
}

/** In a source file that was changed itself, images are read as the source reads them. */
function readAsSource({ images }: PlannedMaterial, pattern: string): SheetChannel[] {
  return Object.entries(images).flatMap(([name, image]) =>
    image?.pattern === pattern
      ? [{ channel: name as ChannelName, component: image.use.component, inverted: image.use.invert }]
      : [],
  );
}

/** What moves the surface is told apart. */
const SHAPE = new Set(['normal', 'height', 'bump']);

function heightFor(
  { inputs: { height } }: PlannedMaterial,
  maps: SheetMap[],
  destination: HandoffPlan['destination'],
  { sceneMetres, longest }: SheetExtras,
): SheetMaterial['height'] {
  if (!height?.map || !maps.some(({ channels }) => channels.some(({ channel }) => channel === 'height')))
    return null;
  const { amount, mid } = writtenHeight(height, destination);
  const metres = amount * sceneMetres;
  switch (destination.heightUnit) {
    case 'metres':
      return { amount: metres, unit: 'm', mid };
    case 'share':
      return { amount: longest > 0 ? metres / longest : 0, unit: 'of the longest side', mid };
    default:
      return {
        amount: metres / destination.metresPerUnit,
        unit: `units of ${destination.metresPerUnit} m`,
        mid,
      };
  }
}

function depthInWords({ depth }: ImageKind): string {
  return typeof depth === 'number' ? `${depth} bits` : depth;
}
