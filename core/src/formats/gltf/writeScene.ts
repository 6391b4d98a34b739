import type {
  Accessor,
  Document,
  Buffer as GltfBuffer,
  Material as GltfMaterial,
  Node as GltfNode,
  Mesh,
} from '@gltf-transform/core';
import { KHRLightsPunctual, KHRNodeVisibility } from '@gltf-transform/extensions';
import { otherFading } from '../../scene/carriesLight.ts';
import { asPicked, materialsUnderColours } from '../../scene/colours.ts';
import {
  type Camera,
  type Light,
  type PolygonMesh,
  type SceneDocument,
  type SceneNode,
  type TransformParts,
  Y_UP,
} from '../../scene/document.ts';
import { withHeaviestJoints } from '../../scene/heaviestJoints.ts';
import type { Loss } from '../../scene/loss.ts';
import { showsColours } from '../../scene/material.ts';
import {
  type Decomposed,
  decompose,
  determinant3,
  geometricMatrix,
  isPlain,
  localMatrix,
  type Matrix4,
  normalCofactors,
  quaternionOf,
  wholeTurn,
} from '../../scene/matrix.ts';
import { withPlainInheritance } from '../../scene/plainInheritance.ts';
import { reorient } from '../../scene/reorient.ts';
import { shearedNodes } from '../../scene/sheared.ts';
import { withSoundNormals } from '../../scene/soundNormals.ts';
import { withStillJoints } from '../../scene/stillJoints.ts';
import { turnTangents } from '../../scene/tangents.ts';
import { partsUnsaid } from '../../scene/unsaidParts.ts';
import { buildTriangleSets, type TriangleSet } from '../../scene/vertices.ts';
import { PASSED_COLOURS } from './readPrimitives.ts';
import { texCoordsOf } from './texCoordsOf.ts';
import { writeClips } from './writeClips.ts';

/** A name that no other object of the file has; the fallback stands for an empty one. */
export type GltfNamer = (name: string, fallback?: string) => string;
type Array = Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>;

/** Joints that every reader follows a vertex by: the four heaviest are kept. */
export const JOINTS_PER_VERTEX = 4;

/**
 * Adds the document's nodes, meshes, skins, morph targets, clips, cameras and lights to a glTF document: Y
 * up, metres, triangles, names as given by `nameOf`. `materialOf` gives the glTF material of a document
 * material, or null. Returns what glTF cannot hold, in words.
 */
export function addGeometry(
  gltf: Document,
  given: SceneDocument,
  materialOf: (index: number) => GltfMaterial | null,
  nameOf: GltfNamer,
): Loss[] {
  const plain = withPlainInheritance(given);
  const { document, losses: loose } = withStillJoints(reorient(plain.document, Y_UP, 1));
  const losses: Loss[] = [
    ...loose,
    ...plain.shearedMotion.map((part): Loss => ({ code: 'gltf.shear', part })),
  ];
  const writer = new SceneWriter(gltf, document, materialOf, nameOf);
  const nodes = writer.addNodes();
  writer.addSkins(nodes);
  writeClips(gltf, document, nodes, losses);
  if (document.lights.some((light) => light.kind === 'dome' || light.kind === 'area'))
    losses.push({ code: 'gltf.lights' });
  losses.push(...otherFading(document));
  losses.push(...[...writer.withoutUvs].map((part): Loss => ({ code: 'gltf.noUv', part })));
  losses.push(...unsoundNormals(document));
  losses.push(...coloursBeyond(document), ...coloursPassed(document), ...coloursMore(document));
  losses.push(...lostJoints(document));
  losses.push(
    ...partsUnsaid(document, 'glTF', { showsHidden: 'a viewer of glTF that knows no KHR_node_visibility' }),
  );
  losses.push(...shearedNodes(document).map((part): Loss => ({ code: 'gltf.shear', part })));
  return losses;
}

