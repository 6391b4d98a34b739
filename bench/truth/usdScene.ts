import { Matrix4, Quaternion, Vector3 } from 'three';
import { Lot } from '../fuzz/lot.ts';
import { turnAbout } from './turnAbout.ts';

const AXES = ['X', 'Y', 'Z'] as const;
const UNITS = [1, 0.01, 0.0254, 0.001];
const HIDDEN = [
  'token visibility = "invisible"',
  'uniform token purpose = "guide"',
  'uniform token purpose = "proxy"',
];
const WAYS = ['constant', 'uniform', 'vertex', 'varying', 'faceVarying'] as const;

type Way = (typeof WAYS)[number];

/** One step of `xformOpOrder`: its words and what it does. */
export interface Op {
  name: string;
  /** The attribute's declaration; empty where another step has it. */
  declared: string;
  /** What it does at a moment, in seconds. */
  at(second: number): Matrix4;
}

export interface Values {
  name: string;
  type: string;
  way: Way;
  items: number[][];
  indices: number[] | null;
}

export interface Instance {
  child: number;
  place: number[];
  turn: [number, number, number, number];
  scale: number;
  hidden: boolean;
}

export interface Sheet {
  points: Vector3[];
  faces: number[][];
  uvs: Values[];
  normals: Values | null;
  leftHanded: boolean;
  holes: number[];
  /** Of each face the paint of its subset, or -1. */
  subsets: number[];
}

export interface Prim {
  name: string;
  /** How many prims it hangs below. */
  depth: number;
  type: string;
  ops: Op[];
  resets: boolean;
  /** What hides it with all below; empty where nothing does. */
  hidden: string;
  paint: number;
  strong: boolean;
  /** Children that a collection of it holds, and the paint that this gives them. */
  collection: { children: number[]; paint: number } | null;
  sheet: Sheet | null;
  /** Of a PointInstancer: which child stands where. */
  instances: Instance[] | null;
  children: Prim[];
  /** How the prim's content comes here. */
  comes:
    | 'here'
    | 'reference'
    | 'payload'
    | 'inherits'
    | 'variant'
    | 'chosen from outside'
    | 'sublayer'
    | 'specializes';
}

/** The UV set that a paint's image is laid by, and how. */
export interface Look {
  colour: number[];
  set: string | null;
  scale: [number, number];
  turn: number;
  move: [number, number];
}

/** A made-up scene of USD, before anybody writes it down. */
export interface UsdScene {
  root: Prim;
  looks: Look[];
  /** Metres per unit. */
  unit: number;
  up: 'Y' | 'Z';
}

/** The value of a step, what it may become, and what it does. */
interface Stepping {
  value: number[];
  other: ((value: readonly number[]) => number[]) | null;
  matrix(value: readonly number[]): Matrix4;
}

/** When moving steps have values, and how many time codes a second has. */
const SECONDS = [0, 0.5, 1];
export const CODES = 24;

/** Makes up a scene: the same lot makes the same one. */
export class SceneMaker extends Lot {
  private readonly looks: Look[] = [];
  private names = 0;
  /** Some steps of placing change with time. */
  protected readonly moving = this.chance(0.35);

  scene(): UsdScene {
    const [unit, up] = [this.pick(UNITS), this.pick(['Y', 'Z'] as const)];
    for (let i = 0; i < 2 + this.below(3); i += 1) this.looks.push(this.look(i));
    const root: Prim = { ...this.prim(0, unit), name: 'World', type: 'Xform', comes: 'here', hidden: '' };
    while (root.children.length < 2) root.children.push(this.prim(1, unit));
    return { root, looks: this.looks, unit, up };
  }

  private vector(least: number, most: number): number[] {
    return [this.between(least, most), this.between(least, most), this.between(least, most)];
  }

  private look(index: number): Look {
    const laid = this.chance(0.4);
    return {
      colour: [0.1 + 0.1 * index, this.between(0, 1), this.between(0, 1)],
      set: this.chance(0.7) ? this.pick(['st', 'map1', 'st']) : null,
      scale: laid ? [this.between(0.5, 2), this.between(0.5, 2)] : [1, 1],
      turn: laid && this.chance(0.5) ? this.between(-90, 90) : 0,
      move: laid ? [this.between(-1, 1), this.between(-1, 1)] : [0, 0],
    };
  }

