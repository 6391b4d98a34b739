import { Lot } from '../fuzz/lot.ts';
import type { Meets, Place } from './places.ts';

/** How UVs run over a board, from its lower left corner: whole boards, parts, several times, on their side. */
export interface Run {
  aside: boolean;
  scale: [number, number];
  move: [number, number];
}

/** How UVs are laid out further: first scaled, then turned, then moved. */
export interface Laying {
  scale: [number, number];
  /** Counter-clockwise, in degrees. */
  turn: number;
  move: [number, number];
}

/** A board of one metre, standing, its lower left corner at two metres times its number. */
export interface Board {
  index: number;
  /** Of two UV sets, measured from the lower left. */
  runs: [Run, Run];
}

const PLACES = 12;

/** Corners of a board as its faces go round it: right and up, in 0..1. */
export const CORNERS: readonly [number, number][] = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];

/** Boards by lot, and places on them. */
export class BoardLot extends Lot {
  protected board(index: number): Board {
    return { index, runs: [this.run(), this.run()] };
  }

  private run(): Run {
    return {
      aside: this.chance(0.2),
      scale: [this.pick([1, 1, 0.5, 2, -1]), this.pick([1, 1, 0.5, 1.5])],
      move: this.chance(0.5) ? [0, 0] : [this.between(-1, 1), this.between(-1, 1)],
    };
  }

  protected laying(turned: boolean): Laying | null {
    if (!this.chance(0.4)) return null;
    return {
      scale: [this.between(0.5, 2), this.between(0.5, 2)],
      turn: turned && this.chance(0.5) ? this.between(-90, 90) : 0,
      move: [this.between(-1, 1), this.between(-1, 1)],
    };
  }

  /** Places on a board where all is known; fewer where edges of images are near. */
  protected placesOn({ index }: Board, meets: (right: number, up: number) => Meets | null): Place[] {
    return Array.from({ length: PLACES }, (): Place[] => {
      const [right, up] = [this.between(0.03, 0.97), this.between(0.03, 0.97)];
      const met = meets(right, up);
      return met ? [{ at: [2 * index + right, up, 0], material: `Paint${index}`, meets: met }] : [];
    }).flat();
  }
}

/** UVs of a place on a board. */
export function uvAt({ aside, scale, move }: Run, right: number, up: number): [number, number] {
  const [u, v] = aside ? [up, -right] : [right, up];
  return [u * scale[0] + move[0], v * scale[1] + move[1]];
}

/** UVs as they are laid out further. */
export function laidBy(laying: Laying | null, [u, v]: readonly [number, number]): [number, number] {
  if (!laying) return [u, v];
  const { scale, turn, move } = laying;
  const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const [x, y] = [u * scale[0], v * scale[1]];
  return [c * x - s * y + move[0], s * x + c * y + move[1]];
}
