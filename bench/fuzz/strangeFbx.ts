import { writeModel } from '@kinkajou/core/formats/writeModel';
import {
  createDocument,
  createMesh,
  createNode,
  type InheritType,
  identityTransform,
  type PolygonMesh,
  type RotationOrder,
  type SceneDocument,
  type SceneNode,
  type Track,
  type TransformParts,
  type Vec3,
  Y_UP,
  Z_UP,
} from '@kinkajou/core/scene/document';
import { createMaterial, type Material } from '@kinkajou/core/scene/material';
import { invertAffine, multiply, worldMatrices } from '@kinkajou/core/scene/matrix';
import { Lot } from './lot.ts';

const ORDERS: readonly RotationOrder[] = ['XYZ', 'XZY', 'YZX', 'YXZ', 'ZXY', 'ZYX'];
const INHERITS: readonly InheritType[] = ['RSrs', 'Rrs'];
const UNITS = [1, 0.01, 0.0254, 0.001];
const NAMES = ['Post', 'Post', 'Rail 2', 'Pöller', 'a/b', 'Deck:plate', ''];
const SECONDS = [0, 0.5, 1.25, 2];

/**
 * An FBX that is valid and odd, with what glTF cannot say: angles in any order about pivots of their own between
 * fixed turns, shapes apart from what hangs below, scales that are handed down in two ways, polygons of many
 * corners with smoothing groups, units and axes, parts that are shown and hidden. Lengths are in metres before the
 * unit. The same seed gives the same bytes.
 */
export function strangeFbx(seed: number): Uint8Array {
  const name = 'strange.fbx';
  const maker = new Maker(seed);
  const { files } = writeModel(maker.document(), name, { form: maker.chance(0.3) ? 'text' : 'binary' });
  return files.get(name) as Uint8Array;
}

class Maker extends Lot {
  document(): SceneDocument {
    const document = createDocument('fbx', '');
    const metresPerUnit = this.pick(UNITS);
    Object.assign(document, { axes: this.pick([Y_UP, Z_UP]), metresPerUnit, unitStated: true });
    document.materials = Array.from({ length: 1 + this.below(3) }, (_, i) => this.material(`Paint${i}`));
    document.meshes = Array.from({ length: 1 + this.below(3) }, (_, i) =>
      this.mesh(`Mesh${i}`, 1 / metresPerUnit),
    );
    for (let i = 0; i < 2 + this.below(5); i += 1) document.nodes.push(this.node(document, i));
    if (this.chance(0.3)) this.hangViews(document);
    if (this.chance(0.4)) this.rig(document);
    if (this.chance(0.6)) this.move(document);
    return document;
  }

  private vector(least: number, most: number): Vec3 {
    return [this.between(least, most), this.between(least, most), this.between(least, most)];
  }

  private material(name: string): Material {
    const material = createMaterial(name, 'legacy');
    const source = { from: 'file' as const, detail: '' };
    material.channels.baseColor = { value: this.vector(0, 1), map: null, source };
    return material;
  }

