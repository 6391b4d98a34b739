import { Matrix4 } from 'three';
import { alongTurns, MOMENTS, type Pose, quaternionOf, type Rig, RigLot, SECONDS, seeRig } from './rigLot.ts';
import type { Known, Soup } from './soup.ts';

const [FLOAT, BYTES, SHORTS] = [5126, 5121, 5123];
const WIDTH: Record<number, number> = { [FLOAT]: 4, [BYTES]: 1, [SHORTS]: 2 };
const LETTERS: Record<number, string> = { 1: 'SCALAR', 2: 'VEC2', 3: 'VEC3', 4: 'VEC4', 16: 'MAT4' };

/**
 * Meshes on joints of glTF, written number by number: joints and shares in integers, joints in an order of the skin's
 * own, bind matrices or none, morph targets by sparse lists, weights of the mesh or the node. The same seed gives the
 * same files.
 */
export function gltfRigs(seed: number): Known {
  return new Writer(seed).known();
}

class Writer extends RigLot {
  private readonly bytes: number[] = [];
  private readonly accessors: object[] = [];
  private readonly bufferViews: object[] = [];

  known(): Known {
    const rig = this.rig();
    // Without matrices the joints are bound where they begin.
    const bare = this.chance(0.15);
    if (bare) {
      rig.bind = new Matrix4();
      for (const bone of rig.bones) bone.bound = new Matrix4();
    }
    const json = this.json(rig, bare);
    const see = (second: number | null) => {
      const soup: Soup = new Map();
      seeRig(rig, second, { between: alongTurns, soup });
      return soup;
    };
    return {
      files: {
        'rig.gltf': new TextEncoder().encode(JSON.stringify(json)),
        'rig.bin': Uint8Array.from(this.bytes),
      },
      model: 'rig.gltf',
      soup: see(null),
      moments: rig.moving ? MOMENTS.map((second) => ({ second, soup: see(second) })) : [],
    };
  }

  private json(rig: Rig, bare: boolean): object {
    const order = rig.bones.map((_, i) => i);
    if (this.chance(0.5)) order.reverse();
    const count = rig.bones.length;
    const [top, mesh] = [count, count + 1];
    const nodes: object[] = rig.bones.map(({ name, rest }, bone) => {
      const children = rig.bones.flatMap(({ parent }, i) => (parent === bone ? [i] : []));
      return { name, ...this.placed(rest), ...(children.length > 0 ? { children } : {}) };
    });
    const onNode = this.chance(0.5);
    const weights = rig.shapes.map(({ weights: [first] }) => first);
    const own = rig.shapes.length > 0 ? { weights } : {};
    nodes.push({ name: 'Top', ...this.placed(rig.above), children: [0] });
    // Its own place counts for nothing.
    nodes.push({
      name: 'Hull',
      mesh: 0,
      skin: 0,
      ...(onNode ? own : {}),
      ...(this.chance(0.3) ? { translation: [3, 4, 5] } : {}),
    });
    const inverse = order.map((bone) => rig.bones[bone].bound.clone().invert().multiply(rig.bind).elements);
    const shares = rig.shares.map((list) => Array.from({ length: 4 }, (_, k) => list[k] ?? [order[0], 0]));
    const most = this.pick([FLOAT, BYTES, SHORTS]);
    const full = { [FLOAT]: 1, [BYTES]: 255, [SHORTS]: 65535 }[most] as number;
    const stored = wholes(shares, full);
    // Bytes do not hold quarters; what they hold is what is known.
    rig.shares = shares.map((list, at) => list.map(([bone], k) => [bone, stored[at][k] / full]));
    const skin = {
      joints: order,
      ...(bare ? {} : { inverseBindMatrices: this.accessor(inverse) }),
      ...(this.chance(0.5) ? { skeleton: this.pick([0, top]) } : {}),
    };
    const primitive = {
      attributes: {
        POSITION: this.accessor(rig.points),
        JOINTS_0: this.accessor(
          shares.map((list) => list.map(([bone]) => order.indexOf(bone))),
          this.pick([BYTES, SHORTS]),
        ),
        WEIGHTS_0: this.accessor(stored, most, most !== FLOAT),
      },
      indices: this.accessor(
        rig.faces.flat().map((at) => [at]),
        this.pick([BYTES, SHORTS]),
      ),
      material: 0,
      ...(rig.shapes.length > 0
        ? {
            targets: rig.shapes.map((shape) => ({
              POSITION: this.offsets(shape.offsets, rig.points.length),
            })),
          }
        : {}),
    };
    const base = { baseColorFactor: [...rig.colour, 1] };
    return {
      asset: { version: '2.0' },
      scene: 0,
      scenes: [{ nodes: this.chance(0.5) ? [top, mesh] : [mesh, top] }],
      nodes,
      meshes: [
        {
          primitives: [primitive],
          ...(onNode ? {} : own),
          ...(rig.shapes.length > 0 ? { extras: { targetNames: rig.shapes.map(({ name }) => name) } } : {}),
        },
      ],
      skins: [skin],
      materials: [{ name: 'Paint', pbrMetallicRoughness: base }],
      ...(rig.moving ? this.animations(rig, mesh) : {}),
      accessors: this.accessors,
      bufferViews: this.bufferViews,
      buffers: [{ byteLength: this.bytes.length, uri: 'rig.bin' }],
    };
  }

