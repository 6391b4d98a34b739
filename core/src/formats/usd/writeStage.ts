import { otherFading } from '../../scene/carriesLight.ts';
import { materialsUnderColours } from '../../scene/colours.ts';
import type { SceneDocument, SceneNode, Track } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import { withMaterialForSlots } from '../../scene/materialForAll.ts';
import { geometricMatrix, identity, type Matrix4, worldMatrices } from '../../scene/matrix.ts';
import { partsOffJoints } from '../../scene/partsOffJoints.ts';
import { withPlainInheritance } from '../../scene/plainInheritance.ts';
import { isMotion, motionInScene } from '../../scene/rebase.ts';
import { bakeMesh } from '../../scene/reorient.ts';
import { withStillJoints } from '../../scene/stillJoints.ts';
import { Losses, plainTarget, type TargetOf } from '../written.ts';
import { cleanIdentifier, createIdentifiers, identifiersOf } from './identifiers.ts';
import {
  createPrim,
  createProperty,
  type PrimSpec,
  type UsdDictionary,
  type UsdLayer,
  type UsdValue,
} from './layer.ts';
import { TIME_CODES_PER_SECOND } from './timeCodes.ts';
import { UvNames } from './uvNames.ts';
import { jointsOf, planSkeletons, SKELETON, type SkeletonPlan, writeSkeletons } from './writeSkel.ts';
import { materialPrim } from './writeUsdMaterial.ts';
import { fillMesh } from './writeUsdMesh.ts';
import { cameraPrim, lightPrim } from './writeViews.ts';
import { addTransform, carriedClip, tracksByNode } from './writeXforms.ts';

/** How the stage is written. */
export interface StageOptions {
  /** Name of the root prim. */
  name: string;
  creator?: string;
  targetOf?: TargetOf;
}

/**
 * A document as one layer: a root around everything, nodes as Xforms, meshes with subsets per material,
 * materials as preview surfaces under a scope of their own. Polygons, units and axes stay as they are.
 */
export function buildStage(given: SceneDocument, options: StageOptions): { layer: UsdLayer; losses: Loss[] } {
  const losses = new Losses();
  const plain = withPlainInheritance(given);
  if (plain.shearedMotion.length > 0) losses.add({ code: 'usd.shearMotion' });
  const still = withStillJoints(plain.document);
  for (const loss of still.losses) losses.add(loss);
  const { document, parts } = withMaterialForSlots(still.document);
  for (const part of parts) losses.add({ code: 'part.noMaterial', part, detail: 'USD' });
  const builder = new StageBuilder(partsOffJoints(document, jointsOf(document)), options, losses);
  return { layer: builder.build(), losses: losses.list() };
}

class StageBuilder {
  private readonly root: PrimSpec;
  private readonly rootPath: string;
  /** What the skeleton is called below the root, where there is one. */
  private skeletonName = SKELETON;
  private readonly prims: (PrimSpec | null)[] = [];
  private readonly paths: string[] = [];
  private readonly names = new Map<PrimSpec, (name: string) => string>();
  private readonly materialPaths: string[] = [];
  /** Names of all nodes, worked out once: every prim with children hands out names of its own. */
  private readonly nodeNames: ReadonlySet<string>;
  /** First prim of each mesh, whose arrays later ones share. */
  private readonly meshPrims = new Map<number, PrimSpec>();
  private readonly skeletons: SkeletonPlan;
  private readonly uvNames: UvNames;
  private readonly parents: Set<number>;
  /** Paths in the package by the keys of images. */
  private readonly images: ReadonlyMap<string, string>;

  constructor(
    private readonly document: SceneDocument,
    private readonly options: StageOptions,
    private readonly losses: Losses,
  ) {
    const name = cleanIdentifier(options.name, 'asset');
    const target = options.targetOf ?? plainTarget;
    this.images = new Map(document.images.map((image) => [image.key, target(image).path]));
    this.nodeNames = identifiersOf(document.nodes);
    this.uvNames = new UvNames(document);
    this.skeletons = planSkeletons(document);
    this.parents = new Set(document.nodes.map((node) => node.parent));
    const moving = this.skeletons.joints.length > 0 || document.meshes.some((mesh) => mesh.shapes.length > 0);
    this.root = createPrim(name, moving ? 'SkelRoot' : 'Xform', 'def', {
      kind: 'component',
      customData: { kinkajouWrapper: true } as UsdDictionary,
    });
    this.rootPath = `/${name}`;
  }

