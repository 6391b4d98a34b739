import type { ParcelImage } from '../asset/asset.ts';
import type { FactsByHash } from '../asset/collectFacts.ts';
import { tileOfPath } from '../links/tiles.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import { plainReading } from '../maps/nameSpans.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import { folderOf } from '../parcel/fileSource.ts';
import { splitWords } from '../scene/channelWords.ts';
import { CHANNELS, type ChannelName } from '../scene/material.ts';
import type { ImageSet, PaintedModel, SetMember } from './imageSet.ts';
import { joinNameless } from './joinNameless.ts';

/** Images from which sets are made, with what is known of them. */
export interface SetInputs {
  /** Images that may be chosen: readable, own, no converted copies. */
  maps: readonly DetectedMap[];
  files: ReadonlyMap<string, ParcelImage>;
  facts: FactsByHash;
  /** Which of two shading models side by side is taken; metal/rough unless told. */
  prefers?: PaintedModel;
}

interface Group {
  folder: string;
  set: string;
  maps: DetectedMap[];
  variant: string;
  /** Of deliveries in two folders, one for each shading model: which image is whose. */
  models?: ReadonlyMap<string, PaintedModel>;
}

/** Folders that say no more than that images lie in them. */
const PLAIN_FOLDER =
  /^(tex|texs|texture|textures|map|maps|image|images|img|imgs|material|materials|mats|source|sourceimages|assets?|export|exports|png|jpg|tga|tif|tiff|exr|embedded|files?|\d{1,2}k|\d{3,5}|v\d+)$/;

/** Groups images into sets. Copies and lesser versions of one image give way to the best of them. */
export function formSets({ maps, files, facts, prefers = 'metalRough' }: SetInputs): ImageSet[] {
  const groups = new Map<string, Group>();
  for (const map of maps) {
    if (map.helper || !isFirstTile(map.path, files)) continue;
    const folder = folderOf(map.path);
    const key = `${folder}\n${map.set}`;
    const group = groups.get(key) ?? { folder, set: map.set, maps: [], variant: '' };
    groups.set(key, group);
    group.maps.push(map);
  }
  const look = {
    hashOf: (path: string) => files.get(path)?.sha256,
    factsOf: (path: string) => factsOf(path, files, facts),
  };
  const sets = mergeFolders(mergeModels(mergeSisters(withoutSuperseded([...groups.values()]))), look)
    .flatMap((group) => splitVersions(group, look))
    .map((group) => withOther(group, look, prefers));
  return joinNameless(sets, look);
}

/** Looks up what is known of an image's content. */
interface Look {
  hashOf(path: string): string | undefined;
  factsOf(path: string): PixelFacts | null;
}

function factsOf(
  path: string,
  files: ReadonlyMap<string, ParcelImage>,
  facts: FactsByHash,
): PixelFacts | null {
  const file = files.get(path);
  return (file && facts.get(file.sha256)) ?? null;
}

/** Of a map in tiles only the first is offered; it stands for all. */
function isFirstTile(path: string, files: ReadonlyMap<string, ParcelImage>): boolean {
  const tile = tileOfPath(path);
  if (!tile || tile.number === 1001) return true;
  return !files.has(tile.pattern.replace('<UDIM>', tile.form === 'udim' ? '1001' : 'u1_v1'));
}

function channelsOf(maps: readonly DetectedMap[]): Set<ChannelName> {
  return new Set(maps.flatMap(({ readings }) => readings.map(({ channel }) => channel)));
}

/** Folders of what is not used any more. */
const OLD_FOLDER =
  /^_*(old|olds|obsolete|deprecated|outdated|superseded|bak|backup|backups|trash|unused)_*$/i;

/** What lies in a folder of old things gives way to what is called so elsewhere. */
function withoutSuperseded(groups: readonly Group[]): Group[] {
  const isOld = ({ folder }: Group) => folder.split('/').some((name) => OLD_FOLDER.test(name));
  const current = groups.filter((group) => !isOld(group));
  return groups.filter(
    (group) => !isOld(group) || !current.some((other) => other.set === group.set && overlap(other, group)),
  );
}

