import { Matrix4 } from 'three';
import { SECONDS } from './rigLot.ts';
import { turnAbout } from './turnAbout.ts';
import { type Aims, type KnownViews, shining, type View, ViewLot } from './views.ts';

const AIMS: Aims = { camera: [0, 0, -1], light: [0, 0, -1] };

/**
 * Cameras and lamps of USD by the fallbacks and the formulas of its schemas, in any unit, below what is larger or
 * smaller. The same seed gives the same files.
 */
export function usdViews(seed: number): KnownViews {
  return new Writer(seed).known();
}

class Writer extends ViewLot {
  private readonly metres = this.pick([1, 0.01, 0.0254]);
  private readonly up = this.pick(['Y', 'Z']);
  private readonly codes = this.pick([24, 30, 60]);
  private readonly prims: { type: string; words: string[] }[] = [];

  known(): KnownViews {
    const { metres } = this;
    const scaled = new Matrix4().makeScale(metres, metres, metres);
    const toMetres = this.up === 'Z' ? turnAbout('X', -90).multiply(scaled) : scaled;
    const count = 3 + this.below(5);
    for (let i = 0; i < count; i += 1) {
      const at = this.frame(`View${i}`, 1 / metres);
      const { type, words, view } = this.prim(at);
      this.prims.push({ type, words });
      if (view) this.see(at, view);
    }
    const text = [
      '#usda 1.0',
      `( metersPerUnit = ${metres} upAxis = "${this.up}" defaultPrim = "Quay" timeCodesPerSecond = ${this.codes} )`,
      'def Xform "Quay" {',
      ...this.within(-1),
      'def Mesh "Plate" {',
      'point3f[] points = [(0, 0, 0), (1, 0, 0), (0, 1, 0)]',
      'int[] faceVertexCounts = [3]',
      'int[] faceVertexIndices = [0, 1, 2]',
      '}',
      '}',
      '',
    ].join('\n');
    return {
      files: { 'quay.usda': new TextEncoder().encode(text) },
      model: 'quay.usda',
      ...this.seen(toMetres, AIMS),
    };
  }

  private within(parent: number): string[] {
    return this.frames.flatMap((frame, i) => {
      if (frame.parent !== parent) return [];
      const { name, rest, keys } = frame;
      const { type, words } = this.prims[i];
      const { move, angles, scale } = rest;
      const ops = [
        ['translate', 'double3', move],
        ['rotateXYZ', 'float3', angles],
        ['scale', 'float3', [scale, scale, scale]],
      ] as const;
      const samples = (op: string, numbers: readonly (readonly number[])[]) => {
        const rows = numbers.map((row, k) => `${SECONDS[k] * this.codes}: (${row.join(', ')})`);
        return `xformOp:${op}.timeSamples = { ${rows.join(', ')} }`;
      };
      const moving = keys
        ? [
            `double3 ${samples(
              'translate',
              keys.map((key) => key.move),
            )}`,
            `float3 ${samples(
              'rotateXYZ',
              keys.map((key) => key.angles),
            )}`,
          ]
        : [];
      return [
        `def ${type} "${name}" {`,
        ...words,
        ...ops.map(([op, value, numbers]) => `${value} xformOp:${op} = (${numbers.join(', ')})`),
        ...moving,
        `uniform token[] xformOpOrder = [${ops.map(([op]) => `"xformOp:${op}"`).join(', ')}]`,
        ...this.within(i),
        '}',
      ];
    });
  }

  private prim(index: number): {
    type: string;
    words: string[];
    view: Pick<View, 'kind' | 'numbers'> | null;
  } {
    switch (this.below(5)) {
      case 0:
        return { type: 'Xform', words: [], view: null };
      case 1:
        return this.camera();
      default:
        return this.lamp(this.grown(index));
    }
  }

  /** What an attribute says, or what its schema has where it says nothing. */
  private said(words: string[], [name, fallback]: [string, number], make: () => number): number {
    if (this.chance(0.3)) return fallback;
    const value = make();
    words.push(`float ${name} = ${value}`);
    return value;
  }

  private camera() {
    const words: string[] = [];
    const focal = this.said(words, ['focalLength', 50], () => this.between(10, 90));
    const wide = this.said(words, ['horizontalAperture', 20.955], () => this.between(10, 40));
    const high = this.said(words, ['verticalAperture', 15.2908], () => this.between(10, 40));
    const flat = this.chance(0.3);
    if (flat) words.push('token projection = "orthographic"');
    const tenths = this.metres / 10;
    const numbers: Record<string, number> = flat
      ? { width: wide * tenths, height: high * tenths }
      : { angle: 2 * Math.atan(high / 2 / focal), aspect: wide / high };
    return { type: 'Camera', words, view: { kind: flat ? 'orthographic' : 'perspective', numbers } };
  }

  private lamp(grown: number) {
    const words: string[] = [];
    const distant = this.chance(0.4);
    const nits = this.said(words, ['inputs:intensity', distant ? 50_000 : 1], () => this.between(1, 900));
    const stops = this.said(words, ['inputs:exposure', 0], () => this.pick([-2, 3]));
    const colour = this.chance(0.5)
      ? [this.between(0, 1), this.between(0.1, 1), this.between(0, 1)]
      : [1, 1, 1];
    if (colour.some((component) => component !== 1))
      words.push(`color3f inputs:color = (${colour.join(', ')})`);
    const even = this.chance(0.4);
    if (even) words.push('bool inputs:normalize = 1');
    const shown = nits * 2 ** stops;
    if (distant) {
      const half = (this.said(words, ['inputs:angle', 0.53], () => this.between(0.1, 40)) * Math.PI) / 360;
      const lux = even ? shown : shown * Math.PI * Math.sin(half) ** 2;
      return { type: 'DistantLight', words, view: { kind: 'directional', numbers: shining(colour, lux) } };
    }
    const radius =
      this.said(words, ['inputs:radius', 0.5], () => this.between(0.01, 2)) * grown * this.metres;
    // The disk that a ball shows; its surface is four of them, in units of the stage.
    const disk = Math.PI * radius ** 2;
    const candela = even ? (shown / (4 * disk)) * disk * this.metres ** 2 : shown * disk;
    const numbers = shining(colour, candela);
    if (!this.chance(0.4)) return { type: 'SphereLight', words, view: { kind: 'point', numbers } };
    const cone = this.between(5, 80);
    words.push(`float inputs:shaping:cone:angle = ${cone}`);
    const soft = this.said(words, ['inputs:shaping:cone:softness', 0], () => this.between(0.1, 0.9));
    const outer = (cone * Math.PI) / 180;
    const inner = outer * (1 - soft);
    return { type: 'SphereLight', words, view: { kind: 'spot', numbers: { ...numbers, inner, outer } } };
  }
}
