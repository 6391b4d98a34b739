import type { SlotAssignment } from '../../asset/asset.ts';
import { SURE_ENOUGH } from '../../maps/detectMaps.ts';
import { fileName } from '../../parcel/fileSource.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { Material } from '../../scene/material.ts';
import type { ImageSet } from '../../sets/imageSet.ts';
import type { Namesake } from '../../sets/namesakes.ts';
import type { Finding, FindingText } from '../finding.ts';
import type { FindingContext } from '../findingContext.ts';
import type { MappedSlot } from './mappedSlot.ts';
import { assignmentTo, slotFinding, slotInWords } from './slotFinding.ts';

/** A slot that reads an image of another set than its material's own, which has one for it. */
interface Stray {
  slot: MappedSlot;
  set: ImageSet;
  ownSet: ImageSet;
  assignment: SlotAssignment;
  evidence: string[];
}

/** So many other slots of a material read one set where that is what it is painted by. */
const MOST_OF_IT = 2;
/** By so much more another set's images may fit the layout than those that the names speak for. */
const BETTER_LAYOUT = 0.5;

/**
 * Images of another set than the material's own: that whose images most of its slots read, or that which it is
 * called like. Several slots that read one other set are told as one.
 */
export function strayFindings(context: FindingContext): Finding[] {
  const groups = new Map<string, Stray[]>();
  for (const stray of findStrays(context)) {
    const key = [stray.slot.material.key, stray.set.id, stray.ownSet.id].join('\n');
    groups.set(key, [...(groups.get(key) ?? []), stray]);
  }
  return [...groups.values()].map((strays) => strayFinding(strays, context));
}

function findStrays(context: FindingContext): Stray[] {
  const pathsOf = new Map<Material, string[]>();
  for (const { material, file } of context.slots)
    if (file) pathsOf.set(material, [...(pathsOf.get(material) ?? []), file.path]);
  const { namesakes } = context.settlement().matching;
  const called = new Set([...namesakes.values()].map(({ set }) => set));
  return context.slots.flatMap((slot): Stray[] => {
    const { material, file } = slot;
    const set = context.setOf(file?.path);
    if (!set || context.verdictOf(slot) !== null) return [];
    const namesake = namesakes.get(material.key);
    if (namesake?.set === set) return [];
    if (namesake && isOnlyAnswer(namesake, set, called)) {
      const assignment = counterpart(slot, namesake.set);
      if (assignment) return [{ slot, set, ownSet: namesake.set, assignment, evidence: [namesake.reason] }];
    }
    const counts = new Map<ImageSet, Set<string>>();
    for (const path of pathsOf.get(material) ?? []) {
      const other = context.setOf(path);
      if (other && other !== set) counts.set(other, (counts.get(other) ?? new Set()).add(path));
    }
    for (const [ownSet, { size }] of counts) {
      const assignment = size < MOST_OF_IT ? null : counterpart(slot, ownSet);
      const evidence = [`${size} other slots of ${material.key} read images of ${ownSet.label}`];
      if (assignment) return [{ slot, set, ownSet, assignment, evidence }];
    }
    return [];
  });
}

/** `hull snow` may be meant for `hull`, unless it is what another material is called; and layouts may say otherwise. */
function isOnlyAnswer(namesake: Namesake, set: ImageSet, called: ReadonlySet<ImageSet>): boolean {
  const read = namesake.evidenceFor(set);
  if (read.narrower && read.name > 0 && !called.has(set)) return false;
  return (read.layout ?? 0) - (namesake.evidenceFor(namesake.set).layout ?? 0) < BETTER_LAYOUT;
}

/** The image of the material's own set for what a slot reads of another; null where there is none. */
function counterpart(slot: MappedSlot, { members }: ImageSet): SlotAssignment | null {
  const { channel, file, detected, map } = slot;
  const readings = detected?.readings ?? [];
  const served = readings.find((reading) => reading.channel === channel);
  // What is read besides, such as the alpha of colours, lies where it lies in the other image.
  const asked = served?.channel ?? readings[0]?.channel;
  const member = members.find(({ reading }) => reading.channel === asked);
  if (!member || member.confidence < SURE_ENOUGH || member.map.path === file?.path) return null;
  const space = member.map.space === 'unknown' ? ('data' as const) : member.map.space;
  const change = served
    ? { component: member.reading.component, invert: member.reading.invert, space }
    : { component: map.component, invert: map.invert, space: map.space };
  const normalY = member.reading.normalY ?? ('Y+' as const);
  return { ...assignmentTo(slot, channel, { ...change, normalY }), image: member.map.path };
}

function strayFinding(strays: readonly Stray[], context: FindingContext): Finding {
  const [{ slot, set, ownSet, assignment, evidence }] = strays;
  const { key } = slot.material;
  const readers = readersOf(
    strays.map((stray) => stray.assignment.image),
    context,
  ).filter((reader) => reader !== key);
  const [owner] = readers;
  const text = {
    code: 'slot.contradiction',
    step: 'slots',
    severity: 'warning',
    evidence: [
      ...evidence,
      ...strays.map(
        (stray) =>
          `${channelInWords(stray.slot.channel)}: ${stray.slot.file?.path} is read, ${stray.assignment.image} is of ${ownSet.label}`,
      ),
      ...(owner ? [`${ownSet.label} is read by ${readers.join(', ')}`] : []),
    ],
    mend: {
      kind: 'assignSlots',
      assignments: strays.map((stray) => stray.assignment),
      origin: { from: 'evidence', detail: evidence[0] },
    },
    safe: false,
  } satisfies Partial<FindingText> & { step: 'slots' };
  if (strays.length === 1) {
    const rest = owner ? `is read by ${owner}` : 'lies unread';
    return slotFinding(slot, {
      ...text,
      title: 'An image of another set',
      message: `${slotInWords(slot)}; ${assignment.image}, of its own set ${ownSet.label}, ${rest}.`,
      mendLabel: `Use ${fileName(assignment.image)}`,
    });
  }
  const rest = owner ? `are read by ${owner}` : 'lie unread';
  return {
    ...text,
    key: ['slot.contradiction', key, set.id, ownSet.id].join(':'),
    title: 'Images of another set',
    subject: key,
    message: `${key} reads ${set.label} in ${strays.length} slots; the images of its own set ${ownSet.label} ${rest}.`,
    mendLabel: `Use ${ownSet.label}`,
    target: { material: key, channel: slot.channel, image: slot.entry.key },
  };
}

/** Materials that read any of these files, each once. */
function readersOf(paths: readonly string[], { slots }: FindingContext): string[] {
  const wanted = new Set(paths);
  return [
    ...new Set(slots.flatMap(({ material, file }) => (file && wanted.has(file.path) ? material.key : []))),
  ];
}