/**
 * Images of one name in sister folders that each hold another channel are one set of the folder above:
 * `drum/albedo/winch.png` and `drum/normal/winch.png`, beside those of `base`.
 */
function mergeSisters(groups: Group[]): Group[] {
  const families = new Map<string, Group[]>();
  for (const group of groups) {
    const key = `${folderOf(group.folder)}\n${group.set}`;
    families.set(key, [...(families.get(key) ?? []), group]);
  }
  return [...families.values()].flatMap((family) => {
    const [first] = family;
    const apart = family.some((group) => family.some((other) => other !== group && overlap(group, other)));
    if (first.set === '' || family.length === 1 || apart) return family;
    return [{ ...first, folder: folderOf(first.folder), maps: family.flatMap(({ maps }) => maps) }];
  });
}

/**
 * Images of one name in several folders are one set where each folder adds channels, and stay apart where two
 * folders have the same channel: those are rivals, unless they hold the same files.
 */
function mergeFolders(groups: Group[], look: Look): Group[] {
  const byName = new Map<string, Group[]>();
  const merged: Group[] = [];
  for (const group of groups) {
    const same = group.set === '' ? [] : (byName.get(group.set) ?? []);
    if (group.set !== '') byName.set(group.set, same);
    const copied = same.find((other) => isCopyOf(group, other, look));
    if (copied) {
      copied.maps.push(...group.maps);
      continue;
    }
    same.push(group);
    merged.push(group);
  }
  return merged.flatMap((group) => {
    const same = byName.get(group.set) ?? [group];
    if (
      same.length === 1 ||
      same.some((group) => same.some((other) => other !== group && overlap(group, other)))
    )
      return [group];
    return group === same[0] ? [{ ...group, maps: same.flatMap(({ maps }) => maps) }] : [];
  });
}

/**
 * One delivery for each shading model, in folders beside each other or under the same names: one group that
 * knows whose is what.
 */
function mergeModels(groups: Group[]): Group[] {
  const gone = new Set<Group>();
  const merged = groups.map((group) => {
    const paintedModel = deliveredFor(group.maps);
    const twins = groups.filter(
      (other) => other !== group && other.set === group.set && deliveredFor(other.maps) !== null,
    );
    const [twin] = twins;
    if (paintedModel !== 'metalRough' || twins.length !== 1 || deliveredFor(twin.maps) !== 'specGloss')
      return group;
    // Names that say nothing leave it to the folders, which lie side by side then.
    if (group.set === '' && folderOf(group.folder) !== folderOf(twin.folder)) return group;
    gone.add(twin);
    const models = new Map<string, PaintedModel>([
      ...group.maps.map(({ path }) => [path, paintedModel] as const),
      ...twin.maps.map(({ path }) => [path, 'specGloss'] as const),
    ]);
    return { ...group, maps: [...group.maps, ...twin.maps], models };
  });
  return merged.filter((_, i) => !gone.has(groups[i]));
}

/**
 * The shading model that a folder's images are painted for; null where they do not tell, or speak of both.
 */
function deliveredFor(maps: readonly DetectedMap[]): PaintedModel | null {
  const channels = channelsOf(maps);
  const [metal, gloss] = [channels.has('metalness'), channels.has('specularColor')];
  if (metal === gloss) return null;
  if (metal) return 'metalRough';
  return channels.has('roughness') ? null : 'specGloss';
}

function overlap(first: Group, second: Group): boolean {
  const channels = channelsOf(first.maps);
  return [...channelsOf(second.maps)].some((channel) => channels.has(channel));
}

/** The same files in another folder, or the same images at another size. */
function isCopyOf(group: Group, other: Group, { hashOf, factsOf: facts }: Look): boolean {
  return group.maps.every((map) =>
    other.maps.some(
      (twin) =>
        hashOf(twin.path) === hashOf(map.path) ||
        (twin.telling === map.telling && looksSame(facts(twin.path), facts(map.path))),
    ),
  );
}

/** Sketches of one image at two sizes differ by less than this, in 8-bit codes on the mean. */
const ALIKE = 5;

