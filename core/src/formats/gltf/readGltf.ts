/// <reference path="./draco3dgltf.d.ts" />
/// <reference path="./gltf-validator.d.ts" />
import type { Accessor, Document, GLTF, Skin as GltfSkin, Mesh, Node, Primitive } from '@gltf-transform/core';
import type { InstancedMesh, Light as PunctualLight, Visibility } from '@gltf-transform/extensions';
import { KinkajouError } from '../../errors.ts';
import type { FileSource } from '../../parcel/fileSource.ts';
import {
  addRemark,
  addUncarried,
  type CustomValue,
  createDocument,
  createMesh,
  createNode,
  identityTransform,
  type PolygonMesh,
  type SceneDocument,
  type SceneNode,
  type Track,
  type TransformParts,
  type Vec3,
} from '../../scene/document.ts';
import { assignKeys } from '../../scene/material.ts';
import {
  eulerOf,
  identity,
  multiply,
  partsOfMatrix,
  rotationOfQuaternion,
  scaling,
  translation,
} from '../../scene/matrix.ts';
import { MOST_INSTANCES, tellTooMany } from '../instances.ts';
import { openGltf } from './openGltf.ts';
import { readGltfMaterials } from './readGltfMaterials.ts';
import { readPrimitives } from './readPrimitives.ts';
import { readCamera, readLight } from './readViews.ts';

/**
 * Reads glTF 2.0, binary or beside its buffers, with the KHR extensions of materials, Draco and meshopt.
 * Throws `gltf.version` for glTF 1.0, `gltf.broken` for damage and `gltf.missing` for a buffer that is not in
 * the parcel.
 */
export async function readGltf(bytes: Uint8Array, path: string, source: FileSource): Promise<SceneDocument> {
  const { gltf, json, binary } = await openGltf(bytes, path, source);
  const document = createDocument('gltf', binary ? 'glb' : 'gltf');
  document.generator = json.asset.generator ?? '';
  document.unitStated = true;
  readGltfMaterials(gltf, json, document);
  remarkExtensions(json, document);
  const reader = new SceneReader(gltf, document);
  reader.readNodes();
  reader.readSkins();
  reader.readClips();
  assignKeys(document.materials);
  if (document.nodes.length === 0 && document.materials.length === 0) {
    throw new KinkajouError(
      'gltf.empty',
      'there are no nodes in this file',
      { file: path },
      'Export the model again.',
    );
  }
  return document;
}

const UNDERSTOOD = new Set([
  'KHR_draco_mesh_compression',
  'EXT_meshopt_compression',
  'KHR_mesh_quantization',
  'KHR_texture_basisu',
  'EXT_texture_webp',
  'EXT_texture_avif',
  'KHR_texture_transform',
  'KHR_lights_punctual',
  'KHR_materials_ior',
  'KHR_materials_specular',
  'KHR_materials_transmission',
  'KHR_materials_volume',
  'KHR_materials_clearcoat',
  'KHR_materials_sheen',
  'KHR_materials_anisotropy',
  'KHR_materials_emissive_strength',
  'KHR_materials_unlit',
  'KHR_materials_pbrSpecularGlossiness',
  'KHR_materials_variants',
  'EXT_mesh_gpu_instancing',
  'KHR_node_visibility',
]);

function remarkExtensions(json: GLTF.IGLTF, document: SceneDocument): void {
  for (const name of json.extensionsUsed ?? [])
    if (!UNDERSTOOD.has(name))
      addUncarried(document.remarks, `extension ${name}`, '', {
        why: 'it is not understood',
        severity: 'warning',
      });
  if (json.extensionsUsed?.includes('KHR_materials_variants'))
    addUncarried(document.remarks, 'extension KHR_materials_variants', '', {
      why: 'it is not carried',
      severity: 'warning',
    });
}

class SceneReader {
  private readonly nodeIndex = new Map<Node, number>();
  private readonly meshIndex = new Map<Mesh, { index: number; materials: number[] }>();
  private readonly skinIndex = new Map<GltfSkin, number>();

  constructor(
    private readonly gltf: Document,
    private readonly document: SceneDocument,
  ) {}

