import { Matrix4 } from 'three';
import { Lot } from '../fuzz/lot.ts';
import { TICKS } from './fbxText.ts';
import type { Soup } from './soup.ts';
import { turnAbout } from './turnAbout.ts';

const ORDERS = ['XYZ', 'XZY', 'YZX', 'YXZ', 'ZXY', 'ZYX'] as const;

export type Vec = [number, number, number];

/** Where something stands: at rest, or at a moment in seconds. */
export type Moving = (second: number | null) => Matrix4;

/** When curves have keys, and where motion is looked at. */
export const SECONDS = [0, 0.5, 1];
const MOMENTS = [0, 0.3, 0.5, 0.85];

/** Places what is in a text FBX, at rest and in motion, by the rule of the format. */
export class FbxMaker extends Lot {
  /** At rest, and at each moment of the motion. */
  protected readonly soups: Soup[];
  protected readonly moments: readonly number[];
  protected readonly objects: string[] = [];
  protected readonly connections: string[] = [];
  protected ids = 1000;
  /** Version 6.1: names instead of numbers, shapes within models, lists without their length. */
  protected readonly old = this.chance(0.3);
  protected readonly stack: number;
  protected readonly layer: number;

  constructor(seed: number) {
    super(seed);
    this.moments = !this.old && this.chance(0.4) ? MOMENTS : [];
    this.soups = [null, ...this.moments].map(() => new Map());
    [this.stack, this.layer] = [this.id(), this.id()];
  }

  protected vector(least: number, most: number): Vec {
    return [this.between(least, most), this.between(least, most), this.between(least, most)];
  }

  protected id(): number {
    this.ids += 1 + this.below(5);
    return this.ids;
  }

  protected list(name: string, values: readonly number[]): string[] {
    if (this.old || this.chance(0.2)) return [`${name}: ${values.join(',')}`];
    const lines = [];
    for (let i = 0; i < values.length; i += 7) lines.push(values.slice(i, i + 7).join(','));
    return [`${name}: *${values.length} {`, `a: ${lines.join(',\n')}`, '}'];
  }

  /** Three numbers of a model, at rest and in motion; some of the three stand still. */
  private animated(
    model: number,
    name: string,
    rest: Vec,
    vary: (component: number) => number,
  ): (second: number | null) => Vec {
    if (this.moments.length === 0 || !this.chance(0.4)) return () => rest;
    const node = this.id();
    this.objects.push(
      `AnimationCurveNode: ${node}, "AnimCurveNode::${name[4]}", "" {`,
      'Properties70:  {',
      ...rest.map((component, k) => `P: "d|${'XYZ'[k]}", "Number", "", "A",${component}`),
      '}',
      '}',
    );
    this.connections.push(`C: "OO",${node},${this.layer}`, `C: "OP",${node},${model}, "${name}"`);
    const moves = name === 'Lcl Scaling' ? [true, true, true] : [0, 1, 2].map(() => this.chance(0.7));
    const keys = rest.map((component, k) => (moves[k] ? SECONDS.map(() => vary(component)) : null));
    keys.forEach((values, k) => {
      if (!values) return;
      const curve = this.id();
      this.objects.push(
        `AnimationCurve: ${curve}, "AnimCurve::", "" {`,
        'Default: 0',
        'KeyVer: 4008',
        ...this.list(
          'KeyTime',
          SECONDS.map((second) => second * TICKS),
        ),
        ...this.list('KeyValueFloat', values),
        // Straight from key to key.
        'KeyAttrFlags: *1 {',
        'a: 4',
        '}',
        'KeyAttrDataFloat: *4 {',
        'a: 0,0,0,0',
        '}',
        'KeyAttrRefCount: *1 {',
        'a: 3',
        '}',
        '}',
      );
      this.connections.push(`C: "OP",${curve},${node}, "d|${'XYZ'[k]}"`);
    });
    return (second) =>
      second === null
        ? rest
        : (rest.map((component, k) => {
            const values = keys[k];
            if (!values) return component;
            const i = second < SECONDS[1] ? 0 : 1;
            const share = (second - SECONDS[i]) / (SECONDS[i + 1] - SECONDS[i]);
            return values[i] + (values[i + 1] - values[i]) * share;
          }) as Vec);
  }

  /** T Roff Rp Rpre R Rpost^-1 Rp^-1 Soff Sp S Sp^-1, each where it is said. */
  protected placed(unit: number, model: number): { words: string[]; local: Moving; geometric: Matrix4 } {
    const words: string[] = [];
    const said = (name: string, share: number, make: () => Vec, still: Vec = [0, 0, 0]): Vec => {
      if (!this.chance(share)) return still;
      const value = make();
      const type = name.startsWith('Lcl') ? `"${name}", "", "A"` : '"Vector3D", "Vector", ""';
      words.push(`P: "${name}", ${type},${value.join(',')}`);
      return value;
    };
    const place = () => this.vector(-2, 2).map((value) => value * unit) as Vec;
    const turn = () => this.vector(-170, 170);
    const order = this.chance(0.3) ? this.below(ORDERS.length) : 0;
    if (order > 0) words.push(`P: "RotationOrder", "enum", "", "",${order}`);
    const moved = (by: Vec) => new Matrix4().makeTranslation(...by);
    const turned = (angles: Vec, axes = 'XYZ') =>
      [...axes].reduce(
        (matrix, axis) => matrix.premultiply(turnAbout(axis, angles['XYZ'.indexOf(axis)])),
        new Matrix4(),
      );
    const translation = this.animated(
      model,
      'Lcl Translation',
      said('Lcl Translation', 0.7, place),
      (component) => component + this.between(-1, 1) * unit,
    );
    const [Roff, Rp] = [said('RotationOffset', 0.15, place), said('RotationPivot', 0.25, place)];
    const pre = said('PreRotation', 0.3, turn);
    const rotation = this.animated(
      model,
      'Lcl Rotation',
      said('Lcl Rotation', 0.7, turn),
      (component) => component + this.between(-80, 80),
    );
    const post = said('PostRotation', 0.15, turn);
    const [Soff, Sp] = [said('ScalingOffset', 0.1, place), said('ScalingPivot', 0.15, place)];
    const sizes: Vec[] = [
      [2, 2, 2],
      [1, 2, 0.5],
      [-1, 1, 1],
    ];
    const size = said('Lcl Scaling', 0.4, () => this.pick(sizes), [1, 1, 1]);
    const scaling = this.animated(
      model,
      'Lcl Scaling',
      size,
      (component) => component * this.between(0.5, 2),
    );
    const local: Moving = (second) =>
      [
        moved(translation(second)),
        moved(Roff),
        moved(Rp),
        turned(pre),
        turned(rotation(second), ORDERS[order]),
        turned(post).invert(),
        moved(Rp).invert(),
        moved(Soff),
        moved(Sp),
        new Matrix4().makeScale(...scaling(second)),
        moved(Sp).invert(),
      ].reduce((all, step) => all.multiply(step), new Matrix4());
    const geometric = moved(said('GeometricTranslation', 0.15, place))
      .multiply(turned(said('GeometricRotation', 0.1, turn)))
      .multiply(new Matrix4().makeScale(...said('GeometricScaling', 0.1, () => [1, 2, 1], [1, 1, 1])));
    return { words, local, geometric };
  }
}
