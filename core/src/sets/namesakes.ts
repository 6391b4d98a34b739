import type { Material } from '../scene/material.ts';
import { CLEAR_NAME } from './decideSets.ts';
import type { ImageSet } from './imageSet.ts';
import type { Judge, SetEvidence } from './setEvidence.ts';

/** The set that a material is called like. */
export interface Namesake {
  set: ImageSet;
  reason: string;
  /** All that speaks for any set being this material's. */
  evidenceFor(set: ImageSet): SetEvidence;
}

/** So much nearer than any other name is what is meant. */
const LEAD = 0.1;

/**
 * The set that each material is called like: nearer than any other set, and no other material is nearer to it.
 * Where materials read each other's images, the names alone tell.
 */
export function findNamesakes(materials: readonly Material[], judge: Judge): Map<string, Namesake> {
  const nearest = new Map<ImageSet, [best: number, next: number]>();
  const likes = materials.map((material) => {
    const list = [...judge.alike(material)];
    for (const [set, { score }] of list) {
      const [best, next] = nearest.get(set) ?? [0, 0];
      nearest.set(set, score > best ? [score, best] : [best, Math.max(next, score)]);
    }
    return list.sort(([, a], [, b]) => b.score - a.score);
  });
  const namesakes = new Map<string, Namesake>();
  for (const [i, [first, second]] of likes.entries()) {
    if (!first) continue;
    const [set, { score, narrower, reason }] = first;
    const [best, next] = nearest.get(set) ?? [0, 0];
    if (narrower || score < CLEAR_NAME || score < best || best - next < LEAD) continue;
    if (second && score - second[1].score < LEAD) continue;
    const material = materials[i];
    namesakes.set(material.key, { set, reason, evidenceFor: (other) => judge(material, other) });
  }
  return namesakes;
}
