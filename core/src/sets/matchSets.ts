import { remember } from '../remember.ts';
import type { Material } from '../scene/material.ts';
import { CLEAR_NAME, decideSets, type SetMatch, speaks } from './decideSets.ts';
import { identityWords, isDefaultName } from './identity.ts';
import type { ImageSet } from './imageSet.ts';
import { findNamesakes, type Namesake } from './namesakes.ts';
import { createReadPaths } from './readPath.ts';
import { createJudge, type Judge, type MatchInputs, type SetEvidence } from './setEvidence.ts';

const SHOWN_CANDIDATES = 6;

/** A material in doubt and the sets that may be meant, best first. */
export interface SetQuestion {
  material: string;
  candidates: SetEvidence[];
  /** The material has a set already; the question is about what it lacks. */
  partial: boolean;
}

/** Which sets belong to which materials, and where there is a doubt. */
export interface SetMatching {
  /** Sets that belong to a material beyond doubt; a material may have several that do not overlap. */
  matches: SetMatch[];
  questions: SetQuestion[];
  /** The set that a material is called like beyond doubt, by the material's key, whether it reads it or not. */
  namesakes: ReadonlyMap<string, Namesake>;
}

/** Matches sets of images and materials one to one, all of an asset together. */
export function matchSets(inputs: MatchInputs): SetMatching {
  const { source, state, sets } = inputs;
  // Beside other models, images that nothing ties to this one are theirs.
  const shared = (source.modelsAtHome ?? 1) > 1 || source.lender !== undefined;
  const filled = sets.filter(({ members }) => members.length > 0);
  const used = setsInUse(inputs);
  const matches: SetMatch[] = [];
  const unread: Material[] = [];
  for (const material of state.materials) {
    const ownImageSets = used.get(material.key);
    if (ownImageSets)
      for (const set of ownImageSets)
        matches.push({
          material: material.key,
          set,
          name: 1,
          layout: null,
          narrower: false,
          score: 2,
          reasons: ['the material reads images of it'],
          only: false,
        });
    else if (isDressed(material, inputs)) unread.push(material);
  }
  const taken = new Set(matches.map(({ set }) => set));
  const judge = createJudge(inputs, filled, taken);
  const rows = unread.filter((material) => mayShow(material, inputs));
  const bare = bareByFile(inputs);
  const commons = new Set(source.commons);
  const all = rows.map((material) =>
    filled.map((set) => {
      const evidence = judge(material, set);
      // A number that a program gave is no name for images that lie with no model.
      const numbered =
        evidence.name > 0 && commons.has(set.folder) && isDefaultName(identityWords(material.name));
      if (numbered) return nameless(evidence);
      return bare(material) && (taken.has(set) || !speaks(evidence)) ? unheard(evidence) : evidence;
    }),
  );
  // What lies on common ground is offered where something ties it to this model, and is no rival elsewhere.
  const offered = filled.map(
    (set, i) => !commons.has(set.folder) || taken.has(set) || all.some((row) => speaks(row[i])),
  );
  const candidates = filled.filter((_, i) => offered[i]);
  const evidence = all.map((row) => row.filter((_, i) => offered[i]));
  const { sure, open } = decideSets({
    rows,
    sets: candidates,
    evidence,
    taken,
    layouts: source.uvLayouts ?? {},
    shared,
  });
  matches.push(...sure);
  const doubtful = addSupplements(matches, state.materials, candidates, judge);
  const settledImageSets = new Set(matches.map(({ set }) => set));
  // Which variant another material wears is asked of that one.
  const variantSets = new Set(doubtful.flatMap(({ candidates }) => candidates.map(({ set }) => set)));
  const questions = open.flatMap((row): SetQuestion[] => {
    const rivals = evidence[row].filter(
      ({ set, name, score }) =>
        (!settledImageSets.has(set) && !variantSets.has(set)) || (name >= CLEAR_NAME && score > 0),
    );
    const open = rivals.filter(({ set }) => !settledImageSets.has(set));
    const asks = (rival: SetEvidence) =>
      speaks(rival) || rival.set.folder === source.lender || (!shared && !bare(rows[row]));
    if (!open.some(asks)) return [];
    const best = [...rivals].sort(bestFirst).slice(0, SHOWN_CANDIDATES);
    return [{ material: rows[row].key, candidates: best, partial: false }];
  });
  return {
    matches,
    questions: [...questions, ...doubtful],
    namesakes: findNamesakes(state.materials, { used, all: filled }, judge),
  };
}

