import { KinkajouError } from '../../errors.ts';
import type { FileSource } from '../../parcel/fileSource.ts';
import { folderOf } from '../../parcel/fileSource.ts';
import { materialsUnderColours } from '../../scene/colours.ts';
import {
  addUncarried,
  type Clip,
  type CustomValue,
  createDocument,
  createNode,
  type Light,
  type PolygonMesh,
  type SceneDocument,
  type SceneNode,
  type Track,
  Y_UP,
  Z_UP,
} from '../../scene/document.ts';
import { assignKeys, type ImageEntry, type Material, sayColours } from '../../scene/material.ts';
import { determinant3, worldMatrices } from '../../scene/matrix.ts';
import { type Bindings, boundMaterial, withBindings } from './bindings.ts';
import type { ComposedPrim } from './compose.ts';
import { readPointInstances } from './instancer.ts';
import { MOST_NESTED } from './layer.ts';
import { readBlendShapes, type ShapeGroup } from './readBlendShapes.ts';
import { bindMesh, type ReadSkeleton, readSkelAnimation, readSkeleton, readSkelPose } from './readSkel.ts';
import { readUsdMaterial } from './readUsdMaterial.ts';
import { type ReadMesh, readPrimvars, readSubsets, readUsdMesh } from './readUsdMesh.ts';
import { isLightType, isShifted, readUsdCamera, readUsdLight, uncarriedOfLight } from './readViews.ts';
import { isSolidShape, readSolidShape } from './solidShapes.ts';
import { openStage, type Stage } from './stage.ts';
import { get, numberOf, numbersOf, propertyValue, targetOf, textOf } from './values.ts';
import { readTransform, readVisibility } from './xforms.ts';

/** Where a scene states no unit, USD takes centimetres. */
const DEFAULT_METRES = 0.01;
const DEFAULT_RATE = 24;
const SHAPES_WITHOUT_MESH = new Set([
  'BasisCurves',
  'NurbsCurves',
  'NurbsPatch',
  'Points',
  'Volume',
  'TetMesh',
  'HermiteCurves',
]);
/** Attributes of a shape that are no arrays. */
const SHAPE_WORDS = [
  ...['orientation', 'subdivisionScheme', 'axis', 'size', 'radius', 'radiusTop', 'radiusBottom'],
  ...['height', 'width', 'length'],
];
/** Prims that say something about others, or nothing that a scene needs. */
const PASSED_OVER = new Set([
  'Shader',
  'NodeGraph',
  'GeomSubset',
  'BlendShape',
  'SkelAnimation',
  'RenderSettings',
  'RenderProduct',
  'RenderVar',
  'Backdrop',
]);

/** Reads a USD scene: text, binary or package, with every layer that it takes in from the parcel. */
export async function readUsd(
  bytes: Uint8Array,
  path: string,
  source: FileSource,
  maxDepth = MOST_NESTED,
): Promise<SceneDocument> {
  const document = createDocument('usd', '');
  const stage = await openStage(bytes, path, source, { remarks: document.remarks, maxDepth });
  document.variant = stage.form;
  document.generator = generatorOf(stage);
  const metres = numberOf(stage.metadata.metersPerUnit);
  document.unitStated = metres !== undefined && metres > 0;
  document.metresPerUnit = metres && metres > 0 ? metres : DEFAULT_METRES;
  document.axes = textOf(stage.metadata.upAxis) === 'Z' ? Z_UP : Y_UP;
  const reader = new SceneReader(document, stage, path);
  reader.readMaterials();
  for (const prim of stage.prims) reader.visit(prim, -1, { bindings: [], visible: true });
  reader.finish();
  assignKeys(document.materials);
  if (document.nodes.length === 0 && document.materials.length === 0) {
    throw new KinkajouError(
      'usd.empty',
      'there are no prims in this scene',
      { file: path },
      'Export the model again.',
    );
  }
  return document;
}