function unsoundNormals({ nodes, meshes }: SceneDocument): Loss[] {
  const counts = meshes.map((mesh) => withSoundNormals(mesh).corners);
  return nodes.flatMap(({ name, mesh }): Loss[] =>
    mesh >= 0 && counts[mesh] > 0 ? [{ code: 'gltf.normals', part: name, count: counts[mesh] }] : [],
  );
}

function coloursBeyond({ nodes, meshes }: SceneDocument): Loss[] {
  const counts = meshes.map(({ colours: [first] }) => {
    let count = 0;
    for (const value of first?.values ?? []) if (inRange(value) !== value) count += 1;
    return count;
  });
  return nodes.flatMap(({ name, mesh }): Loss[] =>
    mesh >= 0 && counts[mesh] > 0 ? [{ code: 'gltf.colours', part: name, count: counts[mesh] }] : [],
  );
}

function coloursMore({ nodes, meshes }: SceneDocument): Loss[] {
  return nodes.flatMap(({ name, mesh }): Loss[] => {
    const count = (meshes[mesh]?.colours.length ?? 0) - 1;
    return count > 0 ? [{ code: 'gltf.coloursMore', part: name, count }] : [];
  });
}

/** Materials that do not show the colours of their parts. */
function coloursPassed(document: SceneDocument): Loss[] {
  return [...materialsUnderColours(document)].flatMap((index): Loss[] => {
    const material = document.materials[index];
    return material && !showsColours(material) ? [{ code: 'gltf.passed', material: material.key }] : [];
  });
}

function inRange(value: number): number {
  return value > 0 ? Math.min(1, value) : 0;
}

function lostJoints({ nodes, meshes }: SceneDocument): Loss[] {
  const counts = meshes.map((mesh) => withHeaviestJoints(mesh, JOINTS_PER_VERTEX).points);
  return nodes.flatMap(({ name, mesh, skin }): Loss[] =>
    skin >= 0 && counts[mesh] > 0 ? [{ code: 'gltf.joints', part: name, count: counts[mesh] }] : [],
  );
}

class SceneWriter {
  private readonly buffer: GltfBuffer;
  private readonly meshes = new Map<string, Mesh | null>();
  private readonly sets = new Map<number, TriangleSet[]>();
  /** Parts whose images have no UVs to be read by. */
  readonly withoutUvs = new Set<string>();
  private readonly lacking = new Set<Mesh>();

  constructor(
    private readonly gltf: Document,
    private readonly document: SceneDocument,
    private readonly materialOf: (index: number) => GltfMaterial | null,
    private readonly nameOf: GltfNamer,
  ) {
    this.buffer = gltf.getRoot().listBuffers()[0] ?? gltf.createBuffer();
  }

  addNodes(): GltfNode[] {
    const { gltf, document } = this;
    const scene = gltf.createScene('scene');
    gltf.getRoot().setDefaultScene(scene);
    const nodes = document.nodes.map((node) => this.createNode(node));
    const top = this.needsOneRoot() ? gltf.createNode(this.nameOf('root')) : null;
    if (top) scene.addChild(top);
    document.nodes.forEach((node, i) => {
      if (node.parent < 0) (top ?? scene).addChild(nodes[i]);
      else nodes[node.parent].addChild(nodes[i]);
    });
    return nodes;
  }

  /** Joints of one skin must hang below one node. */
  private needsOneRoot(): boolean {
    const { nodes, skins } = this.document;
    const topOf = (index: number) => {
      let top = index;
      while (nodes[top].parent >= 0) top = nodes[top].parent;
      return top;
    };
    return skins.some(({ joints }) => new Set(joints.map(topOf)).size > 1);
  }