/**
 * Tells which materials have no image by the word of the file, which gives others theirs: what those read is
 * not for it, and what nothing speaks for is not asked about.
 */
function bareByFile({ source, resolvedPath }: MatchInputs): (material: Material) => boolean {
  const images = ({ channels }: Material) => Object.values(channels).flatMap((channel) => channel?.map ?? []);
  const own = new Map(source.materials.map((material) => [material.key, images(material)]));
  const wired = [...own.values()].some((maps) => maps.some(({ image }) => resolvedPath(image) !== null));
  return ({ key }) => wired && own.get(key)?.length === 0;
}

function unheard(evidence: SetEvidence): SetEvidence {
  return { ...evidence, name: 0, layout: null, score: 0, reasons: [] };
}

/** Without what its name said, which is the first reason. */
function nameless(evidence: SetEvidence): SetEvidence {
  return {
    ...evidence,
    name: 0,
    score: evidence.score - evidence.name,
    reasons: evidence.reasons.slice(1),
  };
}

function bestFirst(a: SetEvidence, b: SetEvidence): number {
  return b.score - a.score || (a.set.id < b.set.id ? -1 : 1);
}

/** Sets whose images materials read already, by material. */
function setsInUse({ source, state, sets, resolvedPath }: MatchInputs): Map<string, ImageSet[]> {
  const setOfPath = new Map<string, ImageSet>();
  for (const set of sets) {
    for (const { map } of set.members) setOfPath.set(map.path, set);
    for (const { path } of set.spare) if (!setOfPath.has(path)) setOfPath.set(path, set);
  }
  const used = new Map<string, ImageSet[]>();
  const readPaths = createReadPaths(source, resolvedPath);
  for (const material of state.materials) {
    const ownImageSets = new Set<ImageSet>();
    for (const path of readPaths(material).values()) {
      const set = setOfPath.get(path);
      if (set) ownImageSets.add(set);
    }
    if (ownImageSets.size > 0) used.set(material.key, [...ownImageSets]);
  }
  return used;
}

/** Materials that faces use, or that name images: those that may want a set. */
function isDressed(material: Material, { source }: MatchInputs): boolean {
  const maps = Object.values(material.channels).some((channel) => channel?.map);
  return maps || (source.facesPerMaterial[material.key] ?? 0) > 0;
}

/** Faces without UVs show no image: only a set of the very name is theirs, and what they lack is told then. */
function mayShow(material: Material, { source: { uvLayouts }, sets }: MatchInputs): boolean {
  if (!uvLayouts || uvLayouts[material.key] || Object.values(material.channels).some(({ map }) => map))
    return true;
  const name = identityWords(material.name).join(' ');
  return sets.some(({ words }) => identityWords(words.join(' ')).join(' ') === name);
}

/** Names that are the material's own to this degree bring further sets along. */
const OWN_NAME = 0.85;
/** Names that say the material's and more may be variants of it: `paint red` and `paint blue` for `paint`. */
const VARIANT_NAME = 0.38;

/**
 * Further sets of the same name that add channels: an occlusion that was made apart, the normals that several
 * colours share. Where two of them claim one channel, neither is taken; the material is asked about, if nothing
 * else fills the channel.
 */
