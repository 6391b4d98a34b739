import type { Material } from '../scene/material.ts';
import { CLEAR_NAME } from './decideSets.ts';
import type { Likeness } from './identity.ts';
import type { ImageSet } from './imageSet.ts';
import type { Judge, SetEvidence } from './setEvidence.ts';

/** The set that a material is called like, or whose images alone fit its layout. */
export interface Namesake {
  set: ImageSet;
  reason: string;
  /** All that speaks for any set being this material's. */
  evidenceFor(set: ImageSet): SetEvidence;
}

/** Names that are the material's own to this degree. */
const OWN_NAME = 0.85;
/** So much nearer than any other name is what is meant. */
const LEAD = 0.1;

/** Sets by the keys of the materials that read them, and all that there are. */
export interface SetsInUse {
  used: ReadonlyMap<string, readonly ImageSet[]>;
  all: readonly ImageSet[];
}

/**
 * The set that each material is called like: nearer than any other set, and no other material is nearer to it.
 * Where materials read each other's images, the names tell; where they are silent, layouts may.
 */
export function findNamesakes(
  materials: readonly Material[],
  sets: SetsInUse,
  judge: Judge,
): Map<string, Namesake> {
  const { used } = sets;
  const nearest = new Map<ImageSet, [best: number, next: number]>();
  const remember = (set: ImageSet, score: number) => {
    const [best, next] = nearest.get(set) ?? [0, 0];
    nearest.set(set, score > best ? [score, best] : [best, Math.max(next, score)]);
  };
  const likes = materials.map((material) => {
    const reads = used.get(material.key) ?? [];
    const scores = reads.map((set) => judge.nameLikeness(material, set));
    // Who reads what it is called need not be looked up among all.
    if (reads.length > 0 && scores.every((score) => score >= OWN_NAME)) {
      for (const [i, set] of reads.entries()) remember(set, scores[i]);
      return null;
    }
    const list = [...judge.alike(material)];
    for (const [set, { score }] of list) remember(set, score);
    return list.sort(([, a], [, b]) => b.score - a.score);
  });
  const namesakes = new Map<string, Namesake>();
  const clearest = ([first, second]: [ImageSet, Likeness][]) => {
    if (!first) return null;
    const [set, { score, narrower, reason }] = first;
    const [best, next] = nearest.get(set) ?? [0, 0];
    if (narrower || score < CLEAR_NAME || score < best || best - next < LEAD) return null;
    return second && score - second[1].score < LEAD ? null : { set, reason };
  };
  const itsOwn = ({ key }: Material) => {
    const [set, ...more] = used.get(key) ?? [];
    return set && more.length === 0 ? { set, reason: '' } : null;
  };
  for (const [i, material] of materials.entries()) {
    const list = likes[i];
    const unnamed = list?.length === 0 ? byLayout(material, sets, judge) : null;
    const namesake = list ? (clearest(list) ?? unnamed) : itsOwn(material);
    if (namesake)
      namesakes.set(material.key, { ...namesake, evidenceFor: (other) => judge(material, other) });
  }
  return namesakes;
}

/** A layout speaks for a set that is not read only where it is sure, and far from all others. */
const FITS = 0.5;
const FITS_BETTER = 0.4;
/** What is read fits well enough from this on, whatever else does. */
const FITS_ITSELF = 0.1;
/** More pairs of materials and sets than this are not compared by their pixels. */
const MOST_PAIRS = 4000;

/** The only set that fits where the one that is read does not at all. */
function byLayout(
  material: Material,
  { used, all }: SetsInUse,
  judge: Judge,
): { set: ImageSet; reason: string } | null {
  const reads = used.get(material.key) ?? [];
  if (reads.length !== 1 || used.size * all.length > MOST_PAIRS) return null;
  const read = judge(material, reads[0]).layout;
  if (read === null || read >= FITS_ITSELF) return null;
  const [best, next] = all
    .map((set) => judge(material, set))
    .sort((a, b) => (b.layout ?? -1) - (a.layout ?? -1));
  const fit = best.layout ?? -1;
  if (fit < FITS || fit - Math.max(read, next?.layout ?? -1) < FITS_BETTER) return null;
  return { set: best.set, reason: best.reasons.at(-1) ?? '' };
}
