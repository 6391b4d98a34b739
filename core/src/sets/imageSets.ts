import type { ParcelImage } from '../asset/asset.ts';
import type { FactsByHash } from '../asset/collectFacts.ts';
import { tileOfPath } from '../links/tiles.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import { type MapReading, plainReading } from '../maps/nameSpans.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import { folderOf } from '../parcel/fileSource.ts';
import { splitWords } from '../scene/channelWords.ts';
import { CHANNELS, type ChannelName } from '../scene/material.ts';
import { joinNameless } from './joinNameless.ts';

/** One image of a set, for one channel. */
export interface SetMember {
  map: DetectedMap;
  reading: MapReading;
  /** Of the image for this channel, in 0..1. */
  confidence: number;
}

/** Images that belong to one material, by their names and folders. */
export interface ImageSet {
  /** Stable while the files are the same. */
  id: string;
  /** What people call it: its common words, else its folder. */
  label: string;
  /** Words that the names share. */
  words: readonly string[];
  folder: string;
  /** Words of the folders above the images, the nearest folder's first; folders that only say "images" are left out. */
  folderWords: readonly (readonly string[])[];
  /** At most one a channel, in the order of the channels. */
  members: readonly SetMember[];
  /** Equal for sets of the very same images. */
  content: string;
  /** Nothing but its name speaks for its being a base colour: one image, and no word for a channel. */
  guess: boolean;
  /** Images of the set that gave way: smaller copies, the other direction of a normal, the other shading model. */
  spare: readonly DetectedMap[];
}

export interface SetInputs {
  /** Images that may be chosen: readable, own, no converted copies. */
  maps: readonly DetectedMap[];
  files: ReadonlyMap<string, ParcelImage>;
  facts: FactsByHash;
}

interface Group {
  folder: string;
  set: string;
  maps: DetectedMap[];
  variant: string;
}

/** Folders that say no more than that images lie in them. */
const PLAIN_FOLDER =
  /^(tex|texs|texture|textures|map|maps|image|images|img|imgs|material|materials|mats|source|sourceimages|assets?|export|exports|png|jpg|tga|tif|tiff|exr|embedded|files?|\d{1,2}k|\d{3,5}|v\d+)$/;

/** Groups images into sets. Copies and lesser versions of one image give way to the best of them. */
export function formSets({ maps, files, facts }: SetInputs): ImageSet[] {
  const groups = new Map<string, Group>();
  for (const map of maps) {
    if (map.helper || !isFirstTile(map.path, files)) continue;
    const folder = folderOf(map.path);
    const key = `${folder}\n${map.set}`;
    const group = groups.get(key) ?? { folder, set: map.set, maps: [], variant: '' };
    groups.set(key, group);
    group.maps.push(map);
  }
  const look = { hashOf: (path: string) => files.get(path)?.sha256, factsOf: (path: string) => factsOf(path, files, facts) };
  const sets = mergeFolders([...groups.values()], look)
    .flatMap((group) => splitVersions(group, look))
    .map((group) => setOf(group, look));
  return joinNameless(sets, look);
}

/** Looks up what is known of an image's content. */
interface Look {
  hashOf(path: string): string | undefined;
  factsOf(path: string): PixelFacts | null;
}

