import { type Board, BoardLot, CORNERS, type Laying, laidBy, uvAt } from './boards.ts';
import { byte, direction, Painting, type Stored, type Wrap } from './painting.ts';
import type { KnownPlaces, Meets, Place } from './places.ts';

/** UV sets of a board. */
export const SETS = ['st', 'map1'];
/** Colours of a board's points: one to its left, another one to its right. */
export const PAINTS = [
  [0.2, 0.6, 0.9],
  [0.8, 0.1, 0.3],
  [0.8, 0.1, 0.3],
  [0.2, 0.6, 0.9],
];

/** An image as a material takes it. */
export interface Taken {
  file: string;
  painting: Painting;
  set: number;
  wrap: [Wrap, Wrap];
  laying: Laying | null;
  /** The word of its colour space; null where it is left out. */
  space: string | null;
}

/** What an input has at a place: its components in the order of a pixel; null near an edge. */
export type Value = (right: number, up: number) => Stored | null;

export interface Input {
  lines: string[];
  /** Nodes that it needs. */
  nodes: string[];
  at: Value;
  alone: (pixel: Stored) => number;
}

/** A material in lines, and what is known of the places where it is. */
export interface UsdLook {
  lines: string[];
  meets(right: number, up: number): Meets | null;
}

/** A stage of boards, each with a material of its own. */
export abstract class UsdBoards extends BoardLot {
  private readonly files: Record<string, Uint8Array> = {};
  /** Boards whose materials read the colours of their points, which others have all the same. */
  protected readonly painted = new Set<number>();

  protected abstract look(board: Board): UsdLook;

  known(): KnownPlaces {
    const places: Place[] = [];
    const looks: string[] = [];
    const boards: string[] = [];
    for (let i = 0; i < 1 + this.below(3); i += 1) {
      const board = this.board(i);
      const { lines, meets } = this.look(board);
      places.push(...this.placesOn(board, meets));
      looks.push(...lines);
      boards.push(...this.boardLines(board));
    }
    const indented = [...['def Scope "Looks"', '{', ...inner(looks), '}'], ...boards];
    const head = [
      '#usda 1.0',
      '(',
      '    defaultPrim = "World"',
      '    metersPerUnit = 1',
      '    upAxis = "Y"',
      ')',
    ];
    const text = [...head, 'def Xform "World"', '{', ...inner(indented), '}', ''].join('\n');
    return {
      files: { ...this.files, 'boards.usda': new TextEncoder().encode(text) },
      model: 'boards.usda',
      places,
    };
  }

  private boardLines({ index, runs }: Board): string[] {
    const list = (items: number[][]) => `[${items.map((item) => `(${item.join(', ')})`).join(', ')}]`;
    const points = CORNERS.map(([right, up]) => [2 * index + right, up, 0]);
    return [
      `def Mesh "Board${index}" ( prepend apiSchemas = ["MaterialBindingAPI"] )`,
      '{',
      `    point3f[] points = ${list(points)}`,
      '    int[] faceVertexCounts = [4]',
      '    int[] faceVertexIndices = [0, 1, 2, 3]',
      '    uniform token subdivisionScheme = "none"',
      ...(this.chance(0.3) || this.painted.has(index)
        ? [`    color3f[] primvars:displayColor = ${list(PAINTS)} ( interpolation = "vertex" )`]
        : []),
      ...runs.map(
        (run, set) =>
          `    texCoord2f[] primvars:${SETS[set]} = ${list(CORNERS.map((at) => uvAt(run, ...at)))} ( interpolation = "faceVarying" )`,
      ),
      `    rel material:binding = </World/Looks/Paint${index}>`,
      '}',
    ];
  }

  protected taken(name: string, bumps: boolean): Taken {
    const file = `${name}.png`;
    const painting = bumps
      ? new Painting(this, 3, () => direction(this))
      : new Painting(this, this.pick([3, 3, 4]), () => [byte(this), byte(this), byte(this), byte(this)]);
    this.files[file] = painting.png();
    return {
      file,
      painting,
      set: this.below(2),
      wrap: [
        this.pick(['repeat', 'repeat', 'clamp', 'mirror']),
        this.pick(['repeat', 'repeat', 'clamp', 'mirror']),
      ],
      laying: this.laying(!bumps),
      space: null,
    };
  }
}

/** What an image has at a place of a board; null near the edge of a block. */
export function storedAt(board: Board, image: Taken, right: number, up: number): Stored | null {
  const [u, v] = laidBy(image.laying, uvAt(board.runs[image.set], right, up));
  return image.painting.at([u, 1 - v], image.wrap);
}

/** An input that is a value. */
export function plain(words: string, value: Stored): Input {
  return { lines: [words], nodes: [], at: () => value, alone: ([first]) => first };
}

/** Lines within braces. */
export function inner(lines: readonly string[]): string[] {
  return lines.map((line) => `    ${line}`);
}

/** All that is known of a place; null where any part of it is not. */
export function metBy(
  known: readonly ((right: number, up: number) => Partial<Meets> | null)[],
): UsdLook['meets'] {
  return (right, up) => {
    const parts = known.map((part) => part(right, up));
    return parts.includes(null) ? null : Object.assign({}, ...parts);
  };
}
