import type { AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import type { FactsByHash } from '../asset/collectFacts.ts';
import { parseWrittenPath } from '../links/writtenPath.ts';
import { classifyNames, type NameOptions } from '../maps/classifyName.ts';
import type { ChannelName, Material } from '../scene/material.ts';
import { answerFor, answerSource, type SetAnswer } from './answers.ts';
import { assignBest } from './assignment.ts';
import { identityWords, isDefaultName, type Likeness, likenessOf, type NameSide, nameSide } from './identity.ts';
import type { ImageSet } from './imageSets.ts';
import { layoutFit } from './uvEvidence.ts';

/** What speaks for a set being a material's. */
export interface SetEvidence {
  set: ImageSet;
  /** The names' part, in 0..1. */
  name: number;
  /** The layout's part, in -1..1; null where it cannot tell. */
  layout: number | null;
  /** All together; about 1 and more for what is plain. */
  score: number;
  reasons: string[];
}

export interface SetMatch extends SetEvidence {
  material: string;
  /** The asset has but this one material to dress, and the parcel but this one set. */
  only: boolean;
}

/** A material in doubt and the sets that may be meant, best first. */
export interface SetQuestion {
  material: string;
  candidates: SetEvidence[];
  /** The material has a set already; the question is about what it lacks. */
  partial: boolean;
}

export interface SetMatching {
  /** Sets that belong to a material beyond doubt; a material may have several that do not overlap. */
  matches: SetMatch[];
  questions: SetQuestion[];
}

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
/** Names this near speak for themselves where no rival comes near. */
const CLEAR_NAME = 0.55;
const CLEAR_LEAD = 0.1;
const FAIR_NAME = 0.38;
const FAIR_LEAD = 0.25;
/** The layout alone. */
const CLEAR_LAYOUT = 0.4;
const LAYOUT_LEAD = 0.06;
/** A layout that belies what names suggest. */
const BELIED = -0.3;
const LEAST_VALUE = 0.12;
const SHOWN_CANDIDATES = 6;

/** Matches sets of images and materials one to one, all of an asset together. */
export function matchSets(inputs: MatchInputs): SetMatching {
  const { state, sets } = inputs;
  const candidates = sets.filter(({ members }) => members.length > 0);
  const used = setsInUse(inputs);
  const matches: SetMatch[] = [];
  const rows: Material[] = [];
  for (const material of state.materials) {
    const own = used.get(material.key);
    if (own)
      for (const set of own)
        matches.push({ material: material.key, set, name: 1, layout: null, score: 2, reasons: ['the material reads images of it'], only: false });
    else if (isDressed(material, inputs)) rows.push(material);
  }
  const taken = new Set(matches.map(({ set }) => set));
  const judge = createJudge(inputs, candidates, taken);
  const evidence = rows.map((material) => candidates.map((set) => judge(material, set)));
  const { sure, open } = decide(rows, candidates, evidence, taken);
  matches.push(...sure);
  const doubtful = addSupplements(matches, state.materials, candidates, judge);
  const settled = new Set(matches.map(({ set }) => set));
  const questions = open.flatMap((row): SetQuestion[] => {
    const rivals = evidence[row].filter(({ set, name, score }) => !settled.has(set) || (name >= CLEAR_NAME && score > 0));
    if (!rivals.some(({ set }) => !settled.has(set))) return [];
    const best = [...rivals].sort((a, b) => b.score - a.score || (a.set.id < b.set.id ? -1 : 1)).slice(0, SHOWN_CANDIDATES);
    return [{ material: rows[row].key, candidates: best, partial: false }];
  });
  return { matches, questions: [...questions, ...doubtful] };
}

/** Sets whose images materials read already, by material. */
function setsInUse({ state, sets, resolvedPath }: MatchInputs): Map<string, ImageSet[]> {
  const setOfPath = new Map<string, ImageSet>();
  for (const set of sets) {
    for (const { map } of set.members) setOfPath.set(map.path, set);
    for (const { path } of set.spare) if (!setOfPath.has(path)) setOfPath.set(path, set);
  }
  const used = new Map<string, ImageSet[]>();
  for (const { key, channels } of state.materials) {
    const own = new Set<ImageSet>();
    for (const channel of Object.values(channels)) {
      const path = channel?.map && resolvedPath(channel.map.image);
      const set = path ? setOfPath.get(path) : undefined;
      if (set) own.add(set);
    }
    if (own.size > 0) used.set(key, [...own]);
  }
  return used;
}

/** Materials that faces use, or that name images: those that may want a set. */
function isDressed(material: Material, { source }: MatchInputs): boolean {
  const maps = Object.values(material.channels).some((channel) => channel?.map);
  return maps || (source.facesPerMaterial[material.key] ?? 0) > 0;
}

/** A name that stands for a material, and how much it counts. */
interface MaterialName {
  words: readonly string[];
  side: NameSide;
  weight: number;
  what: string;
}

type Judge = (material: Material, set: ImageSet) => SetEvidence;

function createJudge(inputs: MatchInputs, sets: readonly ImageSet[], taken: ReadonlySet<ImageSet>): Judge {
  const { source, state, facts, files, resolvedPath } = inputs;
  const assetWords = new Set(identityWords(source.name));
  const materialSide = nameSide(
    state.materials.map(({ name }) => identityWords(name)),
    assetWords,
  );
  const wordsOfSet = new Map(sets.map((set) => [set, identityWords(set.words.join(' '))]));
  const setSide = nameSide([...wordsOfSet.values()], assetWords);
  const folderNames = sets.map((set) => identityWords((set.folderWords[0] ?? []).join(' ')));
  const folderSide = nameSide(folderNames, assetWords);
  const namesOf = materialNames(inputs, materialSide, assetWords);
  const { answers = [] } = inputs;
  const origin = answerSource(source);
  const homes = new Set([...taken].map(({ folder }) => folder));
  return (material, set) => {
    const reasons: string[] = [];
    let best: Likeness = { score: 0, reason: '' };
    const own = wordsOfSet.get(set) ?? [];
    const folder = identityWords((set.folderWords[0] ?? []).join(' '));
    for (const { words, side, weight, what } of namesOf(material.key)) {
      const consider = (like: Likeness, factor: number, where: string) => {
        const score = like.score * weight * factor;
        if (score > best.score) best = { score, reason: `${what} and ${where}: ${like.reason}` };
      };
      consider(likenessOf(words, side, own, setSide), 1, `the set "${set.label}"`);
      if (folder.length === 0) continue;
      consider(likenessOf(words, side, folder, folderSide), FOLDER_NAME, `the folder "${folder.join(' ')}"`);
      if (own.length > 0) consider(likenessOf(words, side, [...folder, ...own], setSide), FOLDER_NAME, `folder and set "${folder.join(' ')} ${own.join(' ')}"`);
    }
    const answered = answerFor(answers, origin, material.name, set);
    if (answered === 'pair' && best.score < ANSWERED) best = { score: ANSWERED, reason: 'the same set was chosen for the same material before' };
    if (best.score > 0) reasons.push(best.reason);
    if (answered === 'folder') reasons.push(`images of the folder "${set.folder}" were chosen before`);
    const layout = layoutOf(material, set, source, files, facts);
    if (layout !== null) reasons.push(`its images ${layout >= 0.2 ? 'fit' : layout <= -0.2 ? 'belie' : 'say little of'} the UV layout (${layout.toFixed(2)})`);
    const fit = channelFit(material, set, resolvedPath);
    const near = (homes.has(set.folder) ? SAME_FOLDER : 0) + (answered ? SAME_FOLDER : 0);
    const score = best.score + LAYOUT_WEIGHT * (layout ?? 0) + FIT_WEIGHT * fit + near - (taken.has(set) ? TAKEN : 0);
    return { set, name: best.score, layout, score, reasons };
  };
}

/** All names that stand for each material: its own, those of the parts that only it covers, those of images it wrote. */
function materialNames(inputs: MatchInputs, side: NameSide, assetWords: ReadonlySet<string>): (key: string) => readonly MaterialName[] {
  const names = new Map<string, MaterialName[]>();
  const partNames = partWords(inputs.source);
  const partSide = nameSide([...partNames.values()].flat(), assetWords);
  const written = writtenWords(inputs);
  const writtenSide = nameSide([...written.values()].flat(), assetWords);
  for (const { key, name } of inputs.state.materials) {
    const own = identityWords(name);
    const list: MaterialName[] = isDefaultName(own) && !/\d/.test(name) ? [] : [{ words: own, side, weight: 1, what: `the material "${name}"` }];
    for (const words of partNames.get(key) ?? []) list.push({ words, side: partSide, weight: PART_NAME, what: `its part "${words.join(' ')}"` });
    for (const words of written.get(key) ?? []) list.push({ words, side: writtenSide, weight: 1, what: `the images it names, "${words.join(' ')}"` });
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
    const own = new Map<string, string[]>();
    for (const channel of Object.values(channels)) {
      const set = channel?.map && setOf.get(channel.map.image);
      if (set && set.length > 0) own.set(set.join(' '), set);
    }
    if (own.size > 0) words.set(key, [...own.values()]);
  }
  return words;
}

/** The mean fit of the set's images to the material's layout; null where none can tell. */
function layoutOf(material: Material, set: ImageSet, source: AssetSource, files: ReadonlyMap<string, ParcelImage>, facts: FactsByHash): number | null {
  const layout = source.uvLayouts?.[material.key];
  if (!layout) return null;
  const paths = new Set(set.members.map(({ map }) => map.path));
  let [sum, count] = [0, 0];
  for (const path of paths) {
    const found = facts.get(files.get(path)?.sha256 ?? '');
    const fit = found ? layoutFit(layout, found) : null;
    if (fit === null) continue;
    sum += fit;
    count += 1;
  }
  return count > 0 ? sum / count : null;
}

/** Share of what the material asks for that the set has, in 0..1; 0.5 where it asks for nothing. */
function channelFit(material: Material, set: ImageSet, resolvedPath: MatchInputs['resolvedPath']): number {
  const asked = Object.entries(material.channels).flatMap(([channel, { map }]) => (map && resolvedPath(map.image) === null ? [channel as ChannelName] : []));
  if (asked.length === 0) return 0.5;
  const has = new Set(set.members.map(({ reading }) => reading.channel));
  const met = asked.filter((channel) => has.has(channel) || (channel === 'roughness' && has.has('glossiness')));
  return met.length / asked.length;
}

/** The best assignment, and which of its pairs are beyond doubt; `open` are the rows that are not. */
function decide(
  rows: readonly Material[],
  sets: readonly ImageSet[],
  evidence: readonly (readonly SetEvidence[])[],
  taken: ReadonlySet<ImageSet>,
): { sure: SetMatch[]; open: number[] } {
  if (rows.length === 0 || sets.length === 0) return { sure: [], open: [] };
  const open = new Set(rows.keys());
  const free = new Set(sets.keys());
  const sure: SetMatch[] = [];
  const only = rows.length === 1 && sets.length === 1;
  const settle = (row: number, column: number, why?: string) => {
    const found = evidence[row][column];
    sure.push({ ...found, material: rows[row].key, reasons: why ? [...found.reasons, why] : found.reasons, only });
    open.delete(row);
    free.delete(column);
  };
  for (let round = 0; round <= rows.length; round += 1) {
    const left = [...open];
    const columns = [...free];
    if (left.length === 0 || columns.length === 0) break;
    const values = left.map((row) => columns.map((column) => pairValue(evidence[row][column])));
    const settled = assignBest(values).filter(
      ({ row, column, margin }) => isSure(evidence[left[row]], columns[column], margin) || isAnyOfCopies(values[row], column, columns, sets),
    );
    for (const { row, column } of settled) settle(left[row], columns[column]);
    if (settled.length > 0) continue;
    if (columns.length > 1 && columns.every((column) => sets[column].content === sets[columns[0]].content)) {
      for (const [i, row] of left.entries()) settle(row, columns[i % columns.length], 'all sets that are left hold the very same images');
      break;
    }
    const last = lastPair(rows, sets, evidence, left, columns, taken);
    if (!last) break;
    settle(last.row, last.column, 'the only set left for the only material left');
  }
  return { sure, open: [...open] };
}

function pairValue({ name, layout, score }: SetEvidence): number {
  return name >= LEAST_VALUE || (layout ?? 0) >= LEAST_VALUE ? Math.max(0, score) : 0;
}

/** The rivals hold the very same images, so that it does not matter which is taken. */
function isAnyOfCopies(values: readonly number[], column: number, columns: readonly number[], sets: readonly ImageSet[]): boolean {
  const own = sets[columns[column]].content;
  const rivals = columns.filter((_, i) => i !== column && values[i] > values[column] - FAIR_LEAD);
  return rivals.length > 0 && rivals.every((rival) => sets[rival].content === own) && columns.every((other) => sets[other].content === own);
}

function isSure(row: readonly SetEvidence[], column: number, margin: number): boolean {
  const { name, layout } = row[column];
  if (layout !== null && layout <= BELIED && row.some((other) => (other.layout ?? -1) >= CLEAR_LAYOUT)) return false;
  if (name >= CLEAR_NAME) return margin >= CLEAR_LEAD * 0.999;
  if (name >= FAIR_NAME) return margin >= ((layout ?? 0) >= 0.2 ? CLEAR_LEAD : FAIR_LEAD);
  return layout !== null && layout >= CLEAR_LAYOUT && margin >= LAYOUT_LEAD;
}

/** One material and one set are left. Names that both say something else are asked about, unless the layout agrees. */
function lastPair(
  rows: readonly Material[],
  sets: readonly ImageSet[],
  evidence: readonly (readonly SetEvidence[])[],
  left: readonly number[],
  columns: readonly number[],
  taken: ReadonlySet<ImageSet>,
): { row: number; column: number } | null {
  const whole = columns.filter((column) => !taken.has(sets[column]) && isWhole(sets[column]));
  if (left.length !== 1 || whole.length !== 1) return null;
  const [row, column] = [left[0], whole[0]];
  const { layout, name } = evidence[row][column];
  if (layout !== null && layout <= BELIED) return null;
  const silent = isDefaultName(identityWords(rows[row].name)) || isDefaultName(identityWords(sets[column].words.join(' ')));
  const alone = rows.length === 1 && sets.length === 1;
  if (sets[column].guess && !alone) return null;
  return alone || silent || name >= LEAST_VALUE || (layout ?? 0) >= 0.15 ? { row, column } : null;
}

/** A set that can dress a material: a base colour, or two channels. */
function isWhole({ members }: ImageSet): boolean {
  return members.length > 1 || members.some(({ reading }) => reading.channel === 'baseColor');
}

/** Names that are the material's own to this degree bring further sets along. */
const OWN_NAME = 0.85;

/**
 * Further sets of the same name that add channels: an occlusion that was made apart. Where two of them claim one channel,
 * neither is taken; the material is asked about, if nothing else fills the channel.
 */
function addSupplements(matches: SetMatch[], materials: readonly Material[], sets: readonly ImageSet[], judge: Judge): SetQuestion[] {
  const settled = new Set(matches.map(({ set }) => set));
  const questions: SetQuestion[] = [];
  for (const material of materials) {
    const own = matches.filter((match) => match.material === material.key);
    if (own.length === 0) continue;
    const has = new Set(own.flatMap(({ set }) => set.members.map(({ reading }) => reading.channel)));
    const found = sets.flatMap((set): SetEvidence[] => {
      if (settled.has(set) || set.members.some(({ reading }) => has.has(reading.channel))) return [];
      const evidence = judge(material, set);
      const sameWords = own.some((match) => match.set.words.length > 0 && match.set.words.join(' ') === set.words.join(' '));
      if (evidence.name >= OWN_NAME) return [evidence];
      return sameWords ? [{ ...evidence, reasons: [...evidence.reasons, 'its images are called like those that the material reads'] }] : [];
    });
    const rivals = found.filter(({ set }) => found.some((other) => other.set !== set && other.set.content !== set.content && sharesChannel(other.set, set)));
    const empty = rivals.some(({ set }) => set.members.some(({ reading }) => !material.channels[reading.channel]?.map));
    if (empty) questions.push({ material: material.key, candidates: rivals, partial: true });
    for (const evidence of found) {
      if (rivals.includes(evidence)) continue;
      settled.add(evidence.set);
      matches.push({ ...evidence, material: material.key, only: false });
    }
  }
  return questions;
}

function sharesChannel(first: ImageSet, second: ImageSet): boolean {
  return first.members.some(({ reading }) => second.members.some((other) => other.reading.channel === reading.channel));
}
