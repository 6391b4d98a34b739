import type {
  AssetState,
  Edit,
  ParcelImage,
  SlotAddress,
  SlotChange,
  WorkflowChange,
} from '../asset/asset.ts';
import { assignmentsOf } from '../asset/formMaterials.ts';
import type { MapReading } from '../maps/classifyName.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import {
  type ChannelName,
  COLOUR_CHANNELS,
  COMPONENTS,
  type Component,
  defaultComponent,
  defaultSpace,
  type Material,
} from '../scene/material.ts';
import type { Suggestion } from '../sets/suggest.ts';

/** What edits of slots are made from: the state, and what is known of its images. */
export interface SlotKnowledge {
  state: AssetState;
  images: readonly ParcelImage[];
  detected: readonly DetectedMap[];
  /** Images of sets that are their material's beyond doubt, for slots that are empty. */
  fills: readonly Suggestion[];
  /** Materials whose images are painted for another shading model than theirs. */
  workflows: readonly WorkflowChange[];
}

const BY_HAND = { from: 'hand' as const, detail: 'slot board' };

/**
 * Puts one image into every given slot, each with the component, inversion, tag and direction that the image
 * has for that channel, or that the channel usually has.
 */
export function assignEdit(
  slots: readonly SlotAddress[],
  image: string,
  view: Pick<SlotKnowledge, 'detected' | 'images'>,
): Edit {
  const detectedMap = view.detected.find((map) => map.path === image);
  const floating = view.images.find((file) => file.path === image)?.info?.floating ?? false;
  return {
    kind: 'assignSlots',
    assignments: slots.map((slot) => {
      const reading = detectedMap?.readings.find((reading) => reading.channel === slot.channel);
      const inverse =
        slot.channel === 'roughness' &&
        detectedMap?.readings.length === 1 &&
        detectedMap.readings[0].channel === 'glossiness';
      const colour = COLOUR_CHANNELS.has(slot.channel);
      const seen =
        colour && detectedMap && detectedMap.space !== 'data' && detectedMap.space !== 'unknown'
          ? detectedMap.space
          : null;
      return {
        ...slot,
        image,
        component: reading?.component ?? defaultComponent(slot.channel),
        invert: reading?.invert ?? inverse,
        space: seen ?? (colour && floating ? 'lin_rec709_scene' : defaultSpace(slot.channel)),
        normalY: reading?.normalY ?? 'Y+',
      };
    }),
    origin: BY_HAND,
  };
}

/** Empties slots. */
export function clearEdit(slots: SlotAddress[]): Edit {
  return { kind: 'clearSlots', slots, origin: BY_HAND };
}

/** Changes how slots read their images. */
export function adjustEdit(slots: SlotAddress[], change: SlotChange): Edit {
  return { kind: 'adjustSlots', slots, change, origin: BY_HAND };
}

/** Gives slots a value. */
export function valueEdit(slots: SlotAddress[], value: number | [number, number, number]): Edit {
  return { kind: 'setValues', slots, value, origin: BY_HAND };
}

/** Those of the slots that have a map. */
export function withMap(slots: readonly SlotAddress[], materials: readonly Material[]): SlotAddress[] {
  return slots.filter(
    ({ material, channel }) => materials.find((other) => other.key === material)?.channels[channel]?.map,
  );
}

/** Those of the slots that hold anything. */
export function notEmpty(slots: readonly SlotAddress[], materials: readonly Material[]): SlotAddress[] {
  return slots.filter(
    ({ material, channel }) => materials.find((other) => other.key === material)?.channels[channel],
  );
}

/** The component after this one, round and round; a normal map is read whole. */
export function nextComponent(component: Component, channel: ChannelName): Component {
  const order = channel === 'normal' ? (['rgb'] as const) : COMPONENTS;
  return order[(order.indexOf(component as never) + 1) % order.length];
}

/**
 * One edit that assigns every image of a set that is its material's beyond doubt; null when none fits an open
 * slot.
 */
export function assignByNameEdit(view: Pick<SlotKnowledge, 'fills' | 'workflows'>): Edit | null {
  const { fills, workflows } = view;
  if (fills.length === 0) return null;
  return {
    kind: 'assignSlots',
    assignments: fills.map(
      ({ reason: _reason, setReason: _set, confidence: _confidence, missing: _missing, ...assignment }) =>
        assignment,
    ),
    ...(workflows.length > 0 ? { workflows: [...workflows] } : {}),
    origin: { from: 'evidence', detail: 'words in the names, and pixels' },
  };
}

/** Usual places of a packed image whose name does not spell its order. */
const USUAL: MapReading[] = (['occlusion', 'roughness', 'metalness'] as const).map((channel, i) => ({
  channel,
  component: (['r', 'g', 'b'] as const)[i],
  invert: false,
  normalY: null,
}));

/**
 * Splits the slot's image over the channels that its name spells, else occlusion, roughness and metalness;
 * null without an image.
 */
export function splitEdit(
  slot: SlotAddress,
  view: Pick<SlotKnowledge, 'state' | 'images' | 'detected'>,
): Edit | null {
  const map = view.state.materials.find((material) => material.key === slot.material)?.channels[slot.channel]
    ?.map;
  const path = map && view.state.images.find((image) => image.key === map.image)?.resolved;
  const file = path ? view.images.find((image) => image.path === path) : undefined;
  if (!path || !file?.info || file.info.components < 3) return null;
  const detectedMap = view.detected.find((candidate) => candidate.path === path);
  const readings = detectedMap?.packed ? detectedMap.readings : USUAL;
  const stays = readings.some((reading) => reading.channel === slot.channel);
  return {
    kind: 'assignSlots',
    assignments: readings.map(({ channel, component, invert }) => ({
      material: slot.material,
      channel,
      image: path,
      component,
      invert,
      space: defaultSpace(channel),
      normalY: 'Y+',
    })),
    ...(stays ? {} : { clears: [slot] }),
    origin: {
      from: detectedMap?.packed ? 'evidence' : 'hand',
      detail: detectedMap?.packed ? detectedMap.evidence[0] : 'split in the usual order',
    },
  };
}

/** Images for one material, each in the channels that it seems to be for. */
export function assignImagesEdit(
  material: string,
  paths: readonly string[],
  view: Pick<SlotKnowledge, 'detected'>,
): Edit | null {
  const maps = view.detected.filter((map) => paths.includes(map.path));
  const assignments = assignmentsOf(material, maps);
  return assignments.length > 0
    ? { kind: 'assignSlots', assignments, origin: { from: 'hand', detail: 'dropped on the material' } }
    : null;
}
