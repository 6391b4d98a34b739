import type { AssetImage } from '../asset/asset.ts';
import type { Part } from '../asset/parts.ts';
import type { Finding } from '../findings/finding.ts';
import type { FindingContext } from '../findings/findingContext.ts';
import { writtenName } from '../links/writtenPath.ts';
import { fileName } from '../parcel/fileSource.ts';
import { createMatcher, type Matcher } from '../pattern.ts';
import { intakeSize } from '../scene/intake.ts';
import type { ChannelName, MapUse, Material, NormalDirection } from '../scene/material.ts';
import { mergeBounds } from '../scene/measure.ts';
import { parseComparison } from './comparison.ts';
import type { Conditions, OneOrMore } from './rulebook.ts';

/** A slot that reads an image. */
export interface TargetSlot {
  material: Material;
  channel: ChannelName;
  map: MapUse;
  entry: AssetImage | undefined;
}

/** What of an asset a rule is about. */
export interface Targets {
  slots: TargetSlot[];
  materials: { material: Material; groups: string[] }[];
  parts: { part: Part; groups: string[] }[];
  findings: Finding[];
  /** Files that a rule names, whether slots read them or not; worked out on demand. */
  files(): NamedImage[];
}

/** A file of the parcel, and the material that it belongs to. */
export interface NamedImage {
  path: string;
  material: Material;
  /** Which way it points if it holds normals, by its pixels, else by its name. */
  normalY: NormalDirection;
}

/** Reads a pattern or a list: what the first that fits has for its wildcards, or null. */
function matcherOf(patterns: OneOrMore | undefined): Matcher {
  if (patterns === undefined) return () => [];
  const matchers = [patterns].flat().map(createMatcher);
  return (name) => {
    for (const matches of matchers) {
      const captures = matches(name);
      if (captures) return captures;
    }
    return null;
  };
}

function testOf(comparisons: OneOrMore | undefined): (value: number) => boolean {
  if (comparisons === undefined) return () => true;
  const tests = [comparisons].flat().map(parseComparison);
  return (value) => tests.some((test) => test(value));
}

/** Whether the asset as a whole is one that a rule is about. */
export function meetsAsset(
  when: Conditions,
  { source, state, parts }: FindingContext,
  parcel: string,
): boolean {
  const any = (patterns: OneOrMore | undefined, ...names: string[]) => {
    const matches = matcherOf(patterns);
    return names.some((name) => matches(name) !== null);
  };
  if (
    !any(when.asset, source.name) ||
    !any(when.parcel, parcel) ||
    !any(when.file, source.model, fileName(source.model))
  )
    return false;
  if (!any(when.format, source.format) || !any(when.writtenBy, source.generator)) return false;
  if (when.size === undefined) return true;
  const bounds = mergeBounds(
    parts()
      .filter(({ dropped }) => !dropped)
      .map((part) => part.bounds),
  );
  if (!bounds) return false;
  return testOf(when.size)(
    Math.max(...Object.values(intakeSize(bounds, source.upAxis, source.metresPerUnit, state.intake))),
  );
}

