import { Matrix4 } from 'three';
import { fbxText, list, straight, TICKS } from './fbxText.ts';
import { alongAngles, matrixOf, type Pose, type Rig, RigLot, seenOf, type Vec } from './rigLot.ts';
import type { Known } from './soup.ts';

/**
 * Meshes on bones of text FBX, written by hand: clusters of some points each, bind matrices with and without those of
 * the bones, shapes by channels, shares in hundredths, curves by axis, a shape apart from its part. The same seed gives
 * the same files.
 */
export function fbxRigs(seed: number): Known {
  return new Writer(seed).known();
}

class Writer extends RigLot {
  private readonly objects: string[] = [];
  private readonly connections: string[] = [];
  private ids = 100;

  known(): Known {
    const rig = this.rig();
    // The shape may stand apart from its part, and comes to the bones from there.
    const apart: Vec | null = this.chance(0.3) ? this.vector(-1, 1) : null;
    const bind = rig.bind.clone();
    if (apart) rig.bind.multiply(new Matrix4().makeTranslation(...apart));
    const text = this.text(rig, bind, apart);
    return {
      files: { 'rig.fbx': new TextEncoder().encode(text) },
      model: 'rig.fbx',
      ...seenOf(rig, alongAngles, null),
    };
  }

  private id(): number {
    this.ids += 1 + this.below(4);
    return this.ids;
  }

  private object(type: string, name: string, kind: string, lines: readonly string[]): number {
    const id = this.id();
    this.objects.push(`${type}: ${id}, "${name}", "${kind}" {`, ...lines, '}');
    return id;
  }

  private link(from: number, to: number, property = ''): void {
    this.connections.push(property === '' ? `C: "OO",${from},${to}` : `C: "OP",${from},${to}, "${property}"`);
  }

  private text(rig: Rig, bind: Matrix4, apart: Vec | null): string {
    const layer = this.object('AnimationLayer', 'AnimLayer::Base', '', []);
    if (rig.moving) {
      const stack = this.object('AnimationStack', 'AnimStack::Tide', '', [
        'Properties70:  {',
        `P: "LocalStop", "KTime", "Time", "",${TICKS}`,
        '}',
      ]);
      this.link(layer, stack);
    }
    const top = this.object('Model', 'Model::Top', 'Null', poseLines(rig.above));
    this.link(top, 0);
    const bones: number[] = [];
    for (const { name, parent, rest, keys } of rig.bones) {
      const bone = this.object('Model', `Model::${name}`, 'LimbNode', poseLines(rest));
      bones.push(bone);
      this.link(bone, parent < 0 ? top : bones[parent]);
      if (!keys) continue;
      this.curves(
        layer,
        bone,
        'Lcl Translation',
        keys.map(({ move }) => move),
      );
      this.curves(
        layer,
        bone,
        'Lcl Rotation',
        keys.map(({ angles }) => angles),
      );
    }
    const mesh = this.object('Model', 'Model::Hull', 'Mesh', [
      'Version: 232',
      'Properties70:  {',
      ...(apart ? [`P: "GeometricTranslation", "Vector3D", "Vector", "",${apart.join(',')}`] : []),
      ...(this.chance(0.4) ? ['P: "Lcl Translation", "Lcl Translation", "", "A",3,4,5'] : []),
      '}',
    ]);
    this.link(mesh, this.chance(0.5) ? 0 : top);
    const material = this.object('Material', 'Material::Paint', '', [
      'Properties70:  {',
      `P: "DiffuseColor", "Color", "", "A",${rig.colour.join(',')}`,
      '}',
    ]);
    this.link(material, mesh);
    const shape = this.object('Geometry', 'Geometry::Hull', 'Mesh', [
      ...list('Vertices', rig.points.flat()),
      ...list(
        'PolygonVertexIndex',
        rig.faces.flatMap(([a, b, c]) => [a, b, -c - 1]),
      ),
    ]);
    this.link(shape, mesh);
    this.skin(rig, bind, { shape, bones });
    if (rig.shapes.length > 0) this.shapes(rig, shape, layer);
    return fbxText(this.objects, this.connections);
  }