  private createNode(node: SceneNode): GltfNode {
    const made = this.gltf.createNode(this.nameOf(node.name, 'node'));
    const { translation, quaternion, scale } = restOf(node.transform);
    made.setTranslation(translation).setRotation(quaternion).setScale(scale);
    const mesh = node.mesh >= 0 ? this.meshFor(node) : null;
    if (mesh) made.setMesh(mesh);
    if (mesh && this.lacking.has(mesh)) this.withoutUvs.add(node.name);
    if (node.camera >= 0) made.setCamera(this.createCamera(this.document.cameras[node.camera]));
    if (node.light >= 0) this.addLight(made, this.document.lights[node.light]);
    if (!node.visible)
      made.setExtension(
        'KHR_node_visibility',
        this.gltf.createExtension(KHRNodeVisibility).createVisibility().setVisible(false),
      );
    if (Object.keys(node.custom).length > 0) made.setExtras({ ...node.custom });
    return made;
  }

  private meshFor(node: SceneNode): Mesh | null {
    const geometric = geometricMatrix(node.transform);
    const key = JSON.stringify([node.mesh, node.materials, [...geometric]]);
    const existing = this.meshes.get(key);
    if (existing !== undefined) return existing;
    const source = this.document.meshes[node.mesh];
    let triangles = this.sets.get(node.mesh);
    if (!triangles) {
      triangles = buildTriangleSets(source);
      this.sets.set(node.mesh, triangles);
    }
    const mesh = this.createMesh(source, triangles, geometric, node);
    mesh?.setName(this.nameOf(source.name || node.name, 'mesh'));
    this.meshes.set(key, mesh);
    return mesh;
  }

  private createMesh(
    source: PolygonMesh,
    sets: TriangleSet[],
    transform: Matrix4,
    node: SceneNode,
  ): Mesh | null {
    const mesh = this.gltf.createMesh();
    const mirrored = determinant3(transform) < 0;
    for (const set of sets) {
      if (set.indices.length === 0) continue;
      const primitive = this.gltf
        .createPrimitive()
        .setIndices(
          this.accessor(
            narrow(mirrored ? turned(set.indices) : set.indices, set.positions.length / 3),
            'SCALAR',
          ),
        )
        .setAttribute('POSITION', this.accessor(movePoints(set.positions, transform), 'VEC3'))
        .setAttribute('NORMAL', this.accessor(turnNormals(set.normals, transform), 'VEC3'))
        .setMaterial(this.materialOf(node.materials[set.slot] ?? -1));
      if (set.tangents)
        primitive.setAttribute(
          'TANGENT',
          this.accessor(signed(turnTangents(set.tangents, transform)), 'VEC4'),
        );
      const required = texCoordsOf(primitive.getMaterial());
      if (required > set.uvs.length && mesh) this.lacking.add(mesh);
      const uvs = [
        ...set.uvs,
        ...Array.from(
          { length: Math.max(0, required - set.uvs.length) },
          () => new Float32Array((set.positions.length / 3) * 2),
        ),
      ];
      uvs.forEach((uv, i) =>
        primitive.setAttribute(`TEXCOORD_${i}`, this.accessor(uv as Float32Array<ArrayBuffer>, 'VEC2')),
      );
      if (set.colours) {
        const material = this.document.materials[node.materials[set.slot] ?? -1];
        const shown = !material || showsColours(material);
        primitive.setAttribute(
          shown ? 'COLOR_0' : PASSED_COLOURS,
          this.accessor(
            shown
              ? set.colours.map(inRange)
              : Float32Array.from(asPicked({ size: 4, values: set.colours }).values),
            'VEC4',
          ),
        );
      }
      if (source.influences && node.skin >= 0) {
        const { joints, weights } = heaviest(source.influences, set.points);
        primitive
          .setAttribute('JOINTS_0', this.accessor(joints, 'VEC4'))
          .setAttribute('WEIGHTS_0', this.accessor(weights, 'VEC4'));
      }
      for (const shape of source.shapes) {
        const target = this.gltf.createPrimitiveTarget(shape.name);
        target.setAttribute(
          'POSITION',
          this.accessor(spreadOffsets(shape.points, shape.offsets, set.points, transform), 'VEC3'),
        );
        if (shape.normalOffsets)
          target.setAttribute(
            'NORMAL',
            this.accessor(spreadOffsets(shape.points, shape.normalOffsets, set.points, transform), 'VEC3'),
          );
        primitive.addTarget(target);
      }
      mesh.addPrimitive(primitive);
    }
    if (mesh.listPrimitives().length === 0) {
      mesh.dispose();
      return null;
    }
    if (source.shapes.length > 0) {
      mesh
        .setWeights(source.shapes.map((shape) => shape.weight))
        .setExtras({ targetNames: source.shapes.map((shape) => shape.name) });
    }
    return mesh;
  }

