import type { Document, Node } from '@gltf-transform/core';
import type { Light } from '@gltf-transform/extensions';
import { Matrix4, Vector3 } from 'three';
import type { Parcel } from '../fuzz/failures.ts';
import { Lot } from '../fuzz/lot.ts';
import {
  alongAngles,
  type Between,
  MOMENTS,
  matrixOf,
  mixedAt,
  type Pose,
  SECONDS,
  type Vec,
} from './rigLot.ts';
import { poseAt } from './soup.ts';

/** A camera or a lamp as it stands in metres, Y up, in the words and numbers of glTF. */
export interface View {
  kind: string;
  place: Vector3;
  /** Where it looks or shines; null where it shines all around. */
  aim: Vector3 | null;
  /** What is up in a camera's picture. */
  up: Vector3 | null;
  numbers: Record<string, number>;
}

type Views = Map<string, View>;

/** A made-up model, and its cameras and lamps by their names: at rest, and as they move. */
export interface KnownViews extends Parcel {
  views: Views;
  moments: { second: number; views: Views }[];
}

/** What stands somewhere: scaled, turned about X, Y and Z, and moved, within what it hangs on. */
export interface Frame {
  name: string;
  parent: number;
  rest: Pose;
  /** At each of the seconds; null where it stands still. */
  keys: Pose[] | null;
}

/** Which way a camera and a lamp look in their own space, and what is up for a camera. */
export interface Aims {
  camera: [number, number, number];
  light: [number, number, number];
}

const NEAR = 1e-3;

type Look = Pick<View, 'kind' | 'numbers'>;

/** Places frames one below the other: the same lot makes the same ones. */
export class ViewLot extends Lot {
  protected readonly frames: Frame[] = [];
  /** How poses go from key to key. */
  protected readonly along: Between = alongAngles;
  private readonly looks = new Map<number, Look>();
  private readonly moving = this.chance(0.5);

  /** A frame within one of those before it, or within nothing; `unit` is how many of the file's make a metre. */
  protected frame(name: string, unit: number): number {
    const three = (most: number) => [0, 1, 2].map(() => this.between(-most, most)) as Vec;
    const rest: Pose = {
      move: three(4).map((value) => value * unit) as Vec,
      angles: this.chance(0.8) ? three(170) : [0, 0, 0],
      scale: this.chance(0.3) ? this.pick([2, 0.5, 1.5]) : 1,
    };
    const moves = this.moving && this.chance(0.6);
    const near = (vector: Vec, off: Vec) => vector.map((component, k) => component + off[k]) as Vec;
    this.frames.push({
      name,
      parent: this.chance(0.3) ? -1 : this.below(this.frames.length + 1) - 1,
      rest,
      keys: moves
        ? SECONDS.map(() => ({
            move: near(rest.move, three(unit)),
            angles: near(rest.angles, three(40)),
            scale: rest.scale,
          }))
        : null,
    });
    return this.frames.length - 1;
  }

  /** Where a frame stands in the file's own space; at rest for null. */
  protected standing(index: number, second: number | null = null): Matrix4 {
    const { parent, rest, keys } = this.frames[index];
    const local = second === null || !keys ? matrixOf(rest) : mixedAt(keys, second, this.along);
    return parent < 0 ? local : this.standing(parent, second).multiply(local);
  }

  /** How large it stands in the file's own space. */
  protected grown(index: number): number {
    const { parent, rest } = this.frames[index];
    return rest.scale * (parent < 0 ? 1 : this.grown(parent));
  }

  /** Notes what a frame is. */
  protected see(index: number, look: Look): void {
    this.looks.set(index, look);
  }

  /** What there is to see; `toMetres` brings the file's space to ours. */
  protected seen(toMetres: Matrix4, aims: Aims): Pick<KnownViews, 'views' | 'moments'> {
    const at = (second: number | null): Views =>
      new Map(
        [...this.looks].map(([index, look]) => {
          const world = toMetres.clone().multiply(this.standing(index, second));
          return [this.frames[index].name, viewFrom(world, aims, look)];
        }),
      );
    const moves = this.frames.some(({ keys }) => keys !== null);
    return {
      views: at(null),
      moments: moves ? MOMENTS.map((second) => ({ second, views: at(second) })) : [],
    };
  }
}

