'use client';

/** Finds the material that the view shows at a place on the page; null where there is none. */
type Pick = (at: { x: number; y: number }) => string | null;

let current: Pick = () => null;

/** The view on the page answers for itself; returns how to stop. */
export function providePick(pick: Pick): () => void {
  current = pick;
  return () => {
    if (current === pick) current = () => null;
  };
}

export function materialUnder(at: { x: number; y: number }): string | null {
  return current(at);
}