  private prim(depth: number, unit: number): Prim {
    this.names += 1;
    const name = `Part_${this.names}`;
    const sheet = this.chance(depth === 0 ? 0 : 0.6) ? this.sheet(1 / unit) : null;
    const children: Prim[] = [];
    if (!sheet && depth < 4)
      for (let k = 0; k < 1 + this.below(3); k += 1) children.push(this.prim(depth + 1, unit));
    const instances =
      !sheet && depth > 0 && this.chance(0.15) ? this.instances(children.length, 1 / unit) : null;
    const collection =
      children.length > 0 && !instances && this.chance(0.2)
        ? {
            children: children.flatMap((_, i) => (this.chance(0.6) ? [i] : [])),
            paint: this.below(this.looks.length),
          }
        : null;
    const group = instances ? 'PointInstancer' : this.pick(['Xform', 'Xform', 'Scope', '']);
    const type = sheet ? 'Mesh' : group;
    return {
      name,
      depth,
      type,
      hidden: this.chance(0.06) ? this.pick(HIDDEN) : '',
      paint: collection === null && this.chance(sheet ? 0.5 : 0.3) ? this.below(this.looks.length) : -1,
      collection,
      strong: this.chance(0.15),
      sheet,
      instances,
      children,
      comes: this.chance(0.5)
        ? 'here'
        : this.pick([
            'reference',
            'payload',
            'inherits',
            'variant',
            'chosen from outside',
            'sublayer',
            'specializes',
          ]),
      // Scopes, and what has no type, cannot be placed.
      ...this.placed(unit, sheet || instances || type === 'Xform' ? 0.6 : 0),
    };
  }

  private instances(children: number, unit: number): Instance[] | null {
    if (children === 0) return null;
    return Array.from({ length: 1 + this.below(4) }, () => ({
      child: this.below(children),
      place: this.vector(-4, 4).map((value) => value * unit),
      turn: this.pick<Instance['turn']>([
        [1, 0, 0, 0],
        [0, 1, 0, 0],
        [0.5, 0.5, 0.5, 0.5],
        [0.5, -0.5, 0.5, -0.5],
      ]),
      scale: this.pick([1, 2, 0.5]),
      hidden: this.chance(0.1),
    }));
  }

  private placed(unit: number, share: number): Pick<Prim, 'ops' | 'resets'> {
    if (!this.chance(share)) return { ops: [], resets: false };
    const ops: Op[] = [];
    for (let k = 0; k < 1 + this.below(4); k += 1) {
      const op = this.op(k, 1 / unit);
      if (ops.some(({ name }) => name === op.name)) continue;
      ops.push(op);
      if (this.chance(0.2)) {
        // A pivot: there and back again around what follows.
        const inner = this.op(k + 10, 1 / unit);
        const inverse = {
          name: `!invert!${op.name}`,
          declared: '',
          at: (second: number) => op.at(second).clone().invert(),
        };
        if (!ops.some(({ name }) => name === inner.name)) ops.push(inner);
        ops.push(inverse);
      }
    }
    // Last, where it shears nothing within the prim.
    if (this.chance(0.3)) {
      const by: [number, number, number] = this.pick([
        [1, 2, 0.5],
        [-1, 1, 1],
        [1, 1.5, 1],
      ]);
      const declared = `float3 xformOp:scale:last = (${by.join(', ')})`;
      ops.push({ name: 'xformOp:scale:last', declared, at: () => new Matrix4().makeScale(...by) });
    }
    return { ops, resets: this.chance(0.05) };
  }

  private op(suffix: number, unit: number): Op {
    const end = suffix > 0 ? `:${this.pick(['pivot', 'offset', 'more'])}${suffix}` : '';
    switch (this.below(7)) {
      case 0:
      case 1:
        return this.step(`translate${end}`, this.pick(['double3', 'float3']), {
          value: this.vector(-3, 3).map((value) => value * unit),
          other: (value) => value.map((component) => component + this.between(-1, 1) * unit),
          matrix: ([x, y, z]) => new Matrix4().makeTranslation(x, y, z),
        });
      case 2:
        return this.step(`scale${end}`, this.pick(['double3', 'float3', 'half3']), {
          value: this.pick([
            [2, 2, 2],
            [-1, -1, -1],
            [0.5, 0.5, 0.5],
          ]),
          // Halves, which small floats hold.
          other: (sides) => {
            const factor = this.pick([0.5, 1.5]);
            return sides.map((side) => side * factor);
          },
          matrix: ([x, y, z]) => new Matrix4().makeScale(x, y, z),
        });
      case 3: {
        const order = this.pick(['XYZ', 'XZY', 'YXZ', 'YZX', 'ZXY', 'ZYX']);
        return this.step(`rotate${order}${end}`, this.pick(['float3', 'double3']), {
          value: this.vector(-170, 170),
          other: (angles) => angles.map((angle) => angle + this.between(-80, 80)),
          matrix: (angles) =>
            [...order].reduce(
              (matrix, axis) => matrix.premultiply(turnAbout(axis, angles['XYZ'.indexOf(axis)])),
              new Matrix4(),
            ),
        });
      }
      case 4: {
        const axis = this.pick(AXES);
        return this.step(`rotate${axis}${end}`, this.pick(['float', 'double']), {
          value: [this.between(-170, 170)],
          other: ([angle]) => [angle + this.between(-80, 80)],
          matrix: ([angle]) => turnAbout(axis, angle),
        });
      }
      case 5: {
        const part = () => this.between(-1, 1);
        const q = new Quaternion(part(), part(), part(), this.between(0.1, 1)).normalize();
        return this.step(`orient${end}`, this.pick(['quatf', 'quatd']), {
          value: [q.w, q.x, q.y, q.z],
          other: null,
          matrix: () => new Matrix4().makeRotationFromQuaternion(q),
        });
      }
      default: {
        const [x, y, z] = this.vector(-2, 2).map((value) => value * unit);
        const matrix = new Matrix4()
          .makeTranslation(x, y, z)
          .multiply(turnAbout(this.pick(AXES), this.between(-90, 90)));
        const e = matrix.elements;
        const rows = [0, 4, 8, 12].map((at) => inBrackets([e[at], e[at + 1], e[at + 2], e[at + 3]]));
        const declared = `matrix4d xformOp:transform${end} = ( ${rows.join(', ')} )`;
        return { name: `xformOp:transform${end}`, declared, at: () => matrix };
      }
    }
  }

