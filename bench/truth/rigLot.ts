import { Euler, Matrix4, Quaternion, Vector3 } from 'three';
import { Lot } from '../fuzz/lot.ts';
import { addFace, type Corner, type Known, paintOf, type Soup } from './soup.ts';

export type Vec = [number, number, number];

/** When there are keys. */
export const SECONDS = [0, 0.5, 1];
/** Where motion is looked at. */
export const MOMENTS = [0, 0.3, 0.75, 1];

/** Where a bone stands below the one above it: angles in degrees, about X first. */
export interface Pose {
  move: Vec;
  angles: Vec;
  scale: number;
}

export interface Bone {
  name: string;
  /** Which bone it hangs on; -1 for none. */
  parent: number;
  rest: Pose;
  /** At each of the seconds; null where it stands still. */
  keys: Pose[] | null;
  /** Where it stood among the bones when the mesh was bound. */
  bound: Matrix4;
}

export interface Shape {
  name: string;
  /** How points move, by their number. */
  offsets: Map<number, Vec>;
  /** Where they are on the way there, once there is that much of it. */
  half: { stop: number; offsets: Map<number, Vec> } | null;
  /** How much of it there is, at each of the seconds. */
  weights: number[];
}

export interface Rig {
  bones: Bone[];
  shapes: Shape[];
  points: Vec[];
  faces: number[][];
  /** Of each point: which bones move it, and by which share. */
  shares: [bone: number, share: number][][];
  /** From the mesh to the bones when it was bound. */
  bind: Matrix4;
  /** Where the bones hang. */
  above: Pose;
  colour: Vec;
  moving: boolean;
}

/** How poses go from key to key. */
export type Between = (from: Pose, to: Pose, share: number) => Matrix4;

/** Meshes on bones, with shapes, by lot. */
export class RigLot extends Lot {
  /** Whether the format knows shapes on the way to others. */
  protected readonly inBetweens: boolean = true;

  protected vector(least: number, most: number): Vec {
    return [this.between(least, most), this.between(least, most), this.between(least, most)];
  }

  protected pose(reach: number, turn: number): Pose {
    return {
      move: this.vector(-reach, reach),
      angles: this.vector(-turn, turn),
      scale: this.chance(0.2) ? this.pick([0.5, 2]) : 1,
    };
  }

  protected rig(): Rig {
    const moving = this.chance(0.7);
    const bones: Bone[] = [];
    for (let i = 0; i < 2 + this.below(3); i += 1) {
      const rest = this.pose(1, 60);
      const parent = i === 0 ? -1 : this.below(i);
      const at = parent < 0 ? new Matrix4() : bones[parent].bound.clone();
      // Many are bound as they rest.
      const bound = at.multiply(matrixOf(this.chance(0.7) ? rest : this.pose(1, 60)));
      bones.push({
        name: `Bone${i}`,
        parent,
        rest,
        keys: moving && this.chance(0.7) ? this.keys(rest) : null,
        bound,
      });
    }
    const [wide, high] = [1 + this.below(3), 1 + this.below(2)];
    const points: Vec[] = [];
    for (let y = 0; y <= high; y += 1)
      for (let x = 0; x <= wide; x += 1) points.push([x, y, this.between(-0.3, 0.3)]);
    const faces: number[][] = [];
    for (let y = 0; y < high; y += 1)
      for (let x = 0; x < wide; x += 1) {
        const at = y * (wide + 1) + x;
        faces.push([at, at + 1, at + wide + 2], [at, at + wide + 2, at + wide + 1]);
      }
    const offsets = () =>
      new Map(points.flatMap((_point, at) => (this.chance(0.6) ? [[at, this.vector(-1, 1)] as const] : [])));
    const shapes = Array.from({ length: this.chance(0.5) ? 1 + this.below(2) : 0 }, (_, i): Shape => {
      const still = this.between(0, 1);
      return {
        name: `Swell${i}`,
        offsets: offsets(),
        half:
          this.inBetweens && this.chance(0.4) ? { stop: 0.1 + this.below(8) / 10, offsets: offsets() } : null,
        weights:
          moving && this.chance(0.7) ? SECONDS.map(() => this.between(0, 1)) : SECONDS.map(() => still),
      };
    });
    return {
      bones,
      shapes,
      points,
      faces,
      shares: points.map(() => this.shares(bones.length)),
      bind: this.chance(0.5) ? new Matrix4() : matrixOf(this.pose(1, 60)),
      above: this.chance(0.5) ? { move: [0, 0, 0], angles: [0, 0, 0], scale: 1 } : this.pose(2, 90),
      colour: [0.25, this.between(0, 1), this.between(0, 1)],
      moving,
    };
  }

  private keys(rest: Pose): Pose[] {
    return SECONDS.map(() => ({
      move: this.chance(0.5)
        ? rest.move
        : (rest.move.map((component) => component + this.between(-0.5, 0.5)) as Vec),
      angles: rest.angles.map((angle) => angle + this.between(-40, 40)) as Vec,
      scale: rest.scale,
    }));
  }