function generatorOf(stage: Stage): string {
  const { customLayerData, doc, documentation, comment } = stage.metadata;
  const creator =
    customLayerData && typeof customLayerData === 'object' && 'creator' in customLayerData
      ? customLayerData.creator
      : undefined;
  return (
    [creator, doc, documentation, comment]
      .find((text): text is string => typeof text === 'string')
      ?.slice(0, 200) ?? ''
  );
}

interface Inherited {
  /** What is said of materials further up. */
  bindings: Bindings;
  visible: boolean;
  skeleton?: string;
  animation?: string;
}

class SceneReader {
  private readonly materials = new Map<string, number>();
  private readonly images = new Map<string, ImageEntry>();
  private readonly meshes = new Map<string, { index: number; allInSubsets: boolean }>();
  private readonly shapeGroups = new Map<number, ShapeGroup[]>();
  private readonly skeletons = new Map<string, ReadSkeleton>();
  private readonly animations = new Map<string, string>();
  private readonly bindings: { prim: ComposedPrim; node: number; skeleton: string }[] = [];
  /** Meshes that are not seen from both sides. */
  private readonly oneSided: SceneNode[] = [];
  private readonly tracks: Track[] = [];
  /** Lights that shine more, or less, where they stand larger. */
  private readonly growing: { light: Light; node: number; growth: number }[] = [];
  private readonly rate: number;
  private readonly arrayNumbers = new WeakMap<object, number>();
  private nextArray = 0;
  /** Path of the skeleton that a node's mesh follows. */
  private readonly skeletonOf = new Map<number, string>();
  /** Of materials that show colours of points: the primvar that has these. */
  private readonly colours = new Map<Material, string>();
  private readonly find = (path: string) => this.stage.byPath.get(path);

  constructor(
    private readonly document: SceneDocument,
    private readonly stage: Stage,
    private readonly path: string,
  ) {
    const { timeCodesPerSecond, framesPerSecond } = stage.metadata;
    this.rate = numberOf(timeCodesPerSecond) || numberOf(framesPerSecond) || DEFAULT_RATE;
  }

  readMaterials(): void {
    for (const prim of this.stage.byPath.values()) {
      if (prim.typeName !== 'Material' || prim.specifier === 'class') continue;
      const name = displayNameOf(prim);
      this.materials.set(prim.path, this.document.materials.length);
      this.document.materials.push(
        readUsdMaterial(prim, name, {
          byPath: this.stage.byPath,
          remarks: this.document.remarks,
          addImage: (written, layer) => this.addImage(written, layer),
          colours: this.colours,
        }),
      );
    }
  }

  /**
   * Images are known as the model's own folder would write them, so that layers in other folders agree on
   * them.
   */
  private addImage(written: string, layer: string): ImageEntry {
    const home = folderOf(this.path);
    const resolved = this.stage.resolve(written, layer);
    const key = folderOf(layer) === home || !resolved ? written : relativePath(resolved, home);
    let image = this.images.get(key);
    if (!image) {
      const carried = this.stage.carried(written, layer);
      const relative = resolved && !carried ? relativePath(resolved, home) : null;
      image = { key, written, relative, embedded: carried };
      this.images.set(key, image);
      this.document.images.push(image);
    }
    return image;
  }

