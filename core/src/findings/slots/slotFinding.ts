import type { SlotAddress, SlotAssignment, WorkflowChange } from '../../asset/asset.ts';
import { SURE_ENOUGH } from '../../maps/detectMaps.ts';
import { servedReading } from '../../maps/servedReading.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import { type ChannelName, type Component, defaultComponent, defaultSpace } from '../../scene/material.ts';
import type { Finding, FindingText } from '../finding.ts';
import type { FindingContext } from '../findingContext.ts';
import type { MappedSlot } from './mappedSlot.ts';

/** A finding about one slot. */
export function slotFinding(
  { material, channel, entry }: MappedSlot,
  text: FindingText & Pick<Finding, 'step'>,
): Finding {
  return {
    ...text,
    key: `${text.code}:${material.key}:${channel}`,
    subject: material.key,
    target: { material: material.key, channel, image: entry.key },
  };
}

/** Where a mapped slot is, without what is in it. */
export function addressOf({ material, channel }: MappedSlot): SlotAddress {
  return { material: material.key, channel };
}

/** How the slot reads, in words: `hull_ao.png feeds roughness of Hull paint`. */
export function slotInWords({ material, channel, file, entry }: MappedSlot): string {
  return `${file?.path ?? entry.written} feeds ${channelInWords(channel)} of ${material.key}`;
}

/** The slot's image in another channel of the same material. */
export function assignmentTo(
  slot: MappedSlot,
  channel: ChannelName,
  change: Partial<SlotAssignment> = {},
): SlotAssignment {
  const component: Component = slot.map.component === 'luminance' ? 'luminance' : defaultComponent(channel);
  return {
    material: slot.material.key,
    channel,
    image: slot.file?.path ?? '',
    component,
    invert: false,
    space: slot.detected?.space === 'unknown' || !slot.detected ? 'data' : slot.detected.space,
    normalY: 'Y+',
    ...change,
  };
}

/** The slot's image in the same slot, without what it is multiplied by. */
export function asItIs(slot: MappedSlot): SlotAssignment {
  const { component, invert, space, normalY } = slot.map;
  return assignmentTo(slot, slot.channel, { component, invert, space, normalY });
}

/** True when a channel of the material has no image that is there. */
export function isOpenSlot(context: FindingContext, material: string, channel: ChannelName): boolean {
  return !context.slots.some(
    (slot) => slot.material.key === material && slot.channel === channel && slot.file,
  );
}

/** The image of the same set that the slot asks for, where there is one; glossiness serves roughness, inverted. */
export function ownMap(slot: MappedSlot, context: FindingContext): SlotAssignment | null {
  const { channel, material, file } = slot;
  const served = (context.setOf(file?.path)?.members ?? []).map(({ map, reading, confidence }) => ({
    path: map.path,
    confidence,
    reading: servedReading(reading, material.workflow),
  }));
  const own = served.find(({ reading }) => reading.channel === channel);
  if (!own || own.path === file?.path || own.confidence < SURE_ENOUGH) return null;
  const { component, invert } = own.reading;
  return {
    ...assignmentTo(slot, channel, { component, invert, space: defaultSpace(channel) }),
    image: own.path,
  };
}

/** Channels that have an image of their own wherever one was made. */
const OWN_IMAGE: ReadonlySet<ChannelName> = new Set([
  'roughness',
  'metalness',
  'occlusion',
  'glossiness',
  'specularColor',
  'emission',
]);

/**
 * The image that a slot should read instead of one that is named after another channel and feeds that as well:
 * it is of the same set, and nothing reads it.
 */
export function unreadOwn(slot: MappedSlot, context: FindingContext): SlotAssignment | null {
  const { channel, named, material, entry, detected, content } = slot;
  const says = named?.readings[0]?.channel;
  // A value of 0 takes the image back.
  if (!says || says === channel || !OWN_IMAGE.has(channel) || content.value === 0) return null;
  if (named.confidence < SURE_ENOUGH || !detected || detected.packed || detected.contradicted) return null;
  const feeds = context.slots.some(
    (other) => other.material === material && other.entry === entry && other.channel === says,
  );
  const own = feeds ? ownMap(slot, context) : null;
  const isRead = context.slots.some(
    ({ file, map }) => file?.path === own?.image && map.component === own?.component,
  );
  return isRead ? null : own;
}

/** Channels that classic materials have for want of others; exporters put there what has no slot. */
const CLASSIC: ReadonlySet<ChannelName> = new Set(['specularColor', 'specular', 'glossiness']);
/** So many images of one set, each of a channel of its own, are no chance. */
const LEAST_TELLING = 3;

/**
 * Whether an image in a classic slot is beyond doubt what its name says, since it is one of a set whose names
 * all do.
 */
export function isOfTellingSet({ channel, detected }: MappedSlot, context: FindingContext): boolean {
  if (!CLASSIC.has(channel) || !detected || detected.contradicted || detected.confidence < SURE_ENOUGH)
    return false;
  const sure = context.setOf(detected.path)?.members.filter(({ confidence }) => confidence >= SURE_ENOUGH);
  const paths = new Set(sure?.map(({ map }) => map.path));
  return paths.has(detected.path) && paths.size >= LEAST_TELLING;
}

/** The change of the shading model that comes with metalness for a material of another; none for others. */
export function workflowsFor(
  { material }: MappedSlot,
  channels: readonly ChannelName[],
): { workflows?: WorkflowChange[] } {
  if (material.workflow === 'metalRough' || !channels.includes('metalness')) return {};
  return { workflows: [{ material: material.key, workflow: 'metalRough', exponent: material.exponent }] };
}