  /** A step that stands still, or goes straight from value to value. */
  private step(kind: string, type: string, { value, other, matrix }: Stepping): Op {
    const name = `xformOp:${kind}`;
    const words = (numbers: readonly number[]) =>
      numbers.length > 1 ? inBrackets(numbers) : `${numbers[0]}`;
    if (!this.moving || !other || !this.chance(0.4))
      return { name, declared: `${type} ${name} = ${words(value)}`, at: () => matrix(value) };
    const values = [value, other(value), other(value)];
    const samples = SECONDS.map((second, i) => `${second * CODES}: ${words(values[i])},`);
    return {
      name,
      declared: `${type} ${name}.timeSamples = { ${samples.join(' ')} }`,
      at: (second) => {
        const i = second < SECONDS[1] ? 0 : 1;
        const share = (second - SECONDS[i]) / (SECONDS[i + 1] - SECONDS[i]);
        return matrix(values[i].map((from, k) => from + (values[i + 1][k] - from) * share));
      },
    };
  }

  private sheet(unit: number): Sheet {
    const [wide, high] = [1 + this.below(3), 1 + this.below(3)];
    const points: Vector3[] = [];
    for (let y = 0; y <= high; y += 1)
      for (let x = 0; x <= wide; x += 1)
        points.push(new Vector3(x * unit, y * unit, this.between(-0.2, 0.2) * unit));
    const faces: number[][] = [];
    for (let y = 0; y < high; y += 1)
      for (let x = 0; x < wide; x += 1) {
        const at = y * (wide + 1) + x;
        const [b, c, d] = [at + 1, at + wide + 2, at + wide + 1];
        if (this.chance(0.3)) faces.push([at, b, c], [at, c, d]);
        else faces.push([at, b, c, d]);
      }
    const corners = faces.flat().length;
    const names = this.pick([
      ['st', 'map1'],
      ['map1', 'st'],
      ['st', 'other', 'map1'],
    ]);
    const sets = names.map((name) =>
      this.values(
        name,
        this.pick(['texCoord2f', 'float2', 'texCoord2d']),
        [points.length, faces.length, corners],
        () => [this.between(0, 1), this.between(0, 1)],
      ),
    );
    return {
      points,
      faces,
      uvs: sets,
      normals: this.chance(0.4)
        ? this.values(
            'normals',
            this.pick(['normal3f', 'float3']),
            [points.length, faces.length, corners],
            () => new Vector3(this.between(-0.4, 0.4), this.between(-0.4, 0.4), 1).normalize().toArray(),
          )
        : null,
      leftHanded: this.chance(0.2),
      holes: faces.length > 2 && this.chance(0.15) ? [this.below(faces.length)] : [],
      subsets: this.chance(0.4)
        ? faces.map(() => this.below(this.looks.length + 1) - 1)
        : faces.map(() => -1),
    };
  }

  private values(
    name: string,
    type: string,
    [points, faces, corners]: number[],
    make: () => number[],
  ): Values {
    const way = this.pick(WAYS);
    const count = { constant: 1, uniform: faces, vertex: points, varying: points, faceVarying: corners }[way];
    if (way === 'constant' || this.chance(0.5))
      return { name, type, way, items: Array.from({ length: count }, make), indices: null };
    const items = Array.from({ length: 1 + this.below(6) }, make);
    return { name, type, way, items, indices: Array.from({ length: count }, () => this.below(items.length)) };
  }
}

function inBrackets(list: readonly number[]): string {
  return `(${list.join(', ')})`;
}