  visit(prim: ComposedPrim, parent: number, above: Inherited): void {
    if (prim.specifier === 'class' || prim.typeName === 'Material' || PASSED_OVER.has(prim.typeName)) return;
    if (isLookScope(prim)) return;
    const { document } = this;
    const inherited = this.inherit(prim, above);
    if (isOwnWrapper(prim) && parent < 0) {
      for (const child of prim.children) this.visit(child, -1, inherited);
      return;
    }
    const index = document.nodes.length;
    const transform = readTransform(prim, this.rate);
    // What does not stand under its parent's transform hangs on nothing, nor does its parent's motion move it.
    const node = createNode(displayNameOf(prim), 'group', transform.resets ? -1 : parent, {
      visible: inherited.visible,
      custom: customOf(prim),
    });
    document.nodes.push(node);
    node.transform = transform.parts;
    for (const track of [...transform.tracks, ...readVisibility(prim, this.rate)])
      this.tracks.push({ ...track, node: index });
    if (prim.typeName === 'Mesh' || isSolidShape(prim.typeName)) this.addMesh(prim, node, index, inherited);
    else if (prim.typeName === 'Camera') {
      Object.assign(node, {
        kind: 'camera',
        camera: document.cameras.push(readUsdCamera(prim, node.name)) - 1,
      });
      if (isShifted(prim)) addUncarried(document.remarks, 'shifts of the pictures of cameras', prim.path);
    } else if (isLightType(prim.typeName)) {
      this.addLight(prim, node, index);
    } else if (prim.typeName === 'Skeleton') {
      this.skeletons.set(prim.path, readSkeleton(prim, index, document));
      if (inherited.animation) this.animations.set(prim.path, inherited.animation);
    } else if (SHAPES_WITHOUT_MESH.has(prim.typeName)) {
      addUncarried(document.remarks, `prims of type ${prim.typeName}`, prim.path, {
        why: 'only polygon meshes are carried',
        severity: 'warning',
      });
    } else if (prim.typeName === 'PointInstancer') {
      readPointInstances(prim, index, document, (target, under) => {
        const prototype = this.stage.byPath.get(target);
        if (prototype) this.visit(prototype, under, inherited);
      });
      return;
    } else if (prim.typeName !== '' && !PLAIN.has(prim.typeName))
      addUncarried(document.remarks, `prims of type ${prim.typeName}`, prim.path);
    for (const child of prim.children) this.visit(child, index, inherited);
  }

  private addLight(prim: ComposedPrim, node: SceneNode, index: number): void {
    const { lights, metresPerUnit, remarks } = this.document;
    const { light, growth } = readUsdLight(prim, node.name, {
      metres: metresPerUnit,
      addImage: (written, layer) => this.addImage(written, layer).key,
    });
    Object.assign(node, { kind: 'light', light: lights.push(light) - 1 });
    if (growth !== 0) this.growing.push({ light, node: index, growth });
    for (const subject of uncarriedOfLight(prim)) addUncarried(remarks, subject, prim.path);
  }

  private inherit(prim: ComposedPrim, above: Inherited): Inherited {
    const purpose = textOf(get(prim, 'purpose'));
    return {
      bindings: withBindings(above.bindings, prim, this.find),
      visible:
        above.visible &&
        textOf(get(prim, 'visibility')) !== 'invisible' &&
        purpose !== 'guide' &&
        purpose !== 'proxy',
      skeleton: targetOf(prim, 'skel:skeleton') ?? above.skeleton,
      animation: targetOf(prim, 'skel:animationSource') ?? above.animation,
    };
  }

  private addMesh(prim: ComposedPrim, node: SceneNode, index: number, inherited: Inherited): void {
    node.kind = 'mesh';
    const subsets = readSubsets(prim);
    const key = this.shapeKey(
      prim,
      subsets.map((subset) => subset.prim),
    );
    let existing = this.meshes.get(key);
    if (!existing) {
      const { mesh, kept } = this.readShape(prim, node.name);
      const groups = readBlendShapes(prim, mesh, this.stage, this.document.remarks);
      if (groups.length > 0) this.shapeGroups.set(this.document.meshes.length, groups);
      existing = { index: this.document.meshes.length, allInSubsets: assignSubsets(mesh, subsets, kept) };
      this.document.meshes.push(mesh);
      this.meshes.set(key, existing);
    }
    node.mesh = existing.index;
    const slot = (target: string) => (target === '' ? -1 : (this.materials.get(target) ?? -1));
    const { bindings } = inherited;
    const ofSubsets = subsets.map(({ prim: subset }) =>
      slot(boundMaterial(withBindings(bindings, subset, this.find), subset.path)),
    );
    const own = slot(boundMaterial(bindings, prim.path));
    // Slot 0 is the mesh's own material, where a face is left for it; each subset has a slot of its own.
    node.materials = existing.allInSubsets ? ofSubsets : [own, ...ofSubsets];
    // The schema has planes alone seen from both sides where nothing is said.
    if ((numberOf(get(prim, 'doubleSided')) ?? Number(prim.typeName === 'Plane')) === 1) {
      for (const material of node.materials)
        if (material >= 0) this.document.materials[material].doubleSided = true;
    } else this.oneSided.push(node);
    if (inherited.skeleton) this.skeletonOf.set(index, inherited.skeleton);
    if (inherited.skeleton && prim.properties.has('primvars:skel:jointIndices')) {
      this.bindings.push({ prim, node: index, skeleton: inherited.skeleton });
    }
  }