/** True where two images show the same, at any size. */
export function looksSame(a: PixelFacts | null, b: PixelFacts | null): boolean {
  if (!a || !b) return false;
  const [first, second] = [atob(a.sketch), atob(b.sketch)];
  const length = Math.min(first.length, second.length);
  let sum = 0;
  for (let i = 0; i < length; i += 1) sum += Math.abs(first.charCodeAt(i) - second.charCodeAt(i));
  return sum / length < ALIKE;
}

/**
 * Versions of one set that lie side by side and show different things are rivals: `hull_v1_color`,
 * `hull_v2_color`. Each becomes a set; what has no version belongs to all of them.
 */
function splitVersions(group: Group, look: Look): Group[] {
  const versionOf = (map: DetectedMap) =>
    map.marks.filter((mark) => /^v\d+$|^(final|copy)$|^\(\d+\)$/.test(mark)).join(' ');
  const versions = new Set(group.maps.map(versionOf));
  if (versions.size < 2) return [group];
  const clash = group.maps.some((map) =>
    group.maps.some(
      (other) =>
        versionOf(other) !== versionOf(map) &&
        other.telling === map.telling &&
        look.hashOf(other.path) !== look.hashOf(map.path) &&
        !looksSame(look.factsOf(other.path), look.factsOf(map.path)),
    ),
  );
  if (!clash) return [group];
  return [...versions].sort().map((version) => {
    const ownMaps = group.maps.filter((map) => versionOf(map) === version);
    const taken = channelsOf(ownMaps);
    const shared = group.maps.filter(
      (map) => versionOf(map) === '' && !map.readings.some(({ channel }) => taken.has(channel)),
    );
    return { ...group, maps: version === '' ? ownMaps : [...ownMaps, ...shared], variant: version };
  });
}

/** A set of the model that is preferred, with the other one beside it. */
function withOther(group: Group, look: Look, prefers: PaintedModel): ImageSet {
  if (!holdsBoth(group.maps)) return setOf(group, look, null);
  const other = prefers === 'metalRough' ? ('specGloss' as const) : ('metalRough' as const);
  const set = setOf(group, look, prefers);
  return { ...set, other: { ...setOf(group, look, other), id: `${set.id}|${other}` } };
}

function setOf(
  { folder, set, maps, variant, models }: Group,
  look: Look,
  model: PaintedModel | null,
): ImageSet {
  const best = new Map<ChannelName, SetMember>();
  const spare: DetectedMap[] = [];
  const ordered = [...maps].sort(
    (a, b) =>
      preference(b, model) - preference(a, model) ||
      versionNumber(b) - versionNumber(a) ||
      lodOf(a) - lodOf(b) ||
      pixelsOf(b, look) - pixelsOf(a, look) ||
      (a.path < b.path ? -1 : 1),
  );
  for (const map of ordered) {
    const painted = models?.get(map.path);
    if (model && painted && painted !== model) {
      spare.push(map);
      continue;
    }
    let placed = false;
    for (const reading of map.readings) {
      const channel = reading.channel;
      if (model && OF_THE_OTHER[model].has(channel)) continue;
      const rival = best.get(channel);
      if (rival && rival.map !== map) {
        // The diffuse of the shading model that was not taken is no rival of the base colour.
        const other = model !== null && (DIFFUSE.test(map.telling) || DIFFUSE.test(rival.map.telling));
        if (!other && isDoubtful(rival.map, map, look)) rival.confidence = Math.min(rival.confidence, DOUBT);
        continue;
      }
      best.set(channel, { map, reading, confidence: map.confidence });
      placed = true;
    }
    if (!placed && map.readings.length > 0) spare.push(map);
  }
  doubtHighlight(best);
  const guess = best.size === 0 && maps.length === 1 && !maps[0].contradicted;
  // The one image of a set that says nothing may be its colour, where no other is.
  const unread = maps.filter(({ readings }) => readings.length === 0);
  if (!guess && !best.has('baseColor') && unread.length === 1)
    best.set('baseColor', { map: unread[0], reading: plainReading('baseColor'), confidence: GUESSED });
  if (guess) best.set('baseColor', { map: maps[0], reading: plainReading('baseColor'), confidence: GUESSED });
  const members = [...best.values()].sort(
    (a, b) => CHANNELS.indexOf(a.reading.channel) - CHANNELS.indexOf(b.reading.channel),
  );
  const content = members
    .map(({ map, reading }) => `${reading.channel} ${reading.component} ${look.hashOf(map.path)}`)
    .sort()
    .join('\n');
  const folders = folder.split('/').reverse();
  const folderWords = folders.flatMap((name) =>
    name === '' || PLAIN_FOLDER.test(name.toLowerCase()) ? [] : [splitWords(name)],
  );
  const words = set === '' ? [] : set.split(' ');
  const label = [words.join(' ') || folderWords[0]?.join(' ') || folder || 'images', variant]
    .filter(Boolean)
    .join(' ');
  return {
    id: [folder, set, variant].join('|'),
    label,
    words,
    folder,
    folderWords,
    members,
    content,
    guess,
    spare,
    other: null,
  };
}