/** All that meets a rule's conditions; what a condition speaks of narrows everything that belongs to it. */
export function targetsOf(when: Conditions, context: FindingContext, findings: readonly Finding[]): Targets {
  const { state } = context;
  const material = matcherOf(when.material);
  const all = context.parts().filter(({ dropped }) => !dropped);
  const named = partsMeeting(when, all);
  const byParts = when.part !== undefined || when.group !== undefined;
  const onParts = new Set(named.flatMap(({ part }) => part.slots));
  const candidates = state.materials.flatMap((eachMaterial) => {
    const groups = material(eachMaterial.name) ?? material(eachMaterial.key);
    return groups && (!byParts || onParts.has(eachMaterial.key)) ? [{ material: eachMaterial, groups }] : [];
  });
  const slots = candidates.flatMap((candidate) => slotsOf(candidate.material, when, context));
  const bySlots = when.image !== undefined || when.space !== undefined || when.confidence !== undefined;
  const ofSlots = new Set(slots.map((slot) => slot.material.key));
  const byChannel = matcherOf(when.channel);
  const hasChannel = ({ channels }: Material) =>
    when.channel === undefined || Object.keys(channels).some((name) => byChannel(name) !== null);
  const materials = candidates.filter((candidate) =>
    bySlots ? ofSlots.has(candidate.material.key) : hasChannel(candidate.material),
  );
  const keys = new Set(materials.map((material) => material.material.key));
  const byMaterial = when.material !== undefined || when.channel !== undefined || bySlots;
  const parts = named.filter(({ part }) => !byMaterial || part.slots.some((key) => keys.has(key)));
  const fits = matcherOf(when.finding);
  const met = findings.filter(
    (finding) =>
      fits(finding.code) !== null &&
      meetsFinding(finding, when, { context, slots, keys, parts, byParts, byMaterial }),
  );
  const files = () => namedImages(when, context, candidates);
  const targets = { slots, materials, parts, findings: met, files };
  return when.finding === undefined ? targets : narrowed(targets, met);
}

/**
 * Whether every condition is met by something, so that what concerns the asset as a whole is done where it
 * should be.
 */
export function isAbout(
  { part, group, material, image, channel, space, confidence, finding }: Conditions,
  targets: Targets,
): boolean {
  if (finding !== undefined) return targets.findings.length > 0;
  if ((part ?? group) !== undefined && targets.parts.length === 0) return false;
  if ((image ?? space ?? confidence) !== undefined && targets.slots.length === 0) return false;
  return (material ?? channel) === undefined || targets.materials.length > 0;
}

/**
 * Files that fit what a rule calls an image: of the only material that it is about, else of the one whose set
 * they are. Where it asks for what a slot alone can tell, there are none.
 */
function namedImages(
  { image, channel, space, confidence, finding }: Conditions,
  context: FindingContext,
  candidates: Targets['materials'],
): NamedImage[] {
  if (image === undefined || [channel, space, confidence, finding].some((asked) => asked !== undefined))
    return [];
  const fits = matcherOf(image);
  const named = context.own.filter(({ path, info }) => info && fits(fileName(path)) !== null);
  if (named.length === 0) return [];
  const directionOf = (path: string): NormalDirection =>
    context.factsOf(path)?.direction?.direction ?? context.named.get(path)?.readings[0]?.normalY ?? 'Y+';
  const matches = candidates.length === 1 ? [] : context.settlement().matching.matches;
  const ownerOf = (path: string): Material | undefined => {
    if (candidates.length === 1) return candidates[0].material;
    const set = context.setOf(path);
    const match = set && matches.find((each) => each.set.id === set.id);
    return candidates.find(({ material }) => material.key === match?.material)?.material;
  };
  return named.flatMap(({ path }) => {
    const material = ownerOf(path);
    return material ? [{ path, material, normalY: directionOf(path) }] : [];
  });
}

function partsMeeting({ part, group }: Conditions, all: readonly Part[]): Targets['parts'] {
  const [fits, below] = [matcherOf(part), matcherOf(group)];
  const byKey = new Map(all.map((part) => [part.key, part]));
  return all.flatMap((part) => {
    // A key that counts tells those of one name apart.
    const groups = fits(part.name) ?? (part.key.startsWith(`${part.name} (`) ? fits(part.key) : null);
    if (!groups) return [];
    if (group === undefined) return [{ part: part, groups }];
    for (let above = byKey.get(part.parent ?? ''); above; above = byKey.get(above.parent ?? ''))
      if (below(above.name)) return [{ part: part, groups }];
    return [];
  });
}

