import { Matrix4 } from 'three';
import { BYTES, FLOAT, GltfBytes, SHORTS } from './gltfBytes.ts';
import { alongTurns, type Pose, quaternionOf, type Rig, RigLot, SECONDS, seenOf } from './rigLot.ts';
import type { Known } from './soup.ts';

/**
 * Meshes on joints of glTF, written number by number: joints and shares in integers, joints in an order of the skin's
 * own, bind matrices or none, morph targets by sparse lists, weights of the mesh or the node. The same seed gives the
 * same files.
 */
export function gltfRigs(seed: number): Known {
  return new Writer(seed).known();
}

class Writer extends RigLot {
  private readonly data = new GltfBytes();
  protected override readonly inBetweens = false;

  known(): Known {
    const rig = this.rig();
    // Without matrices the joints are bound where they begin.
    const bare = this.chance(0.15);
    if (bare) {
      rig.bind = new Matrix4();
      for (const bone of rig.bones) bone.bound = new Matrix4();
    }
    const json = this.json(rig, bare);
    return {
      files: {
        'rig.gltf': new TextEncoder().encode(JSON.stringify(json)),
        'rig.bin': Uint8Array.from(this.data.bytes),
      },
      model: 'rig.gltf',
      ...seenOf(rig, alongTurns, null),
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
      ...(bare ? {} : { inverseBindMatrices: this.data.accessor(inverse) }),
      ...(this.chance(0.5) ? { skeleton: this.pick([0, top]) } : {}),
    };
    const primitive = {
      attributes: {
        POSITION: this.data.accessor(rig.points),
        JOINTS_0: this.data.accessor(
          shares.map((list) => list.map(([bone]) => order.indexOf(bone))),
          this.pick([BYTES, SHORTS]),
        ),
        WEIGHTS_0: this.data.accessor(stored, most, most !== FLOAT),
      },
      indices: this.data.accessor(
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
      accessors: this.data.accessors,
      bufferViews: this.data.bufferViews,
      buffers: [{ byteLength: this.data.bytes.length, uri: 'rig.bin' }],
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
    const input = this.data.accessor(SECONDS.map((second) => [second]));
    const add = (node: number, path: string, rows: number[][]) => {
      channels.push({ sampler: samplers.length, target: { node, path } });
      samplers.push({
        input: this.chance(0.7) ? input : this.data.accessor(SECONDS.map((second) => [second])),
        output: this.data.accessor(rows),
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
    if (offsets.size === 0 || this.chance(0.5)) return this.data.accessor(rows);
    const sorted = [...offsets].sort(([a], [b]) => a - b);
    const ends = (pick: (...values: number[]) => number) =>
      [0, 1, 2].map((k) => pick(...rows.map((row) => Math.fround(row[k]))));
    this.data.accessors.push({
      componentType: FLOAT,
      count,
      type: 'VEC3',
      min: ends(Math.min),
      max: ends(Math.max),
      sparse: {
        count: sorted.length,
        indices: {
          bufferView: this.data.view(
            sorted.map(([at]) => [at]),
            SHORTS,
          ),
          componentType: SHORTS,
        },
        values: {
          bufferView: this.data.view(
            sorted.map(([, offset]) => offset),
            FLOAT,
          ),
        },
      },
    });
    return this.data.accessors.length - 1;
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