  readNodes(): void {
    const root = this.gltf.getRoot();
    const scene = root.getDefaultScene() ?? root.listScenes()[0];
    root.listSkins().forEach((skin, i) => this.skinIndex.set(skin, i));
    const starts = [
      ...(scene?.listChildren() ?? []),
      ...root.listNodes().filter((node) => !node.getParentNode()),
    ];
    const pending: [Node, number][] = starts.reverse().map((node) => [node, -1]);
    while (pending.length > 0) {
      const [node, parent] = pending.pop() as [Node, number];
      if (this.nodeIndex.has(node)) continue;
      this.addNode(node, parent);
      const index = this.nodeIndex.get(node) as number;
      for (const child of [...node.listChildren()].reverse()) pending.push([child, index]);
    }
    if (scene) this.hideOutside(new Set(scene.listChildren()));
  }

  /** What stands in no scene, or in another than the one that the file opens with, is there and not shown. */
  private hideOutside(shown: ReadonlySet<Node>): void {
    const { nodes, remarks } = this.document;
    const withMeshes = new Set<number>();
    nodes.forEach(({ mesh }, index) => {
      for (let i = mesh < 0 ? -1 : index; i >= 0 && !withMeshes.has(i); i = nodes[i].parent)
        withMeshes.add(i);
    });
    const outside = [...this.nodeIndex].filter(
      ([node, index]) => nodes[index].parent < 0 && withMeshes.has(index) && !shown.has(node),
    );
    for (const [, index] of outside) {
      nodes[index].visible = false;
      addUncarried(remarks, 'further scenes', nodes[index].name, { why: 'hidden, as the file opens' });
    }
  }

  private addNode(source: Node, parent: number): void {
    const { document } = this;
    const index = document.nodes.length;
    this.nodeIndex.set(source, index);
    const mesh = source.getMesh();
    const camera = source.getCamera();
    const light = source.getExtension<PunctualLight>('KHR_lights_punctual');
    const name = source.getName() || mesh?.getName() || `node_${index + 1}`;
    const node = createNode(name, 'group', parent, {
      transform: transformOf(source),
      custom: customOf(source.getExtras()),
      visible: source.getExtension<Visibility>('KHR_node_visibility')?.getVisible() ?? true,
    });
    if (mesh) {
      const { index: meshIndex, materials } = this.meshOf(mesh, name);
      Object.assign(node, { kind: 'mesh', mesh: meshIndex, materials });
      source.getWeights().forEach((weight, i) => {
        const shape = document.meshes[meshIndex].shapes[i];
        if (shape) shape.weight = weight;
      });
    }
    if (camera)
      Object.assign(node, {
        kind: mesh ? 'mesh' : 'camera',
        camera: document.cameras.push(readCamera(camera, name)) - 1,
      });
    if (light) {
      Object.assign(node, {
        kind: mesh ? 'mesh' : 'light',
        light: document.lights.push(readLight(light, name)) - 1,
      });
      if (light.getRange() !== null) addUncarried(document.remarks, 'ranges where lights end', name);
    }
    const skin = source.getSkin();
    if (skin) node.skin = this.skinIndex.get(skin) ?? -1;
    document.nodes.push(node);
    const instances = source.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing');
    if (instances && mesh) this.placeInstances(instances, node, index);
  }

  /** Each instance is a part of its own under the node; the mesh is shared. */
  private placeInstances(instances: InstancedMesh, node: SceneNode, index: number): void {
    const [places, turns, scales] = ['TRANSLATION', 'ROTATION', 'SCALE'].map((name) =>
      instances.getAttribute(name),
    );
    const count = Math.max(0, ...[places, turns, scales].map((list) => list?.getCount() ?? 0));
    const entry = <T extends number[]>(list: Accessor | null, i: number, fallback: T) =>
      list ? (list.getElement(i, [] as number[]) as T) : fallback;
    const { mesh, materials, skin } = node;
    Object.assign(node, { kind: 'group', mesh: -1, materials: [], skin: -1 });
    for (let i = 0; i < Math.min(count, MOST_INSTANCES); i += 1) {
      const placed = multiply(
        translation(entry<Vec3>(places, i, [0, 0, 0])),
        rotationOfQuaternion(entry(turns, i, [0, 0, 0, 1])),
      );
      const transform = partsOfMatrix(multiply(placed, scaling(entry<Vec3>(scales, i, [1, 1, 1]))));
      this.document.nodes.push(
        createNode(`${node.name}_${i + 1}`, 'mesh', index, { transform, mesh, materials, skin }),
      );
    }
    tellTooMany(this.document, node.name, count);
  }