function factsOf(path: string, files: ReadonlyMap<string, ParcelImage>, facts: FactsByHash): PixelFacts | null {
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

/**
 * Images of one name in several folders are one set where each folder adds channels, and stay apart where two folders
 * have the same channel: those are rivals, unless they hold the same files.
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
    if (same.length === 1 || same.some((one) => same.some((other) => other !== one && overlap(one, other)))) return [group];
    return group === same[0] ? [{ ...group, maps: same.flatMap(({ maps }) => maps) }] : [];
  });
}

function overlap(first: Group, second: Group): boolean {
  const channels = channelsOf(first.maps);
  return [...channelsOf(second.maps)].some((channel) => channels.has(channel));
}

/** The same files in another folder, or the same images at another size. */
function isCopyOf(group: Group, other: Group, { hashOf, factsOf: facts }: Look): boolean {
  return group.maps.every((map) =>
    other.maps.some((twin) => hashOf(twin.path) === hashOf(map.path) || (twin.telling === map.telling && looksAlike(facts(twin.path), facts(map.path)))),
  );
}

/** Sketches of one image at two sizes differ by less than this, in 8-bit codes on the mean. */
const ALIKE = 5;

/** True where two images show the same, at any size. */
export function looksAlike(a: PixelFacts | null, b: PixelFacts | null): boolean {
  if (!a || !b) return false;
  const [first, second] = [atob(a.sketch), atob(b.sketch)];
  const length = Math.min(first.length, second.length);
  let sum = 0;
  for (let i = 0; i < length; i += 1) sum += Math.abs(first.charCodeAt(i) - second.charCodeAt(i));
  return sum / length < ALIKE;
}

/**
 * Versions of one set that lie side by side and show different things are rivals: `hull_v1_color`, `hull_v2_color`. Each
 * becomes a set; what has no version belongs to all of them.
 */
function splitVersions(group: Group, look: Look): Group[] {
  const versionOf = (map: DetectedMap) => map.marks.filter((mark) => /^v\d+$|^(final|copy)$|^\(\d+\)$/.test(mark)).join(' ');
  const versions = new Set(group.maps.map(versionOf));
  if (versions.size < 2) return [group];
  const clash = group.maps.some((map) =>
    group.maps.some(
      (other) =>
        versionOf(other) !== versionOf(map) &&
        other.telling === map.telling &&
        look.hashOf(other.path) !== look.hashOf(map.path) &&
        !looksAlike(look.factsOf(other.path), look.factsOf(map.path)),
    ),
  );
  if (!clash) return [group];
  return [...versions].sort().map((version) => {
    const own = group.maps.filter((map) => versionOf(map) === version);
    const taken = channelsOf(own);
    const shared = group.maps.filter((map) => versionOf(map) === '' && !map.readings.some(({ channel }) => taken.has(channel)));
    return { ...group, maps: version === '' ? own : [...own, ...shared], variant: version };
  });
}

function setOf({ folder, set, maps, variant }: Group, look: Look): ImageSet {
  const best = new Map<ChannelName, SetMember>();
  const spare: DetectedMap[] = [];
  const model = shadingModelOf(maps);
  const ordered = [...maps].sort((a, b) => preference(b, model, look) - preference(a, model, look) || (a.path < b.path ? -1 : 1));
  for (const map of ordered) {
    if (isOtherModel(map, model)) {
      spare.push(map);
      continue;
    }
    let placed = false;
    for (const reading of map.readings) {
      const channel = reading.channel;
      const rival = best.get(channel);
      if (rival && rival.map !== map) {
        // The diffuse of the shading model that was not taken is no rival of the base colour.
        const other = model !== null && DIFFUSE.test(map.telling);
        if (!other && isDoubtful(rival.map, map, look)) rival.confidence = Math.min(rival.confidence, DOUBT);
        continue;
      }
      best.set(channel, { map, reading, confidence: map.confidence });
      placed = true;
    }
    if (!placed && map.readings.length > 0) spare.push(map);
  }
  const guess = best.size === 0 && maps.length === 1 && !maps[0].contradicted;
  // The one image of a set that says nothing may be its colour, where no other is.
  const unread = maps.filter(({ readings }) => readings.length === 0);
  if (!guess && !best.has('baseColor') && unread.length === 1)
    best.set('baseColor', { map: unread[0], reading: plainReading('baseColor'), confidence: GUESSED });
  if (guess) best.set('baseColor', { map: maps[0], reading: plainReading('baseColor'), confidence: GUESSED });
  const members = [...best.values()].sort((a, b) => CHANNELS.indexOf(a.reading.channel) - CHANNELS.indexOf(b.reading.channel));
  const content = members
    .map(({ map, reading }) => `${reading.channel} ${reading.component} ${look.hashOf(map.path)}`)
    .sort()
    .join('\n');
  const folders = folder.split('/').reverse();
  const folderWords = folders.flatMap((name) => (name === '' || PLAIN_FOLDER.test(name.toLowerCase()) ? [] : [splitWords(name)]));
  const words = set === '' ? [] : set.split(' ');
  const label = [words.join(' ') || folderWords[0]?.join(' ') || folder || 'images', variant].filter(Boolean).join(' ');
  return { id: [folder, set, variant].join('|'), label, words, folder, folderWords, members, content, guess, spare };
}

const DOUBT = 0.6;
/** One image, named like a material, and no word for a channel. */
const GUESSED = 0.6;

/** Two images claim one channel, and neither is a copy, a size or a direction of the other. */
function isDoubtful(first: DetectedMap, second: DetectedMap, { hashOf, factsOf: facts }: Look): boolean {
  if (hashOf(first.path) === hashOf(second.path) || looksAlike(facts(first.path), facts(second.path))) return false;
  if (first.packed !== second.packed) return false;
  const [a, b] = [first.readings[0], second.readings[0]];
  if (a.channel === 'normal' && b.channel === 'normal' && a.normalY !== b.normalY) return false;
  return first.confidence - second.confidence < 0.1;
}

type ShadingModel = 'metalRough' | 'specGloss' | null;

/** Of two shading models side by side metal/rough is taken; null where there is no choice. */
function shadingModelOf(maps: readonly DetectedMap[]): ShadingModel {
  const channels = channelsOf(maps);
  const metal = channels.has('metalness');
  const gloss = channels.has('specularColor') && channels.has('glossiness');
  return metal && gloss ? 'metalRough' : null;
}

const DIFFUSE = /^(diffuse|diff|dif|dfs|diffusion)/;

/** Images of the shading model that was not taken. */
function isOtherModel({ readings, telling }: DetectedMap, model: ShadingModel): boolean {
  if (model === null) return false;
  return readings.every(({ channel }) => channel === 'specularColor' || channel === 'glossiness') && telling !== '';
}

/** The larger, the better: sure before doubtful, packed before plain, large before small, Y+ before Y-. */
function preference(map: DetectedMap, model: ShadingModel, { factsOf: facts }: Look): number {
  const found = facts(map.path);
  const size = found ? Math.log2(Math.max(1, found.width * found.height)) / 100 : 0;
  const [reading] = map.readings;
  const direction = reading?.channel === 'normal' && reading.normalY === 'Y+' ? 0.05 : 0;
  const diffuse = model === 'metalRough' && DIFFUSE.test(map.telling) ? -0.5 : 0;
  return Number(map.packed) + map.confidence + size + direction + diffuse - (map.contradicted ? 1 : 0);
}