  private readShape(prim: ComposedPrim, name: string): ReadMesh {
    const { remarks } = this.document;
    if (!isSolidShape(prim.typeName)) return readUsdMesh(prim, name, remarks);
    addUncarried(remarks, `formulas of ${prim.typeName} prims`, prim.path, { why: 'carried as polygons' });
    const mesh = readSolidShape(prim, name);
    readPrimvars({ prim, mesh, kept: null, keptCorners: null, remarks });
    return { mesh, kept: null };
  }

  /** What a mesh is made of, so that instances share it: the arrays of its shape and of its subsets. */
  private shapeKey(prim: ComposedPrim, subsets: ComposedPrim[]): string {
    const number = (value: unknown) => {
      if (typeof value !== 'object' || value === null) return '';
      let existing = this.arrayNumbers.get(value);
      if (existing === undefined) {
        existing = this.nextArray;
        this.nextArray += 1;
        this.arrayNumbers.set(value, existing);
      }
      return existing;
    };
    const names = [...prim.properties.keys()].filter(
      (name) =>
        name === 'points' ||
        name === 'faceVertexIndices' ||
        name === 'faceVertexCounts' ||
        name === 'normals' ||
        name.startsWith('primvars:'),
    );
    const said = SHAPE_WORDS.map((name) => numberOf(get(prim, name)) ?? textOf(get(prim, name)) ?? '');
    return [
      prim.typeName,
      ...said,
      ...names.map((name) => `${name} ${number(propertyValue(prim.properties.get(name)))}`),
      ...subsets.map((subset) => number(propertyValue(subset.properties.get('indices')))),
    ].join('|');
  }

  /** Colours are for programs without materials, and seen where a material reads them. */
  private readColours(): void {
    const { document, colours } = this;
    const { nodes, meshes, materials } = document;
    for (const { mesh, materials: slots } of nodes) {
      const name = slots.map((slot) => colours.get(materials[slot])).find((read) => read !== undefined);
      const layers = meshes[mesh]?.colours;
      const place = layers?.findIndex((layer) => layer.name === name) ?? -1;
      if (place > 0) layers.unshift(...layers.splice(place, 1));
    }
    for (const index of materialsUnderColours(document)) {
      const material = materials[index];
      if (material) sayColours(material, colours.has(material));
    }
  }

