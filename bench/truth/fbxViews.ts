import { Matrix4 } from 'three';
import { fbxText, list, straight } from './fbxText.ts';
import { type Aims, type KnownViews, shining, type View, ViewLot } from './views.ts';

/** Cameras look along X, lamps shine down. */
const AIMS: Aims = { camera: [1, 0, 0], light: [0, -1, 0] };
const KINDS = ['point', 'directional', 'spot'];
const PER_INCH = 25.4;

/** Cameras and lamps of text FBX: lenses told by any of its words, angles in degrees. */
export function fbxViews(seed: number): KnownViews {
  return new Writer(seed).known();
}

class Writer extends ViewLot {
  private readonly objects: string[] = [];
  private readonly connections: string[] = [];

  known(): KnownViews {
    const count = 3 + this.below(5);
    for (let i = 0; i < count; i += 1) {
      const at = this.frame(`View${i}`, 1);
      const made = this.attribute();
      this.write(at, made);
      if (made) this.see(at, made.view);
    }
    this.objects.push(
      'Model: 900, "Model::Plate", "Mesh" {',
      '}',
      'Geometry: 901, "Geometry::", "Mesh" {',
      ...list('Vertices', [0, 0, 0, 1, 0, 0, 0, 1, 0]),
      ...list('PolygonVertexIndex', [0, 1, -3]),
      '}',
    );
    this.connections.push('C: "OO",900,0', 'C: "OO",901,900');
    this.addMotion();
    const text = fbxText(this.objects, this.connections);
    // `fbxText` writes metres, Y up.
    const seen = this.seen(new Matrix4(), AIMS);
    return { files: { 'quay.fbx': new TextEncoder().encode(text) }, model: 'quay.fbx', ...seen };
  }

  private write(index: number, made: ReturnType<Writer['attribute']>): void {
    const { name, parent, rest } = this.frames[index];
    const { move, angles, scale } = rest;
    const id = 100 + index;
    const words = [
      ['Lcl Translation', move],
      ['Lcl Rotation', angles],
      ['Lcl Scaling', [scale, scale, scale]],
    ] as const;
    this.objects.push(
      `Model: ${id}, "Model::${name}", "${made?.type ?? 'Null'}" {`,
      'Properties70:  {',
      ...words.map(([word, numbers]) => `P: "${word}", "${word}", "", "A",${numbers.join(',')}`),
      '}',
      '}',
    );
    this.connections.push(`C: "OO",${id},${parent < 0 ? 0 : 100 + parent}`);
    if (!made) return;
    this.objects.push(
      `NodeAttribute: ${500 + index}, "NodeAttribute::${name}", "${made.type}" {`,
      `TypeFlags: "${made.type}"`,
      'Properties70:  {',
      ...made.words.map(([word, ...numbers]) => `P: "${word}", "Number", "", "A",${numbers.join(',')}`),
      '}',
      '}',
    );
    this.connections.push(`C: "OO",${500 + index},${id}`);
  }

  /** Of each number that moves a curve. */
  private addMotion(): void {
    const [stack, layer] = [1000, 1001];
    this.objects.push(`AnimationStack: ${stack}, "AnimStack::Tide", "" {`, '}');
    this.objects.push(`AnimationLayer: ${layer}, "AnimLayer::Base", "" {`, '}');
    this.connections.push(`C: "OO",${layer},${stack}`);
    let id = layer;
    const curves = (index: number, property: string, rows: readonly (readonly number[])[]) => {
      id += 1;
      const node = id;
      this.objects.push(`AnimationCurveNode: ${node}, "AnimCurveNode::", "" {`, '}');
      this.connections.push(`C: "OO",${node},${layer}`, `C: "OP",${node},${100 + index}, "${property}"`);
      for (const [k, axis] of ['X', 'Y', 'Z'].entries()) {
        id += 1;
        const keys = straight(rows.map((row) => row[k]));
        this.objects.push(`AnimationCurve: ${id}, "AnimCurve::", "" {`, ...keys, '}');
        this.connections.push(`C: "OP",${id},${node}, "d|${axis}"`);
      }
    };
    for (const [index, { keys }] of this.frames.entries()) {
      if (!keys) continue;
      curves(
        index,
        'Lcl Translation',
        keys.map(({ move }) => move),
      );
      curves(
        index,
        'Lcl Rotation',
        keys.map(({ angles }) => angles),
      );
    }
  }

  private attribute(): {
    type: string;
    words: [string, ...number[]][];
    view: Pick<View, 'kind' | 'numbers'>;
  } | null {
    if (this.chance(0.2)) return null;
    return this.chance(0.4) ? this.camera() : this.lamp();
  }

  private camera() {
    const [wide, high] = [this.between(0.4, 1.5), this.between(0.4, 1.5)];
    const words: [string, ...number[]][] = [
      ['FilmWidth', wide],
      ['FilmHeight', high],
    ];
    const aspect = wide / high;
    // By its focal length, or by the angle of its picture's width or height.
    const mode = this.pick([3, 1, 2]);
    const angle = this.between(20, 100);
    const focal = this.between(12, 90);
    words.push(['ApertureMode', mode], mode === 3 ? ['FocalLength', focal] : ['FieldOfView', angle]);
    const half = Math.tan((angle * Math.PI) / 360);
    const tangent = [0, half / aspect, half, (high * PER_INCH) / 2 / focal][mode];
    const numbers = { angle: 2 * Math.atan(tangent), aspect };
    return { type: 'Camera', words, view: { kind: 'perspective', numbers } };
  }

  private lamp() {
    const type = this.below(3);
    const colour = [this.between(0, 1), this.between(0.1, 1), this.between(0, 1)];
    const strength = this.pick([100, 250, 30]);
    const [inner, outer] = [this.between(1, 30), this.between(31, 120)];
    const words: [string, ...number[]][] = [
      ...(type === 0 && this.chance(0.5) ? [] : [['LightType', type] as [string, number]]),
      ['Color', ...colour],
      ...(strength === 100 && this.chance(0.5) ? [] : [['Intensity', strength] as [string, number]]),
      ['DecayType', 2],
      ...(type === 2
        ? ([
            ['InnerAngle', inner],
            ['OuterAngle', outer],
          ] as [string, number][])
        : []),
    ];
    const toHalf = (angle: number) => (angle * Math.PI) / 360;
    const cone: Record<string, number> = type === 2 ? { inner: toHalf(inner), outer: toHalf(outer) } : {};
    const numbers = { ...shining(colour, strength / 100), ...cone };
    return { type: 'Light', words, view: { kind: KINDS[type], numbers } };
  }
}