  /** Quarters, so that they come to 1. */
  private shares(bones: number): [number, number][] {
    const shares = new Map<number, number>();
    for (let k = 0; k < 4; k += 1) {
      const bone = this.below(bones);
      shares.set(bone, (shares.get(bone) ?? 0) + 0.25);
    }
    return [...shares];
  }
}

export function quaternionOf({ angles }: Pose): Quaternion {
  const [x, y, z] = angles.map((angle) => (angle * Math.PI) / 180);
  // About X first, then Y, then Z, each about the axes that stand still.
  return new Quaternion().setFromEuler(new Euler(x, y, z, 'ZYX'));
}

export function matrixOf(pose: Pose): Matrix4 {
  return new Matrix4().compose(
    new Vector3(...pose.move),
    quaternionOf(pose),
    new Vector3(pose.scale, pose.scale, pose.scale),
  );
}

/** Moves go straight, turns the shortest way, as glTF and USD have it. */
export function alongTurns(from: Pose, to: Pose, share: number): Matrix4 {
  return new Matrix4().compose(
    new Vector3(...from.move).lerp(new Vector3(...to.move), share),
    quaternionOf(from).slerp(quaternionOf(to), share),
    new Vector3(from.scale, from.scale, from.scale),
  );
}

/** Angles go straight, as curves of FBX have it. */
export function alongAngles(from: Pose, to: Pose, share: number): Matrix4 {
  const mixed = (a: Vec, b: Vec) => a.map((component, k) => component + (b[k] - component) * share) as Vec;
  return matrixOf({
    move: mixed(from.move, to.move),
    angles: mixed(from.angles, to.angles),
    scale: from.scale,
  });
}

/** What is between the keys at a moment. */
export function mixedAt<Key, Mixed>(
  keys: readonly Key[],
  second: number,
  mix: (a: Key, b: Key, share: number) => Mixed,
): Mixed {
  const i = second < SECONDS[1] ? 0 : 1;
  return mix(keys[i], keys[i + 1], (second - SECONDS[i]) / (SECONDS[i + 1] - SECONDS[i]));
}

/** Where the bones are among themselves; at rest for null. */
function bonesAt({ bones }: Rig, second: number | null, between: Between): Matrix4[] {
  const out: Matrix4[] = [];
  for (const { parent, rest, keys } of bones) {
    const local = second === null || !keys ? matrixOf(rest) : mixedAt(keys, second, between);
    out.push(parent < 0 ? local : out[parent].clone().multiply(local));
  }
  return out;
}

/** Which shares of the shapes there are. */
function weightsAt({ shapes }: Rig, second: number | null): number[] {
  return shapes.map(({ weights }) =>
    second === null ? weights[0] : mixedAt(weights, second, (a, b, share) => a + (b - a) * share),
  );
}

/** How far a shape has moved a point: first straight to where it is half way, if it is anywhere, then on. */
function movedBy({ offsets, half }: Shape, weight: number, at: number): Vector3 {
  const there = new Vector3(...(offsets.get(at) ?? [0, 0, 0]));
  if (!half) return there.multiplyScalar(weight);
  const between = new Vector3(...(half.offsets.get(at) ?? [0, 0, 0]));
  if (weight <= half.stop) return between.multiplyScalar(weight / half.stop);
  return between.lerp(there, (weight - half.stop) / (1 - half.stop));
}

/** What is seen of a mesh on bones: shapes move its points, then the bones do. */
function seeRig(rig: Rig, second: number | null, { between, soup }: { between: Between; soup: Soup }): void {
  const weights = weightsAt(rig, second);
  const above = matrixOf(rig.above);
  const moves = bonesAt(rig, second, between).map((bone, i) =>
    above.clone().multiply(bone).multiply(rig.bones[i].bound.clone().invert()).multiply(rig.bind),
  );
  const places = rig.points.map((point, at) => {
    const shaped = new Vector3(...point);
    rig.shapes.forEach((shape, i) => shaped.add(movedBy(shape, weights[i], at)));
    const place = new Vector3();
    for (const [bone, share] of rig.shares[at])
      place.addScaledVector(shaped.clone().applyMatrix4(moves[bone]), share);
    return place;
  });
  for (const face of rig.faces)
    addFace(
      paintOf(soup, rig.colour),
      face.map((at): Corner => ({ place: places[at], uv: null, normal: null })),
    );
}

/** What is seen of a mesh on bones, when nothing is asked of time and at each moment of its motion. */
export function seenOf(rig: Rig, between: Between, rest: number | null): Pick<Known, 'soup' | 'moments'> {
  const see = (second: number | null) => {
    const soup: Soup = new Map();
    seeRig(rig, second, { between, soup });
    return soup;
  };
  return {
    soup: see(rest),
    moments: rig.moving ? MOMENTS.map((second) => ({ second, soup: see(second) })) : [],
  };
}