  /** A node's place by steps or by a matrix; what is animated must have steps. */
  private placed(pose: Pose): object {
    return {
      translation: pose.move,
      rotation: quaternionOf(pose).toArray(),
      scale: [pose.scale, pose.scale, pose.scale],
    };
  }

  private animations({ bones, shapes }: Rig, mesh: number): object {
    const [samplers, channels]: [object[], object[]] = [[], []];
    const input = this.accessor(SECONDS.map((second) => [second]));
    const add = (node: number, path: string, rows: number[][]) => {
      channels.push({ sampler: samplers.length, target: { node, path } });
      samplers.push({
        input: this.chance(0.7) ? input : this.accessor(SECONDS.map((second) => [second])),
        output: this.accessor(rows),
        ...(this.chance(0.5) ? { interpolation: 'LINEAR' } : {}),
      });
    };
    bones.forEach(({ keys }, bone) => {
      if (!keys) return;
      add(
        bone,
        'rotation',
        keys.map((key) => quaternionOf(key).toArray()),
      );
      add(
        bone,
        'translation',
        keys.map(({ move }) => move),
      );
    });
    if (shapes.some(({ weights }) => weights.some((weight) => weight !== weights[0])))
      add(
        mesh,
        'weights',
        SECONDS.flatMap((_, key) => shapes.map(({ weights }) => [weights[key]])),
      );
    return channels.length > 0 ? { animations: [{ name: 'Tide', samplers, channels }] } : {};
  }

  private offsets(offsets: ReadonlyMap<number, number[]>, count: number): number {
    const rows = Array.from({ length: count }, (_, at) => offsets.get(at) ?? [0, 0, 0]);
    if (offsets.size === 0 || this.chance(0.5)) return this.accessor(rows);
    const sorted = [...offsets].sort(([a], [b]) => a - b);
    const ends = (pick: (...values: number[]) => number) =>
      [0, 1, 2].map((k) => pick(...rows.map((row) => Math.fround(row[k]))));
    this.accessors.push({
      componentType: FLOAT,
      count,
      type: 'VEC3',
      min: ends(Math.min),
      max: ends(Math.max),
      sparse: {
        count: sorted.length,
        indices: {
          bufferView: this.view(
            sorted.map(([at]) => [at]),
            SHORTS,
          ),
          componentType: SHORTS,
        },
        values: {
          bufferView: this.view(
            sorted.map(([, offset]) => offset),
            FLOAT,
          ),
        },
      },
    });
    return this.accessors.length - 1;
  }

  private accessor(rows: readonly (readonly number[])[], type = FLOAT, normalized = false): number {
    const ends = (pick: (...values: number[]) => number) =>
      rows[0].map((_, k) => pick(...rows.map((row) => (type === FLOAT ? Math.fround(row[k]) : row[k]))));
    this.accessors.push({
      bufferView: this.view(rows, type),
      componentType: type,
      count: rows.length,
      type: LETTERS[rows[0].length],
      ...(normalized ? { normalized } : {}),
      min: ends(Math.min),
      max: ends(Math.max),
    });
    return this.accessors.length - 1;
  }

  private view(rows: readonly (readonly number[])[], type: number): number {
    while (this.bytes.length % 4 !== 0) this.bytes.push(0);
    const start = this.bytes.length;
    const data = new DataView(new ArrayBuffer(rows.flat().length * WIDTH[type]));
    rows.flat().forEach((value, i) => {
      if (type === FLOAT) data.setFloat32(i * 4, value, true);
      else if (type === BYTES) data.setUint8(i, value);
      else data.setUint16(i * 2, value, true);
    });
    this.bytes.push(...new Uint8Array(data.buffer));
    this.bufferViews.push({ buffer: 0, byteOffset: start, byteLength: data.byteLength });
    return this.bufferViews.length - 1;
  }
}

/** Shares as whole numbers that come to the full one; what rounding leaves goes to the first. */
function wholes(shares: readonly (readonly (readonly [number, number])[])[], full: number): number[][] {
  return shares.map((list) => {
    const rounded = list.map(([, share]) => (full === 1 ? share : Math.floor(share * full)));
    if (full > 1) rounded[0] += full - rounded.reduce((sum, value) => sum + value, 0);
    return rounded;
  });
}
