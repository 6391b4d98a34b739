import type { ImageInfo } from '../images/probe.ts';
import type { Tile } from '../links/tiles.ts';
import type { ReadFile } from '../parcel/fileSource.ts';
import type { Remark } from '../scene/document.ts';
import { type IntakeChoice, TAKE_ALL } from '../scene/intake.ts';
import type {
  Channel,
  ChannelName,
  ColourSpace,
  Component,
  Material,
  NormalDirection,
  NormalRepair,
  Provenance,
  Workflow,
} from '../scene/material.ts';
import type { Bounds, Counts } from '../scene/measure.ts';
import type { CutBy, PartChange } from '../scene/partChange.ts';
import type { ShapeFacts } from '../shape/shapeFacts.ts';
import type { UvLayout } from './uvLayout.ts';

/** An image file of the parcel, or one carried inside the model. */
export interface ParcelImage {
  /** Path in the parcel; `embedded/NAME` for carried ones, `search/N/PATH` for ones from further folders. */
  path: string;
  size: number;
  sha256: string;
  modified: string | null;
  /** Null when the header cannot be read; then `fault` says why. */
  info: ImageInfo | null;
  fault: { code: string; message: string } | null;
}

/** An image as the model refers to it, and what it resolves to. */
export interface AssetImage {
  key: string;
  written: string;
  relative: string | null;
  status: 'found' | 'missing' | 'embedded';
  /** Path of a {@link ParcelImage}, or null while missing. */
  resolved: string | null;
  /** Why this file, in words; '' while missing. */
  how: string;
  /** Of a map in tiles: what lies there, by number; `resolved` is the first of them. */
  tiles?: Tile[];
}

/** A node of the model, with what its geometry says. */
export interface AssetNode {
  name: string;
  kind: string;
  parent: number;
  polygons: number;
  /** Keys of the materials of its mesh; absent without one. */
  materials?: string[];
  /** Which of the source's {@link ShapeFacts} are its mesh's; absent without one. */
  shape?: number;
  /** Per material slot of the mesh the key, '' for none; absent without one. */
  slots?: string[];
  /** World space, metres, in the model's own axes; absent without geometry. */
  bounds?: Bounds;
  /** Bounds of the pieces that its mesh falls apart into, where they are listed in the mesh's facts. */
  pieces?: Partial<Record<CutBy, Bounds[]>>;
  /** Where it turns about, as bounds are told; absent where the format has no such place. */
  pivot?: [number, number, number];
  /**
   * Its own space, as bounds are told: three axes and where it begins; absent where it is the world's, moved
   * to the pivot. The box is what its mesh reaches in it.
   */
  frame?: number[];
  box?: Bounds;
  /** It follows joints, or some clip moves it. */
  skinned?: boolean;
  moves?: boolean;
  /** Its own scale is negative, and in the scene it stands mirrored. */
  flips?: boolean;
  mirrored?: boolean;
  /** The file hides it, by itself or by what it hangs on. */
  hidden?: boolean;
  /** How large its mesh is shown along its own axes; absent where that is as it is. */
  scale?: [number, number, number];
}

/**
 * A folder whose images bear the names of models, as pictures of them do in a library: `chair.png` beside
 * `chair/chair.obj`, and so for each.
 */
export interface PortraitFolder {
  folder: string;
  /** Names of the images there that no model is called like. */
  others: readonly string[];
}