  /** A tower of storeys with a lid of many corners; each wall a quad. */
  private mesh(name: string, unit: number): PolygonMesh {
    const sides = 3 + this.below(6);
    const storeys = 1 + this.below(3);
    const points: number[] = [];
    for (let storey = 0; storey <= storeys; storey += 1)
      for (let side = 0; side < sides; side += 1) {
        const angle = (2 * Math.PI * side) / sides;
        const radius = 1 + 0.3 * Math.sin(storey + side);
        points.push(radius * Math.cos(angle) * unit, storey * unit, radius * Math.sin(angle) * unit);
      }
    const faces: number[][] = [];
    for (let storey = 0; storey < storeys; storey += 1)
      for (let side = 0; side < sides; side += 1) {
        const [a, b] = [storey * sides + side, storey * sides + ((side + 1) % sides)];
        faces.push([a, a + sides, b + sides, b]);
      }
    const ring = Array.from({ length: sides }, (_, side) => side);
    faces.push(ring, ring.map((side) => storeys * sides + side).reverse());
    const corners = faces.flat();
    const mesh = createMesh(name, {
      points: Float64Array.from(points),
      faceCounts: Uint32Array.from(faces, (face) => face.length),
      faceCorners: Uint32Array.from(corners),
      faceMaterial: this.chance(0.5) ? Int32Array.from(faces, () => this.below(2)) : null,
      faceSmoothing: this.chance(0.5) ? Int32Array.from(faces, () => this.below(3)) : null,
    });
    for (let set = 0; set < this.below(3); set += 1)
      mesh.uvSets.push({
        name: `map${set + 1}`,
        size: 2,
        domain: 'corner',
        values: Float64Array.from(corners.flatMap(() => [this.between(0, 1), this.between(0, 1)])),
        index: null,
      });
    if (this.chance(0.3))
      mesh.colours.push({
        name: 'tint',
        size: 4,
        domain: 'corner',
        values: Float64Array.from(corners.flatMap(() => [...this.vector(0, 1), 1])),
        index: null,
      });
    if (this.chance(0.3))
      mesh.shapes.push({
        name: 'Bulge',
        points: Uint32Array.of(0, 2),
        offsets: Float64Array.from([...this.vector(0, 0.4), ...this.vector(0, 0.4)], (value) => value * unit),
        normalOffsets: null,
        weight: this.pick([0, 0.5]),
      });
    return mesh;
  }

  private node({ nodes, meshes, materials, metresPerUnit }: SceneDocument, index: number): SceneNode {
    const parent = index > 0 && this.chance(0.6) ? this.below(index) : -1;
    const mesh = index === 0 || this.chance(0.8) ? this.below(meshes.length) : -1;
    return createNode(this.pick(NAMES) || `Part${nodes.length}`, mesh < 0 ? 'group' : 'mesh', parent, {
      mesh,
      materials: mesh < 0 ? [] : [this.below(materials.length), this.below(materials.length)],
      visible: this.chance(0.9),
      transform: this.transform(1 / metresPerUnit),
    });
  }

  private transform(unit: number): TransformParts {
    const parts = identityTransform();
    const often = <K extends keyof TransformParts>(key: K, share: number, make: () => TransformParts[K]) => {
      if (this.chance(share)) parts[key] = make();
    };
    const place = () => this.vector(-2, 2).map((value) => value * unit) as Vec3;
    const turn = () => this.vector(-170, 170);
    often('translation', 0.8, place);
    often('rotation', 0.7, turn);
    often('rotationOrder', 0.4, () => this.pick(ORDERS));
    often('scale', 0.4, () =>
      this.pick<Vec3>([
        [2, 2, 2],
        [1, 2, 0.5],
        [-1, 1, 1],
        [0.1, 0.1, 0.1],
      ]),
    );
    often('preRotation', 0.3, turn);
    often('postRotation', 0.2, turn);
    often('rotationPivot', 0.3, place);
    often('rotationOffset', 0.15, place);
    often('scalingPivot', 0.2, place);
    often('scalingOffset', 0.15, place);
    often('geometricTranslation', 0.2, place);
    often('geometricRotation', 0.15, turn);
    often('geometricScale', 0.15, () => [1, 2, 1]);
    often('inherit', 0.3, () => this.pick(INHERITS));
    return parts;
  }

  /** A camera and a lamp, each below something or nothing, as nobody turns them. */
  private hangViews({ nodes, cameras, lights, metresPerUnit }: SceneDocument): void {
    const unit = 1 / metresPerUnit;
    const lens = { projection: 'perspective', focalLength: 35, aperture: [36, 24], width: unit } as const;
    cameras.push({ name: 'Lookout', ...lens, aperture: [36, 24], near: 0.1 * unit, far: 100 * unit });
    lights.push({
      name: 'Lamp',
      kind: this.pick(['point', 'directional', 'spot']),
      colour: [1, 1, 1],
      intensity: 1,
      innerAngle: 20,
      outerAngle: 40,
      size: [0, 0],
      castsShadow: true,
    });
    const place = () => {
      const transform = identityTransform();
      transform.translation = this.vector(-2, 2).map((value) => value * unit) as Vec3;
      transform.rotation = this.vector(-170, 170);
      return transform;
    };
    const parent = () => (this.chance(0.5) ? this.below(nodes.length) : -1);
    nodes.push(createNode('Lookout', 'camera', parent(), { camera: 0, transform: place() }));
    nodes.push(createNode('Lamp', 'light', parent(), { light: 0, transform: place() }));
  }