  private accessor(array: Array, type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4'): Accessor {
    return this.gltf.createAccessor().setArray(array).setType(type).setBuffer(this.buffer);
  }

  addSkins(nodes: GltfNode[]): void {
    const skins = this.document.skins.map(({ name, joints, inverseBind }) => {
      const skin = this.gltf
        .createSkin(this.nameOf(name, 'skin'))
        .setInverseBindMatrices(this.accessor(affine(inverseBind), 'MAT4'));
      for (const joint of joints) skin.addJoint(nodes[joint]);
      return skin;
    });
    this.document.nodes.forEach((node, i) => {
      if (node.skin >= 0 && nodes[i].getMesh() && this.document.meshes[node.mesh].influences)
        nodes[i].setSkin(skins[node.skin]);
    });
    for (const skin of skins)
      if (skin.listParents().length <= 1 || !nodes.some((node) => node.getSkin() === skin)) skin.dispose();
  }

  private createCamera(camera: Camera) {
    const made = this.gltf.createCamera(this.nameOf(camera.name, 'camera'));
    const aspect = camera.aperture[0] / camera.aperture[1];
    const far = Number.isFinite(camera.far) && camera.far > camera.near ? camera.far : null;
    made.setZNear(Math.max(camera.near, 1e-4));
    // Without a far plane there is none: the library's own default would cut the view off at 100.
    made.setZFar(far ?? (undefined as unknown as number));
    if (camera.projection === 'orthographic') {
      return made
        .setType('orthographic')
        .setXMag(camera.width / 2)
        .setYMag(camera.width / 2 / aspect)
        .setZFar(far ?? 1e4);
    }
    return made
      .setType('perspective')
      .setYFov(2 * Math.atan(camera.aperture[1] / 2 / camera.focalLength))
      .setAspectRatio(aspect);
  }

  private addLight(node: GltfNode, light: Light): void {
    if (light.kind === 'dome' || light.kind === 'area') return;
    const extension = this.gltf.createExtension(KHRLightsPunctual);
    // Colours go up to 1; what is beyond is strength.
    const beyond = Math.max(1, ...light.colour);
    const [red, green, blue] = light.colour.map((component) => Math.max(0, component) / beyond);
    const made = extension
      .createLight(this.nameOf(light.name, 'light'))
      .setType(light.kind)
      .setColor([red, green, blue])
      .setIntensity(Math.max(0, light.intensity * beyond));
    if (light.kind === 'spot') {
      const outer = Math.min(Math.PI / 2, Math.max(1e-3, (light.outerAngle * Math.PI) / 360));
      made
        .setOuterConeAngle(outer)
        .setInnerConeAngle(Math.min((light.innerAngle * Math.PI) / 360, outer * (1 - 1e-5)));
    }
    node.setExtension('KHR_lights_punctual', made);
  }
}

/**
 * Translation, rotation and scale at rest. Plain transforms keep their own, so that tracks of one of them fit
 * the others.
 */
function restOf(t: TransformParts): Pick<Decomposed, 'translation' | 'quaternion' | 'scale'> {
  if (!isPlain(t)) return decompose(localMatrix(t));
  return { translation: t.translation, quaternion: quaternionOf(wholeTurn(t)), scale: t.scale };
}

/** Matrices whose last row is exactly 0 0 0 1, as glTF asks. */
function affine(matrices: Float64Array): Float32Array<ArrayBuffer> {
  const out = Float32Array.from(matrices);
  for (let offset = 0; offset < out.length; offset += 16) {
    out[offset + 3] = out[offset + 7] = out[offset + 11] = 0;
    out[offset + 15] = 1;
  }
  return out;
}