  private meshOf(mesh: Mesh, fallback: string): { index: number; materials: number[] } {
    const existing = this.meshIndex.get(mesh);
    if (existing) return existing;
    const materials = this.gltf.getRoot().listMaterials();
    const slots: number[] = [];
    const slotOf = (primitive: Primitive) => {
      const material = primitive.getMaterial();
      const number = material ? materials.indexOf(material) : -1;
      const position = slots.indexOf(number);
      return position >= 0 ? position : slots.push(number) - 1;
    };
    let made: PolygonMesh;
    try {
      made = readPrimitives(mesh, mesh.getName() || fallback, slotOf, this.document.remarks);
    } catch (error) {
      if (error instanceof KinkajouError) throw error;
      addRemark(this.document.remarks, {
        code: 'read.layer',
        severity: 'error',
        subject: mesh.getName() || fallback,
        message: 'the mesh cannot be read: its accessors contradict each other',
      });
      made = createMesh(mesh.getName() || fallback, {
        points: new Float64Array(0),
        faceCounts: new Uint32Array(0),
        faceCorners: new Uint32Array(0),
      });
    }
    const entry = { index: this.document.meshes.push(made) - 1, materials: slots };
    this.meshIndex.set(mesh, entry);
    return entry;
  }

  readSkins(): void {
    for (const skin of this.gltf.getRoot().listSkins()) {
      const joints = skin.listJoints().map((joint) => this.nodeIndex.get(joint) ?? 0);
      const inverseBind = new Float64Array(joints.length * 16);
      const matrices = skin.getInverseBindMatrices();
      for (let i = 0; i < joints.length; i += 1)
        inverseBind.set(
          matrices && i < matrices.getCount() ? matrices.getElement(i, []) : identity(),
          i * 16,
        );
      for (const joint of joints)
        if (this.document.nodes[joint].kind === 'group') this.document.nodes[joint].kind = 'bone';
      this.document.skins.push({ name: skin.getName() || 'skin', joints, inverseBind });
    }
  }

  readClips(): void {
    for (const [i, animation] of this.gltf.getRoot().listAnimations().entries()) {
      const tracks: Track[] = [];
      for (const channel of animation.listChannels()) {
        const target = channel.getTargetNode();
        const sampler = channel.getSampler();
        const node = target ? this.nodeIndex.get(target) : undefined;
        const path = channel.getTargetPath();
        const times = sampler?.getInput()?.getArray();
        const output = sampler?.getOutput();
        if (node === undefined || !sampler || !times || !output || !path) continue;
        const interpolation = sampler.getInterpolation();
        tracks.push({
          node,
          path: path === 'rotation' ? 'quaternion' : path,
          times: Float64Array.from(times),
          values: valuesOf(output),
          interpolation: interpolationOf(interpolation),
        });
      }
      const end = Math.max(0, ...tracks.map((track) => track.times[track.times.length - 1] ?? 0));
      this.document.clips.push({ name: animation.getName() || `clip_${i + 1}`, start: 0, end, tracks });
    }
  }
}

function interpolationOf(interpolation: string): 'step' | 'cubic' | 'linear' {
  if (interpolation === 'STEP') return 'step';
  return interpolation === 'CUBICSPLINE' ? 'cubic' : 'linear';
}

/** Numbers of an accessor, normalised ones in their real range. */
function valuesOf(accessor: NonNullable<ReturnType<Primitive['getAttribute']>>): Float64Array {
  const width = accessor.getElementSize();
  const out = new Float64Array(accessor.getCount() * width);
  const element: number[] = [];
  for (let i = 0; i < accessor.getCount(); i += 1) out.set(accessor.getElement(i, element), i * width);
  return out;
}

function transformOf(node: Node): TransformParts {
  const [x, y, z, w] = node.getRotation();
  const plain = x === 0 && y === 0 && z === 0;
  return {
    ...identityTransform(),
    translation: [...node.getTranslation()],
    rotation: plain ? [0, 0, 0] : eulerOf(rotationOfQuaternion([x, y, z, w])),
    scale: [...node.getScale()],
  };
}

function customOf(extras: Record<string, unknown>): Record<string, CustomValue> {
  const out: Record<string, CustomValue> = {};
  for (const [name, value] of Object.entries(extras)) {
    if (typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean')
      out[name] = value;
    else if (Array.isArray(value) && value.length <= 64 && value.every((part) => typeof part === 'number'))
      out[name] = value as number[];
  }
  return out;
}