  /** A tower of its own that joints one upon the other bend, some without the scale of the one below. */
  private rig(document: SceneDocument): void {
    const { nodes, meshes, metresPerUnit } = document;
    const unit = 1 / metresPerUnit;
    const mesh = this.mesh('Mast', unit);
    const joints = 2 + this.below(2);
    const count = mesh.points.length / 3;
    const own = Array.from({ length: count }, (_, point) => {
      const height = Math.min(joints - 1, Math.max(0, mesh.points[point * 3 + 1] / unit));
      const low = Math.min(joints - 2, Math.floor(height));
      return [
        [low, 1 - (height - low)],
        [low + 1, height - low],
      ].filter(([, weight]) => weight > 0);
    });
    let entries = 0;
    mesh.influences = {
      starts: Uint32Array.from([0, ...own.map((list) => (entries += list.length))]),
      joints: Uint32Array.from(own.flat(), ([joint]) => joint),
      weights: Float32Array.from(own.flat(), ([, weight]) => weight),
    };
    meshes.push(mesh);
    const skinned = nodes.length;
    nodes.push(createNode('Mast', 'mesh', -1, { mesh: meshes.length - 1, materials: [0, 0], skin: 0 }));
    const chain = Array.from({ length: joints }, (_, joint) => {
      const transform = identityTransform();
      transform.translation = [0, joint > 0 ? unit : 0, 0];
      if (this.chance(0.4)) transform.rotation = this.vector(-20, 20);
      if (this.chance(0.3)) transform.preRotation = this.vector(-90, 90);
      if (this.chance(0.3)) transform.rotationOrder = this.pick(ORDERS);
      if (joint > 0 && this.chance(0.5)) transform.inherit = 'Rrs';
      nodes.push(createNode(`Joint${joint}`, 'bone', joint > 0 ? nodes.length - 1 : -1, { transform }));
      return nodes.length - 1;
    });
    const worlds = worldMatrices(nodes);
    document.skins.push({
      name: 'Mast',
      joints: chain,
      inverseBind: Float64Array.from(
        chain.flatMap((joint) => [...multiply(invertAffine(worlds[joint]), worlds[skinned])]),
      ),
    });
  }

  /** Motion of some quantities of some parts, each once. */
  private move(document: SceneDocument): void {
    const tracks: Track[] = [];
    document.nodes.forEach((node, index) => {
      const unit = 1 / document.metresPerUnit;
      const { translation, rotation, scale } = node.transform;
      const ways: [Track['path'], () => number[]][] = [
        ['translation', () => translation.map((component) => component + this.between(-1, 1) * unit)],
        ['rotation', () => rotation.map((component) => component + this.between(-80, 80))],
        ['scale', () => scale.map((component) => component * this.between(0.5, 2))],
        ['visible', () => [this.below(2)]],
      ];
      // A view with a size of its own that changes shears what hangs on it once it is turned.
      const isView = node.camera >= 0 || node.light >= 0;
      for (const [path, key] of ways)
        if (this.chance(0.25) && !(isView && path === 'scale'))
          tracks.push({
            node: index,
            path,
            times: Float64Array.from(SECONDS),
            values: Float64Array.from(SECONDS.flatMap(key)),
            interpolation: path === 'visible' || this.chance(0.3) ? 'step' : 'linear',
          });
    });
    if (tracks.length > 0) document.clips.push({ name: 'Tide', start: 0, end: 2, tracks });
  }
}