  build(): UsdLayer {
    const { document, options, root, rootPath } = this;
    this.planMaterials();
    if (this.skeletons.joints.length > 0) this.skeletonName = this.nameUnder(root)(SKELETON);
    const tracks = tracksByNode(document);
    const worlds = worldMatrices(document.nodes);
    document.nodes.forEach((node, index) => this.addNode(node, index, tracks, worlds));
    writeSkeletons(
      document,
      this.skeletons,
      {
        name: this.skeletonName,
        root,
        rootPath,
        nameUnder: this.nameUnder(root),
        primOf: (node) => this.prims[node],
        worlds,
      },
      this.losses,
    );
    this.addMaterials();
    const metadata: Record<string, UsdValue> = {
      customLayerData: { creator: options.creator ?? 'Kinkajou' } as UsdDictionary,
      defaultPrim: root.name,
      metersPerUnit: document.metresPerUnit,
      upAxis: document.axes.up.axis === 2 ? 'Z' : 'Y',
    };
    const clip = carriedClip(document);
    if (clip) {
      metadata.startTimeCode = clip.start * TIME_CODES_PER_SECOND;
      metadata.endTimeCode = clip.end * TIME_CODES_PER_SECOND;
      metadata.timeCodesPerSecond = TIME_CODES_PER_SECOND;
    }
    for (const loss of otherFading(document)) this.losses.add(loss);
    for (const other of document.clips)
      if (other !== clip) this.losses.add({ code: 'usd.clips', part: other.name });
    return { metadata, prims: [root] };
  }

  private nameUnder(prim: PrimSpec): (name: string) => string {
    let namer = this.names.get(prim);
    if (!namer) {
      namer = createIdentifiers(this.nodeNames);
      this.names.set(prim, namer);
    }
    return namer;
  }

  private planMaterials(): void {
    const namer = createIdentifiers(identifiersOf(this.document.materials));
    for (const material of this.document.materials)
      this.materialPaths.push(`${this.rootPath}/Looks/${namer(material.name)}`);
    if (this.document.materials.length > 0) this.nameUnder(this.root)('Looks');
  }

  private addMaterials(): void {
    if (this.document.materials.length === 0) return;
    const looks = createPrim('Looks', 'Scope');
    const coloured = materialsUnderColours(this.document);
    this.document.materials.forEach((material, i) => {
      const path = this.materialPaths[i];
      looks.children.push(
        materialPrim(material, path, {
          images: this.images,
          uvName: (set) => this.uvNames.of(i, set),
          coloured: coloured.has(i),
          losses: this.losses,
        }),
      );
    });
    this.root.children.push(looks);
  }

  /**
   * The motion of a part that hangs on a joint: joints are no prims, so that it goes where they go by itself.
   */
  private motionOnJoint(index: number, ownTracks: readonly Track[]): Track[] {
    return [
      ...motionInScene(this.document.nodes, index, carriedClip(this.document)?.tracks ?? []),
      ...ownTracks.filter((track) => !isMotion(track)),
    ];
  }

  /** The prim of a camera or light; null for any other node. */
  private viewPrim({ camera, light }: SceneNode): PrimSpec | null {
    const { cameras, lights } = this.document;
    if (camera >= 0) return cameraPrim(cameras[camera]);
    return light >= 0 ? lightPrim(lights[light], this.images, this.document) : null;
  }

