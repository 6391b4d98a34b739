'use client';

/** What lies under a place on the page: the material, and the coordinates in its UV sets, v upwards. */
export interface Picked {
  material: string;
  uvs: readonly (readonly [number, number])[];
}

/** Finds what the view shows at a place on the page; null where there is nothing. */
type Pick = (place: { x: number; y: number }) => Picked | null;

let current: Pick = () => null;

/** The view on the page answers for itself; returns how to stop. */
export function providePick(pick: Pick): () => void {
  current = pick;
  return () => {
    if (current === pick) current = () => null;
  };
}

export function pickAt(place: { x: number; y: number }): Picked | null {
  return current(place);
}

export function materialUnder(place: { x: number; y: number }): string | null {
  return current(place)?.material ?? null;
}