  private skin(rig: Rig, bind: Matrix4, { shape, bones }: { shape: number; bones: number[] }): void {
    const skin = this.object('Deformer', 'Deformer::Skin', 'Skin', ['Link_DeformAcuracy: 50']);
    this.link(skin, shape);
    // Where the whole stood when it was bound.
    const there = matrixOf(this.pose(2, 90));
    rig.bones.forEach(({ bound, name }, bone) => {
      const points = rig.shares.flatMap((shares, at) =>
        shares.filter(([of]) => of === bone).map(([, share]) => [at, share]),
      );
      // Bones that move nothing have a cluster without points, or none.
      if (points.length === 0 && this.chance(0.5)) return;
      const cluster = this.object('Deformer', `SubDeformer::${name}`, 'Cluster', [
        ...(points.length > 0
          ? [
              ...list(
                'Indexes',
                points.map(([at]) => at),
              ),
              ...list(
                'Weights',
                points.map(([, share]) => share),
              ),
            ]
          : []),
        ...list('Transform', bound.clone().invert().multiply(bind).elements),
        ...list('TransformLink', there.clone().multiply(bound).elements),
      ]);
      this.link(cluster, skin);
      this.link(bones[bone], cluster);
    });
  }

  private shapes(rig: Rig, shape: number, layer: number): void {
    const morph = this.object('Deformer', 'Deformer::Swell', 'BlendShape', ['Version: 100']);
    this.link(morph, shape);
    for (const { name, offsets, half, weights } of rig.shapes) {
      const full = this.chance(0.7) ? 100 : 64;
      const channel = this.object('Deformer', `SubDeformer::${name}`, 'BlendShapeChannel', [
        'Version: 100',
        ...(this.chance(0.5)
          ? ['Properties70:  {', `P: "DeformPercent", "Number", "", "A",${weights[0] * full}`, '}']
          : [`DeformPercent: ${weights[0] * full}`]),
        ...list('FullWeights', half ? [half.stop * full, full] : [full]),
      ]);
      this.link(channel, morph);
      if (half) this.target(`${name}Half`, half.offsets, channel);
      this.target(name, offsets, channel);
      if (weights.some((weight) => weight !== weights[0]))
        this.curves(
          layer,
          channel,
          'DeformPercent',
          weights.map((weight) => [weight * full]),
        );
    }
  }

  private target(name: string, offsets: ReadonlyMap<number, Vec>, channel: number): void {
    const target = this.object('Geometry', `Geometry::${name}`, 'Shape', [
      'Version: 100',
      ...list('Indexes', [...offsets.keys()]),
      ...list('Vertices', [...offsets.values()].flat()),
    ]);
    this.link(target, channel);
  }

  /** Of each number that moves a curve; straight from key to key. */
  private curves(
    layer: number,
    target: number,
    property: string,
    keys: readonly (readonly number[])[],
  ): void {
    const names = property === 'DeformPercent' ? ['d|DeformPercent'] : ['d|X', 'd|Y', 'd|Z'];
    const node = this.object('AnimationCurveNode', `AnimCurveNode::${property}`, '', [
      'Properties70:  {',
      ...names.map((name, k) => `P: "${name}", "Number", "", "A",${keys[0][k]}`),
      '}',
    ]);
    this.link(node, layer);
    this.link(node, target, property);
    names.forEach((name, k) => {
      if (keys.every((key) => key[k] === keys[0][k]) && this.chance(0.5)) return;
      const curve = this.object('AnimationCurve', 'AnimCurve::', '', [
        ...straight(keys.map((key) => key[k])),
      ]);
      this.link(curve, node, name);
    });
  }
}

function poseLines({ move, angles, scale }: Pose): string[] {
  return [
    'Version: 232',
    'Properties70:  {',
    'P: "RotationActive", "bool", "", "",1',
    'P: "InheritType", "enum", "", "",1',
    `P: "Lcl Translation", "Lcl Translation", "", "A",${move.join(',')}`,
    `P: "Lcl Rotation", "Lcl Rotation", "", "A",${angles.join(',')}`,
    `P: "Lcl Scaling", "Lcl Scaling", "", "A",${scale},${scale},${scale}`,
    '}',
  ];
}