function slotsOf(
  material: Material,
  { image, channel, space, confidence }: Conditions,
  { state, detected }: FindingContext,
): TargetSlot[] {
  const [byImage, byChannel, bySpace, sure] = [
    matcherOf(image),
    matcherOf(channel),
    matcherOf(space),
    testOf(confidence),
  ];
  return Object.entries(material.channels).flatMap(([name, content]): TargetSlot[] => {
    if (!content?.map || byChannel(name) === null || bySpace(content.map.space) === null) return [];
    const entry = state.images.find(({ key }) => key === content.map?.image);
    const file = entry?.resolved
      ? fileName(entry.resolved)
      : writtenName(entry?.written ?? content.map.image);
    if (byImage(file) === null) return [];
    if (confidence !== undefined && !sure(detected.get(entry?.resolved ?? '')?.confidence ?? 0)) return [];
    return [{ material, channel: name as ChannelName, map: content.map, entry }];
  });
}

interface Found extends Pick<Targets, 'slots' | 'parts'> {
  context: FindingContext;
  keys: ReadonlySet<string>;
  byParts: boolean;
  byMaterial: boolean;
}

/** Whether a finding is about what the other conditions speak of. */
function meetsFinding(
  finding: Finding,
  { channel, confidence, image, space }: Conditions,
  { context, slots, keys, parts, byParts, byMaterial }: Found,
): boolean {
  const { target, subject } = finding;
  const material =
    target.material ?? (context.state.materials.some(({ key }) => key === subject) ? subject : undefined);
  if (
    byParts &&
    !parts.some(
      ({ part }) =>
        part.key === target.part ||
        (target.part === undefined && material !== undefined && part.slots.includes(material)),
    )
  )
    return false;
  if (channel !== undefined && target.channel !== undefined && matcherOf(channel)(target.channel) === null)
    return false;
  if (confidence !== undefined && !testOf(confidence)(confidenceOf(finding, context))) return false;
  if (image !== undefined || space !== undefined) {
    const entry = context.state.images.find(({ key }) => key === target.image);
    const byName =
      image !== undefined &&
      matcherOf(image)(fileName(entry?.resolved ?? writtenName(entry?.written ?? target.image ?? ''))) !==
        null;
    const bySlot = slots.some(
      (slot) =>
        slot.material.key === material && (target.channel === undefined || slot.channel === target.channel),
    );
    return bySlot || (byName && space === undefined);
  }
  if (!byMaterial || confidence !== undefined)
    return !byMaterial || material === undefined || keys.size === 0 || keys.has(material);
  return material !== undefined ? keys.has(material) : usesImage(target.image, slots);
}

/**
 * How sure a finding is: of a missing image its best candidate, of others what the image is; else whether one
 * outcome is clear.
 */
function confidenceOf({ target, safe }: Finding, context: FindingContext): number {
  const read = context.slots.find(
    (slot) => slot.material.key === target.material && slot.channel === target.channel,
  );
  const entry = context.state.images.find(({ key }) => key === target.image) ?? read?.entry;
  if (entry?.status === 'missing') return context.candidatesOf(entry)[0]?.score ?? 0;
  const knownDetectedMap = context.detected.get(entry?.resolved ?? target.image ?? '');
  return knownDetectedMap?.confidence ?? (safe ? 1 : 0);
}

function usesImage(image: string | undefined, slots: readonly TargetSlot[]): boolean {
  return (
    image !== undefined && slots.some(({ map, entry }) => map.image === image || entry?.resolved === image)
  );
}

/** Only what the findings are about. */
function narrowed({ slots, materials, parts, files }: Targets, findings: readonly Finding[]): Targets {
  const about = (test: (finding: Finding) => boolean) => findings.some(test);
  return {
    findings: [...findings],
    files,
    slots: slots.filter(({ material, channel, map }) =>
      about(({ target, subject }) =>
        target.material === undefined
          ? target.image === map.image || subject === map.image
          : target.material === material.key && (target.channel ?? channel) === channel,
      ),
    ),
    materials: materials.filter(({ material }) =>
      about(({ target, subject }) => (target.material ?? subject) === material.key),
    ),
    parts: parts.filter(({ part }) => about(({ target }) => target.part === part.key)),
  };
}