  private addNode(
    node: SceneNode,
    index: number,
    tracks: ReturnType<typeof tracksByNode>,
    worlds: Matrix4[],
  ): void {
    if (this.skeletons.isJoint.has(index)) {
      if (tracks.get(index)?.some(({ path }) => path === 'visible'))
        this.losses.add({ code: 'usd.jointShown', part: node.name });
      this.prims.push(null);
      this.paths.push('');
      return;
    }
    const onJoint = node.parent >= 0 && this.prims[node.parent] === null;
    if (onJoint) this.losses.add({ code: 'usd.onBone' });
    const parent = node.parent < 0 || onJoint ? this.root : (this.prims[node.parent] as PrimSpec);
    const parentPath = parent === this.root ? this.rootPath : this.paths[node.parent];
    const hasChildren = this.parents.has(index);
    // Readers cannot open a mesh without a point; it is a place like any other.
    const shaped = node.mesh >= 0 && this.document.meshes[node.mesh].points.length > 0;
    const typeName = typeNameOf(node, shaped && !hasChildren);
    const prim = this.viewPrim(node) ?? createPrim('', typeName);
    prim.name = this.nameUnder(parent)(node.name);
    if (prim.name !== node.name) prim.metadata.displayName = node.name;
    parent.children.push(prim);
    this.prims.push(prim);
    const path = `${parentPath}/${prim.name}`;
    this.paths.push(path);
    const ownTracks = tracks.get(index) ?? [];
    addTransform(
      prim,
      node,
      {
        placed: onJoint ? worlds[index] : null,
        tracks: onJoint ? this.motionOnJoint(index, ownTracks) : ownTracks,
      },
      this.losses,
    );
    if (!node.visible && !prim.properties.has('visibility'))
      prim.properties.set('visibility', createProperty('visibility', 'token', { value: 'invisible' }));
    addCustom(prim, node);
    if (!shaped) return;
    if (prim.typeName === 'Mesh') this.addMesh(prim, path, node);
    else {
      // Named like the part, which is the whole with what hangs on it.
      const mesh = createPrim(this.nameUnder(prim)(node.name), 'Mesh');
      if (mesh.name !== node.name) mesh.metadata.displayName = node.name;
      prim.children.push(mesh);
      this.addMesh(mesh, `${path}/${mesh.name}`, node);
    }
  }

  private addMesh(prim: PrimSpec, path: string, node: SceneNode): void {
    const geometric = geometricMatrix(node.transform);
    const moved = geometric.some((component, i) => Math.abs(component - identity()[i]) > 1e-12);
    const source = this.document.meshes[node.mesh];
    // Instances share their arrays; other programs do not follow references within a file.
    const mesh = moved ? bakeMesh(source, geometric) : source;
    const { document, materialPaths, losses, uvNames } = this;
    fillMesh({ prim, path, nameUnder: this.nameUnder(prim) }, mesh, node, {
      document,
      materialPaths,
      losses,
      uvNames,
    });
    const first = moved ? undefined : this.meshPrims.get(node.mesh);
    if (first) shareArrays(prim, first);
    else if (!moved) this.meshPrims.set(node.mesh, prim);
    this.skeletons.bind(prim, node, `${this.rootPath}/${this.skeletonName}`);
  }
}

function typeNameOf(node: SceneNode, isMesh: boolean) {
  if (node.camera >= 0) return 'Camera';
  if (node.light >= 0) return '';
  return isMesh ? 'Mesh' : 'Xform';
}

/** Lets a prim hold the very arrays of another one where both say the same. */
function shareArrays(prim: PrimSpec, first: PrimSpec): void {
  for (const [name, property] of prim.properties) {
    const existing = first.properties.get(name);
    if (
      existing &&
      ArrayBuffer.isView(existing.value) &&
      ArrayBuffer.isView(property.value) &&
      existing.typeName === property.typeName &&
      !name.startsWith('xformOp')
    )
      property.value = existing.value;
  }
  prim.children.forEach((child, i) => {
    if (first.children[i]?.name === child.name) shareArrays(child, first.children[i]);
  });
}

function addCustom(prim: PrimSpec, node: SceneNode): void {
  for (const [name, value] of Object.entries(node.custom)) {
    const type = valueType(value);
    const key = `userProperties:${cleanIdentifier(name, 'property')}`;
    prim.properties.set(
      key,
      createProperty(key, type, {
        custom: true,
        value: Array.isArray(value) ? Float64Array.from(value) : value,
      }),
    );
  }
}

function valueType(value: string | number | boolean | number[]) {
  if (typeof value === 'string') return 'string';
  if (typeof value === 'boolean') return 'bool';
  return typeof value === 'number' ? 'double' : 'double[]';
}