  finish(): void {
    const { document } = this;
    this.readColours();
    const worlds = this.growing.length > 0 ? worldMatrices(document.nodes) : [];
    for (const { light, node, growth } of this.growing)
      light.intensity *= Math.cbrt(Math.abs(determinant3(worlds[node]))) ** growth;
    for (const node of this.oneSided)
      if (node.materials.some((material) => document.materials[material]?.doubleSided)) node.oneSided = true;
    for (const { prim, node, skeleton } of this.bindings) {
      const skeletonRead = this.skeletons.get(skeleton);
      if (skeletonRead) bindMesh(prim, node, skeletonRead, document);
      else
        addUncarried(document.remarks, 'skins without a skeleton', prim.path, {
          why: 'the mesh stands still',
          severity: 'warning',
        });
    }
    const shaped = document.nodes.flatMap((node, i) => {
      const groups = this.shapeGroups.get(node.mesh);
      return groups ? [{ node: i, groups }] : [];
    });
    for (const [path, skeleton] of this.skeletons) {
      const source = this.animations.get(path) ?? targetOf(skeleton.prim, 'skel:animationSource');
      const animation = this.stage.byPath.get(source ?? '');
      const own = shaped.filter(({ node }) => (this.skeletonOf.get(node) ?? path) === path);
      readSkelPose(skeleton, animation, document, own);
      this.tracks.push(...readSkelAnimation(skeleton, animation, this.rate, own));
    }
    if (this.tracks.length > 0) document.clips.push(this.clip());
  }

  private clip(): Clip {
    const { startTimeCode, endTimeCode } = this.stage.metadata;
    const start = numberOf(startTimeCode);
    const end = numberOf(endTimeCode);
    return {
      name: 'animation',
      start:
        start !== undefined ? start / this.rate : Math.min(...this.tracks.map((track) => track.times[0])),
      end:
        end !== undefined
          ? end / this.rate
          : Math.max(...this.tracks.map((track) => track.times[track.times.length - 1])),
      tracks: this.tracks,
    };
  }
}

const PLAIN = new Set(['Xform', 'Scope', 'SkelRoot', 'Model']);

/** A scope that holds materials alone is no part of the scene. */
function isLookScope(prim: ComposedPrim): boolean {
  const holder = prim.typeName === 'Scope' || prim.typeName === '';
  return (
    holder &&
    prim.children.length > 0 &&
    prim.children.every((child) => child.typeName === 'Material' || isLookScope(child))
  );
}

/** The one root that our own writer puts around everything. */
function isOwnWrapper(prim: ComposedPrim): boolean {
  const data = prim.metadata.customData;
  return typeof data === 'object' && data !== null && 'kinkajouWrapper' in data;
}

function displayNameOf(prim: ComposedPrim): string {
  return textOf(prim.metadata.displayName) || prim.name;
}

/**
 * Writes material slots per face; true when every face is in a subset, so that the mesh's own material has
 * none.
 */
function assignSubsets(
  mesh: PolygonMesh,
  subsets: { faces: Float64Array }[],
  kept: Uint32Array | null,
): boolean {
  if (subsets.length === 0) return false;
  const written = new Map<number, number>();
  subsets.forEach(({ faces }, i) => {
    for (const face of faces) written.set(face, i + 1);
  });
  const slots = Int32Array.from(mesh.faceCounts, (_, face) => written.get(kept ? kept[face] : face) ?? 0);
  const all = slots.every((slot) => slot > 0);
  mesh.faceMaterial = all ? slots.map((slot) => slot - 1) : slots;
  return all;
}

/** Attributes that people or programs added. */
function customOf(prim: ComposedPrim): Record<string, CustomValue> {
  const custom: Record<string, CustomValue> = {};
  for (const property of prim.properties.values()) {
    if (property.kind !== 'attribute' || !(property.custom || property.name.startsWith('userProperties:')))
      continue;
    const value = propertyValue(property);
    const name = property.name.replace(/^userProperties:/, '');
    const numbers = numbersOf(value);
    if (typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean')
      custom[name] = value;
    else if (numbers && numbers.length <= 64) custom[name] = [...numbers];
  }
  return custom;
}

function relativePath(path: string, folder: string): string {
  if (folder === '') return path;
  if (path.startsWith(`${folder}/`)) return path.slice(folder.length + 1);
  const from = folder.split('/');
  const to = path.split('/');
  let shared = 0;
  while (shared < from.length && from[shared] === to[shared]) shared += 1;
  return [...from.slice(shared).map(() => '..'), ...to.slice(shared)].join('/');
}