function heaviest({ starts, joints, weights }: NonNullable<PolygonMesh['influences']>, points: Uint32Array) {
  const outJoints = new Uint16Array(points.length * JOINTS_PER_VERTEX);
  const outWeights = new Float32Array(points.length * JOINTS_PER_VERTEX);
  points.forEach((point, v) => {
    const list: [number, number][] = [];
    for (let i = starts[point]; i < starts[point + 1]; i += 1) list.push([joints[i], weights[i]]);
    list.sort((a, b) => b[1] - a[1]);
    const heaviest = list.slice(0, JOINTS_PER_VERTEX);
    const sum = heaviest.reduce((total, [, weight]) => total + weight, 0);
    // A point that nothing moves follows the first joint, since weights must add up to one.
    if (sum === 0) outWeights[v * JOINTS_PER_VERTEX] = 1;
    heaviest.forEach(([joint, weight], k) => {
      outJoints[v * JOINTS_PER_VERTEX + k] = joint;
      outWeights[v * JOINTS_PER_VERTEX + k] = weight / (sum || 1);
    });
  });
  return { joints: outJoints, weights: outWeights };
}

/** Offsets of some points as offsets of all vertices. */
function spreadOffsets(
  moved: Uint32Array,
  offsets: ArrayLike<number>,
  points: Uint32Array,
  m: Matrix4,
): Float32Array<ArrayBuffer> {
  const place = new Map<number, number>();
  moved.forEach((point, i) => place.set(point, i));
  const out = new Float32Array(points.length * 3);
  points.forEach((point, v) => {
    const i = place.get(point);
    if (i === undefined) return;
    const [x, y, z] = [offsets[i * 3], offsets[i * 3 + 1], offsets[i * 3 + 2]];
    for (let row = 0; row < 3; row += 1) out[v * 3 + row] = m[row] * x + m[4 + row] * y + m[8 + row] * z;
  });
  return out;
}

/** 16-bit indices where every vertex fits; 65535 itself is reserved by glTF. */
function narrow(indices: Uint32Array, vertices: number): Uint16Array<ArrayBuffer> | Uint32Array<ArrayBuffer> {
  return vertices <= 65535 ? Uint16Array.from(indices) : Uint32Array.from(indices);
}

function turned(indices: Uint32Array): Uint32Array {
  const out = indices.slice();
  for (let i = 0; i < out.length; i += 3) {
    out[i + 1] = indices[i + 2];
    out[i + 2] = indices[i + 1];
  }
  return out;
}

function movePoints(points: Float32Array, m: Matrix4): Float32Array<ArrayBuffer> {
  const out = new Float32Array(points.length);
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, z] = [points[i], points[i + 1], points[i + 2]];
    for (let row = 0; row < 3; row += 1)
      out[i + row] = m[row] * x + m[4 + row] * y + m[8 + row] * z + m[12 + row];
  }
  return out;
}

/** In single floats, with signs that are 1 or -1 and nothing between, as glTF asks. */
function signed(tangents: Float64Array): Float32Array<ArrayBuffer> {
  return Float32Array.from(tangents, (value, i) => {
    if (i % 4 < 3) return value;
    return value < 0 ? -1 : 1;
  });
}

function turnNormals(normals: Float32Array, m: Matrix4): Float32Array<ArrayBuffer> {
  const c = normalCofactors(m);
  const sign = determinant3(m) < 0 ? -1 : 1;
  const out = new Float32Array(normals.length);
  for (let i = 0; i < normals.length; i += 3) {
    const n = [0, 1, 2].map(
      (row) => sign * (c[row] * normals[i] + c[3 + row] * normals[i + 1] + c[6 + row] * normals[i + 2]),
    );
    const length = Math.hypot(n[0], n[1], n[2]) || 1;
    for (let k = 0; k < 3; k += 1) out[i + k] = n[k] / length;
  }
  return out;
}