/** An asset as its model file has it: everything but the geometry. Plain JSON. */
export interface AssetSource {
  name: string;
  model: string;
  format: 'fbx' | 'obj' | 'usd' | 'gltf';
  variant: string;
  generator: string;
  metresPerUnit: number;
  unitStated: boolean;
  upAxis: 'X' | 'Y' | 'Z';
  counts: Counts;
  /** World space, metres, in the model's own axes; null without geometry. */
  bounds: Bounds | null;
  materials: Material[];
  /** Faces per material key; faces without a material count under ''. */
  facesPerMaterial: Record<string, number>;
  uvSets: string[];
  /** Where each set stands among those of its meshes, where that is not its place in the list. */
  uvPlaces?: Record<string, number>;
  /** Keys of the materials on parts whose points have colours other than white, where there are any. */
  coloured?: string[];
  nodes: AssetNode[];
  images: AssetImage[];
  remarks: Remark[];
  /** UV tiles that the faces of each material reach into, where the model has maps in tiles. */
  uvTiles?: Record<string, number[]>;
  /** Per material the share of its faces, in 0..1, that use one point of their image; only those above 0. */
  pointUvs?: Record<string, number>;
  /** Where the faces of each material lie in its image. */
  uvLayouts?: Record<string, UvLayout>;
  /** What the geometry of each mesh says; absent where it was described before that was measured. */
  shapes?: ShapeFacts[];
  /**
   * Folder whose images are taken for this model's own, where the parcel holds several models; '' for the
   * whole parcel.
   */
  home?: string;
  /** Folders whose images lie in no model's home, so that they may be any model's. Absent for none. */
  commons?: readonly string[];
  /**
   * The nearest folder above that has images, where a model without any of its own has its home: another lives
   * there, and may share them. Absent for none.
   */
  lender?: string;
  /** Models that share this home, itself among them; images there may be another's. Absent for one. */
  modelsAtHome?: number;
  /** Folders of images that are called like models, as pictures of them are. Absent for none. */
  portraits?: readonly PortraitFolder[];
}

/** The asset as it stands after its edits. */
export interface AssetState {
  materials: Material[];
  images: AssetImage[];
  intake: IntakeChoice;
  /** Where the choice came from; absent while nothing was chosen. */
  intakeFrom?: Provenance;
  /** Nodes that were given another material, by {@link nodeKeys}. */
  bindings?: Record<string, string>;
  /** What was changed of the model's parts, in order. */
  parts?: PartChange[];
  /** Materials that gave way to an equal one, by key. */
  merged?: Record<string, string>;
  /** Numbers of materials that were given by hand, by key. */
  numbers?: Record<string, number>;
  /** Keys of images whose map gave way to its value; nothing reads them, and they were of use. */
  unmapped?: string[];
}

/** A slot: a material by its key, and one of its channels. */
export interface SlotAddress {
  material: string;
  channel: ChannelName;
}

/** An image of the parcel in a slot, and how it is read there. */
export interface SlotAssignment extends SlotAddress {
  /** Path of a parcel image. */
  image: string;
  component: Component;
  invert: boolean;
  space: ColourSpace;
  normalY: NormalDirection;
}

/** One recorded change, addressed by stable keys so that it can be replayed on a newer delivery. */
export type Edit =
  | { kind: 'linkImages'; links: { image: string; path: string; reason: string }[]; origin: Provenance }
  | { kind: 'unlinkImages'; images: string[]; origin: Provenance }
  | {
      kind: 'assignSlots';
      assignments: SlotAssignment[];
      /** Slots emptied in the same step. */
      clears?: SlotAddress[];
      /** Materials whose channels are meant for another shading model from now on. */
      workflows?: WorkflowChange[];
      origin: Provenance;
    }
  | { kind: 'adjustSlots'; slots: SlotAddress[]; change: SlotChange; origin: Provenance }
  | { kind: 'clearSlots'; slots: SlotAddress[]; origin: Provenance }
  | { kind: 'unmapSlots'; slots: UnmappedSlot[]; origin: Provenance }
  | {
      kind: 'pasteSlots';
      slots: PastedSlot[];
      /** Materials whose channels are meant for another shading model from now on. */
      workflows?: WorkflowChange[];
      /** What was done, in words; `Pasted` unless told. */
      what?: string;
      origin: Provenance;
    }
  | { kind: 'addMaterials'; materials: { name: string; like: string | null }[]; origin: Provenance }
  | { kind: 'bindNodes'; nodes: string[]; material: string; origin: Provenance }
  | { kind: 'editParts'; change: PartChange; origin: Provenance }
  /** Materials that are equal in all but the name become one. */
  | { kind: 'mergeMaterials'; materials: string[]; into: string; origin: Provenance }
  | { kind: 'dropMaterials'; materials: string[]; origin: Provenance }
  | { kind: 'renameMaterials'; names: { material: string; name: string }[]; origin: Provenance }
  | { kind: 'numberMaterials'; numbers: { material: string; number: number }[]; origin: Provenance }
  | { kind: 'setValues'; slots: SlotAddress[]; value: Channel['value']; origin: Provenance }
  | { kind: 'setIntake'; choice: IntakeChoice; origin: Provenance }
  | { kind: 'replaceMaterials'; materials: string[]; by: CanonicalMaterial; origin: Provenance }
  | { kind: 'setAlpha'; materials: string[]; change: AlphaChange; origin: Provenance };

