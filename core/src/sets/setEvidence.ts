import type { AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import type { FactsByHash } from '../asset/collectFacts.ts';
import { parseWrittenPath } from '../links/writtenPath.ts';
import { classifyNames, type NameOptions } from '../maps/classifyName.ts';
import { remember } from '../remember.ts';
import type { ChannelName, Material } from '../scene/material.ts';
import { answerFor, answerSource, type SetAnswer } from './answers.ts';
import {
  identityWords,
  isDefaultName,
  type Likeness,
  likenessOf,
  type NameSide,
  nameIndex,
  nameSide,
  type ReadName,
  readName,
} from './identity.ts';
import type { ImageSet } from './imageSet.ts';
import { layoutFit } from './uvEvidence.ts';

/** What speaks for a set being a material's. */
export interface SetEvidence {
  set: ImageSet;
  /** The names' part, in 0..1. */
  name: number;
  /** The layout's part, in -1..1; null where it cannot tell. */
  layout: number | null;
  /** The set's name says more than the material's. */
  narrower: boolean;
  /** All together; about 1 and more for what is plain. */
  score: number;
  reasons: string[];
}

/** Materials, sets, and what speaks for a set belonging to a material. */
export interface MatchInputs extends NameOptions {
  source: AssetSource;
  state: AssetState;
  sets: readonly ImageSet[];
  files: ReadonlyMap<string, ParcelImage>;
  facts: FactsByHash;
  /** What people answered before. */
  answers?: readonly SetAnswer[];
  /** The file that an image of the state is, or plainly will be; null while it is missing. */
  resolvedPath(key: string): string | null;
}

/** Weights of evidence; docs/evidence.md tells how they came about. */
const LAYOUT_WEIGHT = 0.3;
const FIT_WEIGHT = 0.08;
/** A set that another material reads already. */
const TAKEN = 0.25;
/** Images of other materials come from the same folder. */
const SAME_FOLDER = 0.12;
/** A person chose the very same before. */
const ANSWERED = 0.96;
const PART_NAME = 0.85;
const FOLDER_NAME = 0.96;

/** A name that stands for a material, and how much it counts. */
interface MaterialName {
  name: ReadName;
  weight: number;
  what: string;
}

/** A name that stands for a set: its words, its folder, or both. */
interface SetName {
  set: ImageSet;
  name: ReadName;
  factor: number;
  where: string;
}

/** Weighs all that speaks for a set being a material's. */
export interface Judge {
  (material: Material, set: ImageSet): SetEvidence;
  /** The sets whose names are like a material's at all. */
  alike(material: Material): ReadonlyMap<ImageSet, Likeness>;
  /** How like one set's name is, in 0..1; cheaper than looking for all. */
  nameLikeness(material: Material, set: ImageSet): number;
}

/** Gathers once what all pairs share. */
export function createJudge(
  inputs: MatchInputs,
  sets: readonly ImageSet[],
  taken: ReadonlySet<ImageSet>,
): Judge {
  const { source, state, resolvedPath, answers = [] } = inputs;
  const assetWords = new Set(identityWords(source.name));
  const materialSide = nameSide(
    state.materials.map(({ name }) => identityWords(name)),
    assetWords,
  );
  const namesOf = materialNames(inputs, materialSide, assetWords);
  const setNames = namesOfSets(sets, assetWords);
  const mayBeLike = nameIndex(setNames.map(({ name }) => name));
  const likeSets = remember((key: string) => likeliest(namesOf(key), setNames, mayBeLike));
  const askedOf = remember((material: Material) => askedChannels(material, resolvedPath));
  const origin = answerSource(source);
  const homes = new Set([...taken].map(({ folder }) => folder));
  const judge = (material: Material, set: ImageSet): SetEvidence => {
    const reasons: string[] = [];
    let best = likeSets(material.key).get(set) ?? UNLIKE;
    const answered = answers.length > 0 ? answerFor(answers, origin, material.name, set) : null;
    if (answered === 'pair' && best.score < ANSWERED)
      best = {
        score: ANSWERED,
        reason: 'the same set was chosen for the same material before',
        narrower: false,
      };
    if (best.score > 0) reasons.push(best.reason);
    if (answered === 'folder') reasons.push(`images of the folder "${set.folder}" were chosen before`);
    const layout = layoutOf(material, set, inputs);
    if (layout !== null)
      reasons.push(`its images ${fitInWords(layout)} the UV layout (${layout.toFixed(2)})`);
    const near = (homes.has(set.folder) ? SAME_FOLDER : 0) + (answered ? SAME_FOLDER : 0);
    const fit = FIT_WEIGHT * channelFit(askedOf(material), set);
    const score = best.score + LAYOUT_WEIGHT * (layout ?? 0) + fit + near - (taken.has(set) ? TAKEN : 0);
    return { set, name: best.score, layout, narrower: best.narrower, score, reasons };
  };
  const namesOfSet = new Map<ImageSet, SetName[]>();
  for (const one of setNames) namesOfSet.set(one.set, [...(namesOfSet.get(one.set) ?? []), one]);
  return Object.assign(judge, {
    alike: (material: Material) => likeSets(material.key),
    nameLikeness: (material: Material, set: ImageSet) => {
      const scores = namesOf(material.key).flatMap(({ name, weight }) =>
        (namesOfSet.get(set) ?? []).map(
          ({ name: other, factor }) => likenessOf(name, other).score * weight * factor,
        ),
      );
      return Math.max(0, ...scores);
    },
  });
}

const UNLIKE: Likeness = { score: 0, reason: '', narrower: false };

function fitInWords(layout: number) {
  if (layout >= 0.2) return 'fit';
  return layout <= -0.2 ? 'belie' : 'say little of';
}

function namesOfSets(sets: readonly ImageSet[], assetWords: ReadonlySet<string>): SetName[] {
  const words = sets.map((set) => identityWords(set.words.join(' ')));
  const folders = sets.map((set) => identityWords((set.folderWords[0] ?? []).join(' ')));
  const [setSide, folderSide] = [nameSide(words, assetWords), nameSide(folders, assetWords)];
  return sets.flatMap((set, i): SetName[] => {
    const [nameWords, folder] = [words[i], folders[i]];
    const names: SetName[] = [];
    if (nameWords.length > 0)
      names.push({ set, name: readName(nameWords, setSide), factor: 1, where: `the set "${set.label}"` });
    // Where the folder is called like the asset it is no name for what lies in it under names of its own.
    const ofAsset = nameWords.length > 0 && folder.every((word) => assetWords.has(word));
    if (folder.length > 0 && !ofAsset)
      names.push({
        set,
        name: readName(folder, folderSide),
        factor: FOLDER_NAME,
        where: `the folder "${folder.join(' ')}"`,
      });
    if (nameWords.length > 0 && folder.length > 0) {
      const where = `folder and set "${folder.join(' ')} ${nameWords.join(' ')}"`;
      names.push({ set, name: readName([...folder, ...nameWords], setSide), factor: FOLDER_NAME, where });
    }
    return names;
  });
}

/** The best likeness of each set that is like a material at all. */
function likeliest(
  names: readonly MaterialName[],
  setNames: readonly SetName[],
  mayBeLike: (name: ReadName) => ReadonlySet<number>,
): Map<ImageSet, Likeness> {
  const best = new Map<ImageSet, Likeness>();
  for (const { name, weight, what } of names) {
    for (const index of mayBeLike(name)) {
      const { set, name: other, factor, where } = setNames[index];
      const like = likenessOf(name, other);
      const score = like.score * weight * factor;
      if (score <= (best.get(set)?.score ?? 0)) continue;
      best.set(set, { score, reason: `${what} and ${where}: ${like.reason}`, narrower: like.narrower });
    }
  }
  return best;
}

/**
 * All names that stand for each material: its own, those of the parts that only it covers, those of images it
 * wrote.
 */
function materialNames(
  inputs: MatchInputs,
  side: NameSide,
  assetWords: ReadonlySet<string>,
): (key: string) => readonly MaterialName[] {
  const names = new Map<string, MaterialName[]>();
  const partNames = partWords(inputs.source);
  const partSide = nameSide([...partNames.values()].flat(), assetWords);
  const written = writtenWords(inputs);
  const writtenSide = nameSide([...written.values()].flat(), assetWords);
  for (const { key, name } of inputs.state.materials) {
    const identity = identityWords(name);
    const list: MaterialName[] =
      isDefaultName(identity) && !/\d/.test(name)
        ? []
        : [{ name: readName(identity, side), weight: 1, what: `the material "${name}"` }];
    for (const words of partNames.get(key) ?? [])
      list.push({
        name: readName(words, partSide),
        weight: PART_NAME,
        what: `its part "${words.join(' ')}"`,
      });
    for (const words of written.get(key) ?? [])
      list.push({
        name: readName(words, writtenSide),
        weight: 1,
        what: `the images it names, "${words.join(' ')}"`,
      });
    names.set(key, list);
  }
  return (key) => names.get(key) ?? [];
}

/** More parts than this make no name for a material. */
const MOST_PARTS = 6;

/** Names of the parts that one material alone covers, by material. */
function partWords({ nodes }: AssetSource): Map<string, string[][]> {
  const parts = new Map<string, string[][]>();
  for (const { name, materials } of nodes) {
    if (materials?.length !== 1) continue;
    const words = identityWords(name);
    if (words.length === 0 || isDefaultName(words)) continue;
    const list = parts.get(materials[0]) ?? [];
    if (!list.some((other) => other.join(' ') === words.join(' '))) list.push(words);
    parts.set(materials[0], list);
  }
  for (const [key, list] of parts) if (list.length > MOST_PARTS) parts.delete(key);
  return parts;
}

/** What the sets of the missing images are called that each material wrote. */
function writtenWords({ state, house, resolvedPath }: MatchInputs): Map<string, string[][]> {
  const missing = state.images.filter(({ key }) => resolvedPath(key) === null);
  const paths = missing.map(({ written }) => parseWrittenPath(written).parts.join('/'));
  const classes = classifyNames(paths, { house });
  const setOf = new Map(
    missing.map(({ key }, i) => {
      const { set } = classes[i];
      const folder = parseWrittenPath(missing[i].written).parts.at(-2) ?? '';
      return [key, identityWords(set !== '' ? set : folder)];
    }),
  );
  const words = new Map<string, string[][]>();
  for (const { key, channels } of state.materials) {
    const wordsByKey = new Map<string, string[]>();
    for (const channel of Object.values(channels)) {
      const set = channel?.map && setOf.get(channel.map.image);
      if (set && set.length > 0) wordsByKey.set(set.join(' '), set);
    }
    if (wordsByKey.size > 0) words.set(key, [...wordsByKey.values()]);
  }
  return words;
}

/** The mean fit of the set's images to the material's layout; null where none can tell. */
function layoutOf(material: Material, set: ImageSet, { source, files, facts }: MatchInputs): number | null {
  const layout = source.uvLayouts?.[material.key];
  if (!layout) return null;
  const paths = new Set(set.members.map(({ map }) => map.path));
  let [sum, count] = [0, 0];
  for (const path of paths) {
    const pixelFacts = facts.get(files.get(path)?.sha256 ?? '');
    const fit = pixelFacts ? layoutFit(layout, pixelFacts) : null;
    if (fit === null) continue;
    sum += fit;
    count += 1;
  }
  return count > 0 ? sum / count : null;
}

/** Channels whose image the material names and that is missing. */
function askedChannels(material: Material, resolvedPath: MatchInputs['resolvedPath']): ChannelName[] {
  return Object.entries(material.channels).flatMap(([channel, { map }]) =>
    map && resolvedPath(map.image) === null ? [channel as ChannelName] : [],
  );
}

/** Share of what the material asks for that the set has, in 0..1; 0.5 where it asks for nothing. */
function channelFit(asked: readonly ChannelName[], set: ImageSet): number {
  if (asked.length === 0) return 0.5;
  const has = new Set(set.members.map(({ reading }) => reading.channel));
  const met = asked.filter(
    (channel) => has.has(channel) || (channel === 'roughness' && has.has('glossiness')),
  );
  return met.length / asked.length;
}