/** Metalness and roughness leave no place for a specular colour; what is called so may be meant otherwise. */
function doubtHighlight(best: ReadonlyMap<ChannelName, SetMember>): void {
  const highlight = best.get('specularColor');
  if (highlight && best.has('metalness') && best.has('roughness'))
    highlight.confidence = Math.min(highlight.confidence, DOUBT);
}

const DOUBT = 0.6;
/** One image, named like a material, and no word for a channel. */
const GUESSED = 0.6;

/** Two images claim one channel, and neither is a copy, a size or a direction of the other. */
function isDoubtful(first: DetectedMap, second: DetectedMap, { hashOf, factsOf: facts }: Look): boolean {
  if (hashOf(first.path) === hashOf(second.path) || looksSame(facts(first.path), facts(second.path)))
    return false;
  if (first.packed !== second.packed || lodOf(first) !== lodOf(second)) return false;
  const [a, b] = [first.readings[0], second.readings[0]];
  if (a.channel === 'normal' && b.channel === 'normal' && a.normalY !== b.normalY) return false;
  return first.confidence - second.confidence < 0.1;
}

const DIFFUSE = /^(diffuse|diff|dif|dfs|diffusion)/;

/** Channels that one shading model has and the other has no word for. */
const OF_THE_OTHER: Record<PaintedModel, ReadonlySet<ChannelName>> = {
  metalRough: new Set(['specularColor', 'glossiness']),
  specGloss: new Set(['metalness', 'roughness']),
};

/**
 * Painted for both shading models: metalness, and a specular colour with gloss or with a diffuse beside the
 * base colour.
 */
function holdsBoth(maps: readonly DetectedMap[]): boolean {
  const channels = channelsOf(maps);
  if (!channels.has('metalness') || !channels.has('specularColor')) return false;
  const bases = maps.filter(({ readings }) => readings.some(({ channel }) => channel === 'baseColor'));
  const diffuse = bases.filter(({ telling }) => DIFFUSE.test(telling)).length;
  return channels.has('glossiness') || (diffuse > 0 && diffuse < bases.length);
}

/** The larger, the better: sure before doubtful, packed before plain, Y+ before Y-. */
function preference(map: DetectedMap, model: PaintedModel | null): number {
  const [reading] = map.readings;
  const direction = reading?.channel === 'normal' && reading.normalY === 'Y+' ? 0.05 : 0;
  const diffuse = diffuseWeight(model, map);
  return Number(map.packed) + map.confidence + direction + diffuse - (map.contradicted ? 1 : 0);
}

/** The number behind the `v`; 0 where the name has none. */
function versionNumber({ marks }: DetectedMap): number {
  return Math.max(0, ...marks.map((mark) => Number(/^v(\d+)$/.exec(mark)?.[1] ?? 0)));
}

/** The level of detail that the name says, 0 being the finest; 0 where it says none. */
function lodOf({ marks }: DetectedMap): number {
  return Math.max(0, ...marks.map((mark) => Number(/^lod(\d)$/.exec(mark)?.[1] ?? 0)));
}

function pixelsOf({ path }: DetectedMap, { factsOf: facts }: Look): number {
  const pixelFacts = facts(path);
  return pixelFacts ? pixelFacts.width * pixelFacts.height : 0;
}

function diffuseWeight(model: PaintedModel | null, map: DetectedMap) {
  if (model !== null && DIFFUSE.test(map.telling)) return model === 'metalRough' ? -0.5 : 0.5;
  return 0;
}
