import type { Destination } from '@kinkajou/core/destinations/profile';

/** What the profile's own words say to people. */
export const GEOMETRY_WORDS = {
  workflow: { metalRough: 'metal/rough', specGloss: 'spec/gloss', legacy: 'legacy' } satisfies Record<
    Destination['workflow'],
    string
  >,
  split: {
    one: 'one for all',
    groups: 'one per group',
    nodes: 'one per node',
    materials: 'one per material',
  } satisfies Record<Destination['split'], string>,
  parts: {
    kept: 'as they are',
    materials: 'cut by material',
    solids: 'cut into solids, each with its own material',
  } satisfies Record<Destination['parts'], string>,
  withoutTiles: {
    materials: 'split, a material per tile',
    atlas: 'joined to one image where that fits',
  } satisfies Record<Destination['withoutTiles'], string>,
  collision: {
    none: 'none',
    box: 'a box',
    orientedBox: 'the smallest box',
    hull: 'a convex hull',
    hulls: 'several convex hulls',
    mesh: 'the part itself',
  } satisfies Record<Destination['collision']['shape'], string>,
  heightUnit: {
    units: "the model's unit",
    metres: 'metres',
    share: 'shares of the longest side',
  } satisfies Record<Destination['heightUnit'], string>,
};