/** The kind of an edit, which names the file in `edits/` that carries it out. */
export type EditKind = Edit['kind'];

/** A material as the shelf keeps it; images are named as the receiving asset knows them. */
export interface CanonicalMaterial
  extends Pick<Material, 'name' | 'workflow' | 'alphaMode' | 'alphaCutoff' | 'doubleSided' | 'exponent'> {
  channels: Partial<Record<ChannelName, Pick<Channel, 'value' | 'map'>>>;
}

/** What is changed in how a slot reads its map; what is left out stays. */
export interface SlotChange {
  component?: Component;
  invert?: boolean;
  space?: ColourSpace;
  normalY?: NormalDirection;
  /** 1 takes an exponent back. */
  exponent?: number;
  repair?: NormalRepair | 'none';
  filter?: 'smooth' | 'nearest';
}

/** A slot whose constant map gives way to its value; null empties the slot. */
export interface UnmappedSlot extends SlotAddress {
  value: Channel['value'] | null;
}

/** A material's change to another way of saying its reflections. */
export interface WorkflowChange {
  material: string;
  workflow: Workflow;
  /** Specular exponent of a legacy material, else null. */
  exponent: number | null;
}

/** What a slot is to hold, wiring and all; null empties it. */
export interface PastedSlot extends SlotAddress {
  content: Pick<Channel, 'value' | 'map'> | null;
}

/** What is changed in how a material is seen through; what is left out stays. */
export interface AlphaChange {
  alphaMode?: Material['alphaMode'];
  alphaCutoff?: number;
  opacity?: number;
  doubleSided?: boolean;
  /** Whether colours of points multiply the base colour. */
  colours?: 'shown' | 'passed';
  /** In scene units; 0 makes thin walls. */
  thickness?: number;
}

/** An asset as it stands, with what reads its files. */
export interface LoadedAsset {
  source: AssetSource;
  state: AssetState;
  images: readonly ParcelImage[];
  read: ReadFile;
}

/** Where the state starts: the source's own materials and images. */
export function initialState(source: AssetSource): AssetState {
  return { materials: source.materials, images: source.images, intake: TAKE_ALL };
}

/** Stable keys of nodes: the name with an occurrence number where it repeats. */
export function nodeKeys(nodes: readonly { name: string }[]): string[] {
  const seen = new Map<string, number>();
  return nodes.map(({ name }) => {
    const count = (seen.get(name) ?? 0) + 1;
    seen.set(name, count);
    return count === 1 ? name : `${name} (${count})`;
  });
}

/** The material with this key. */
export function findMaterial(state: AssetState, key: string): Material | undefined {
  return state.materials.find((material) => material.key === key);
}

/** The image with this key. */
export function findImage(state: AssetState, key: string): AssetImage | undefined {
  return state.images.find((image) => image.key === key);
}

/** Which slots read each image key. */
export function usesOfImages(state: AssetState): Map<string, SlotAddress[]> {
  const uses = new Map<string, SlotAddress[]>();
  for (const material of state.materials) {
    for (const [name, channel] of Object.entries(material.channels)) {
      if (!channel?.map) continue;
      const list = uses.get(channel.map.image) ?? [];
      list.push({ material: material.key, channel: name as ChannelName });
      uses.set(channel.map.image, list);
    }
  }
  return uses;
}