function addSupplements(
  matches: SetMatch[],
  materials: readonly Material[],
  sets: readonly ImageSet[],
  judge: Judge,
): SetQuestion[] {
  const settledImageSets = new Set(matches.map(({ set }) => set));
  const questions: SetQuestion[] = [];
  const added: SetMatch[] = [];
  const sharedBy = createSharing(matches, sets);
  const nearest = remember((set: ImageSet) => nearestMaterial(set, materials, judge));
  for (const material of materials) {
    const ownMatches = matches.filter((match) => match.material === material.key);
    if (ownMatches.length === 0) continue;
    const has = new Set(ownMatches.flatMap(({ set }) => set.members.map(({ reading }) => reading.channel)));
    const variants: SetEvidence[] = [];
    const setEvidences = sets.flatMap((set): SetEvidence[] => {
      if (settledImageSets.has(set) || set.members.some(({ reading }) => has.has(reading.channel))) return [];
      const evidence = judge(material, set);
      const sameWords = ownMatches.some(
        (match) => match.set.words.length > 0 && match.set.words.join(' ') === set.words.join(' '),
      );
      if (evidence.name >= OWN_NAME) return [evidence];
      if (sharedBy(set).has(material.key))
        return [
          {
            ...evidence,
            reasons: [...evidence.reasons, 'its name is what the images of several materials have in common'],
          },
        ];
      if (evidence.narrower && evidence.name >= VARIANT_NAME && nearest(set) === material.key)
        variants.push(evidence);
      return sameWords
        ? [
            {
              ...evidence,
              reasons: [...evidence.reasons, 'its images are called like those that the material reads'],
            },
          ]
        : [];
    });
    const rivals = setEvidences.filter(({ set }) =>
      setEvidences.some(
        (other) => other.set !== set && other.set.content !== set.content && sharesChannel(other.set, set),
      ),
    );
    const empty = rivals.some(({ set }) =>
      set.members.some(({ reading }) => !material.channels[reading.channel]?.map),
    );
    if (empty) questions.push({ material: material.key, candidates: rivals, partial: true });
    const open = variants.filter(({ set }) => !setEvidences.some((other) => sharesChannel(other.set, set)));
    if (!empty && open.length > 0)
      questions.push({ material: material.key, candidates: open.sort(bestFirst), partial: true });
    for (const evidence of setEvidences) {
      if (rivals.includes(evidence)) continue;
      added.push({ ...evidence, material: material.key, only: false });
    }
  }
  matches.push(...added);
  return questions;
}

/**
 * Tells which materials share a set: it is called by the first words of the sets of several (`marker` for
 * `marker red` and `marker blue`), and holds no colour of its own.
 */
function createSharing(matches: readonly SetMatch[], sets: readonly ImageSet[]) {
  const hasColour = ({ members }: ImageSet) => members.some(({ reading }) => reading.channel === 'baseColor');
  const named = matches.filter(({ set }) => set.words.length > 1 && hasColour(set));
  const sharers = new Map(
    sets.map((set) => {
      const { words } = set;
      const longer = named.filter((match) => isBeginning(words, match.set.words));
      const several = new Set(longer.map((match) => match.set)).size > 1 && !hasColour(set);
      return [set, new Set(several ? longer.map(({ material }) => material) : [])];
    }),
  );
  const none = new Set<string>();
  return (set: ImageSet): ReadonlySet<string> => sharers.get(set) ?? none;
}

function isBeginning(words: readonly string[], of: readonly string[]): boolean {
  return words.length > 0 && words.length < of.length && words.every((word, i) => word === of[i]);
}

/** The material that a set's name speaks for most; null where it speaks for none. */
function nearestMaterial(set: ImageSet, materials: readonly Material[], judge: Judge): string | null {
  let best: { key: string; name: number } | null = null;
  for (const material of materials) {
    const { name } = judge(material, set);
    if (name > (best?.name ?? 0)) best = { key: material.key, name };
  }
  return best?.key ?? null;
}

function sharesChannel(first: ImageSet, second: ImageSet): boolean {
  return first.members.some(({ reading }) =>
    second.members.some((other) => other.reading.channel === reading.channel),
  );
}