function viewFrom(world: Matrix4, aims: Aims, { kind, numbers }: Look): View {
  const isCamera = kind === 'perspective' || kind === 'orthographic';
  const along = (axis: Vec) => new Vector3(...axis).transformDirection(world);
  return {
    kind,
    numbers,
    place: new Vector3().setFromMatrixPosition(world),
    aim: kind === 'point' ? null : along(isCamera ? aims.camera : aims.light),
    up: isCamera ? along([0, 1, 0]) : null,
  };
}

/** The colour of a lamp times its strength, each part of it. */
export function shining(colour: readonly number[], strength: number): Record<string, number> {
  return { red: colour[0] * strength, green: colour[1] * strength, blue: colour[2] * strength };
}

/** What differs between known views and a glTF, as another library reads it; nothing when all are there. */
export function viewsWrong(
  { views, moments }: Pick<KnownViews, 'views' | 'moments'>,
  gltf: Document,
): string[] {
  const still = viewsOff(views, gltf);
  if (still.length > 0) return still;
  return moments.flatMap(({ second, views: there }) => {
    poseAt(gltf, second);
    return viewsOff(there, gltf).map((words) => `after ${second} s: ${words}`);
  });
}

function viewsOff(views: ReadonlyMap<string, View>, gltf: Document): string[] {
  const found = new Map(
    gltf
      .getRoot()
      .listNodes()
      .flatMap((node) => {
        const view = viewOf(node);
        return view ? [[node.getName(), view] as const] : [];
      }),
  );
  return [
    ...[...views].flatMap(([name, view]) => {
      const other = found.get(name);
      return other ? differences(view, other).map((words) => `${name}: ${words}`) : [`${name}: is missing`];
    }),
    ...[...found.keys()].filter((name) => !views.has(name)).map((name) => `${name}: is too much`),
  ];
}

function differences(view: View, other: View): string[] {
  if (view.kind !== other.kind) return [`is ${other.kind}, not ${view.kind}`];
  const apart = (one: Vector3 | null, two: Vector3 | null) =>
    one && two && one.distanceTo(two) > NEAR * Math.max(1, one.length());
  return [
    // What shines from far away may stand anywhere.
    ...(view.kind !== 'directional' && apart(view.place, other.place) ? ['stands elsewhere'] : []),
    ...(apart(view.aim, other.aim) ? ['looks elsewhere'] : []),
    ...(apart(view.up, other.up) ? ['is turned about where it looks'] : []),
    ...Object.entries(view.numbers).flatMap(([name, value]) =>
      Math.abs(other.numbers[name] - value) <= NEAR * Math.max(1e-2, Math.abs(value))
        ? []
        : [`${name} ${value.toPrecision(4)} became ${other.numbers[name]?.toPrecision(4)}`],
    ),
  ];
}

function viewOf(node: Node): View | null {
  const camera = node.getCamera();
  const light = node.getExtension<Light>('KHR_lights_punctual');
  if (!camera && !light) return null;
  const world = new Matrix4().fromArray(node.getWorldMatrix());
  const along = (x: number, y: number, z: number) => new Vector3(x, y, z).transformDirection(world);
  const place = new Vector3().setFromMatrixPosition(world);
  if (camera) {
    const flat = camera.getType() === 'orthographic';
    return {
      kind: flat ? 'orthographic' : 'perspective',
      place,
      aim: along(0, 0, -1),
      up: along(0, 1, 0),
      numbers: flat
        ? { width: camera.getXMag() * 2, height: camera.getYMag() * 2 }
        : { angle: camera.getYFov(), aspect: camera.getAspectRatio() ?? Number.NaN },
    };
  }
  const lamp = light as Light;
  return {
    kind: lamp.getType(),
    place,
    aim: along(0, 0, -1),
    up: null,
    numbers: {
      ...shining(lamp.getColor(), lamp.getIntensity()),
      ...(lamp.getType() === 'spot'
        ? { inner: lamp.getInnerConeAngle(), outer: lamp.getOuterConeAngle() }
        : {}),
    },
  };
}
