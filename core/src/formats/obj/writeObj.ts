import { asPicked, coloursUnsaid } from '../../scene/colours.ts';
import {
  isSolid,
  type Layer,
  layerEntry,
  type PolygonMesh,
  type SceneDocument,
} from '../../scene/document.ts';
import { withMaterialForAll } from '../../scene/materialForAll.ts';
import { geometricMatrix, multiply, worldMatrices } from '../../scene/matrix.ts';
import { bakeMesh } from '../../scene/reorient.ts';
import { partsUnsaid } from '../../scene/unsaidParts.ts';
import { Losses, plainTarget, type TargetOf, type WrittenModel } from '../written.ts';
import { numberText, oneLine } from './objWords.ts';
import { objPartNames } from './partNames.ts';
import { materialWords, writeMtl } from './writeMtl.ts';

/** How the model and its material library are written. */
export interface ObjWriteOptions {
  /** File name without extension; the library lies beside under the same name. */
  name: string;
  creator?: string;
  targetOf?: TargetOf;
}

const FLUSH_AT = 1 << 16;

/**
 * Writes a document as OBJ with MTL, in the document's unit and axes: world transforms baked, polygons kept,
 * one object per node. OBJ knows one UV set, no hierarchy, no instances, and no motion; what is lost is
 * listed.
 */
export function writeObj(given: SceneDocument, options: ObjWriteOptions): WrittenModel {
  const losses = new Losses();
  const { document, parts: bare } = withMaterialForAll(given);
  for (const part of bare) losses.add({ code: 'obj.noMaterial', part });
  const out = new TextSink();
  const library = `${options.name}.mtl`;
  out.line(`# ${options.creator ?? 'Kinkajou'}`);
  if (document.materials.length > 0) out.line(`mtllib ${library}`);
  const worlds = worldMatrices(document.nodes);
  const offsets: Standing = { points: 1, uvs: 1, normals: 1, material: -1, smoothing: null };
  const parts = document.nodes.filter(({ mesh }) => mesh >= 0);
  const names = new Map(
    objPartNames(parts.map(({ name }) => oneLine(name))).map((name, i) => [parts[i], name]),
  );
  const words = materialWords(document.materials);
  const wordOf = (index: number) => words.get(document.materials[index].key) ?? '';
  document.nodes.forEach((node, i) => {
    if (node.mesh < 0) return;
    const mesh = bakeMesh(document.meshes[node.mesh], multiply(worlds[i], geometricMatrix(node.transform)));
    out.line(`o ${names.get(node)}`);
    tellLostLayers(mesh, node.name, losses);
    writeMesh(out, mesh, { slots: node.materials, wordOf }, offsets);
  });
  for (const loss of partsUnsaid(document, 'OBJ')) losses.add(loss);
  for (const loss of coloursUnsaid(document, 'OBJ')) losses.add(loss);
  if (document.nodes.some((node) => node.parent >= 0)) losses.add({ code: 'obj.hierarchy' });
  if (document.nodes.some((node) => node.camera >= 0)) losses.add({ code: 'obj.cameras' });
  if (document.nodes.some((node) => node.light >= 0)) losses.add({ code: 'obj.lights' });
  if (document.clips.length > 0) losses.add({ code: 'obj.motion' });
  if (document.skins.length > 0) losses.add({ code: 'obj.skins' });
  const files = new Map([[`${options.name}.obj`, out.finish()]]);
  if (document.materials.length > 0)
    files.set(library, writeMtl(document, options.targetOf ?? plainTarget, losses));
  return { files, losses: losses.list() };
}

/** Layers that OBJ has no place for. */
function tellLostLayers(
  { uvSets, shapes, colours, tangents }: PolygonMesh,
  part: string,
  losses: Losses,
): void {
  if (uvSets.length > 1) losses.add({ code: 'obj.uvSets', part });
  if (shapes.length > 0) losses.add({ code: 'obj.morphs', part });
  const points = colours.filter(({ domain }) => domain === 'point');
  if (colours.length > Math.min(1, points.length)) losses.add({ code: 'obj.colours', part });
  if (tangents) losses.add({ code: 'obj.tangents', part });
  if (points.length > 0 && !isSolid(points[0])) losses.add({ code: 'obj.alpha', part });
}

interface PartMaterials {
  /** Materials of the document by slot, -1 for none. */
  slots: number[];
  wordOf(material: number): string;
}

/**
 * Points, UVs and normals that stand in the file before a part, and 1; and what holds for its faces until
 * another is said.
 */
interface Standing {
  points: number;
  uvs: number;
  normals: number;
  /** -1 for none. */
  material: number;
  /** Null as long as nothing was said. */
  smoothing: number | null;
}

function writeMesh(
  out: TextSink,
  mesh: PolygonMesh,
  { slots, wordOf }: PartMaterials,
  offsets: Standing,
): void {
  const [uv] = mesh.uvSets;
  writePoints(out, mesh);
  if (uv) writeValues(out, 'vt', uv);
  if (mesh.normals) writeValues(out, 'vn', mesh.normals);
  let corner = 0;
  for (let face = 0; face < mesh.faceCounts.length; face += 1) {
    const required = slots[mesh.faceMaterial ? mesh.faceMaterial[face] : 0] ?? -1;
    if (required !== offsets.material || (face === 0 && required >= 0)) {
      out.line(`usemtl ${wordOf(required)}`);
      offsets.material = required;
    }
    const group = mesh.faceSmoothing?.[face] ?? 0;
    const writesSmoothing = mesh.faceSmoothing !== null || (offsets.smoothing ?? 0) !== 0;
    if (writesSmoothing && (group !== offsets.smoothing || (face === 0 && mesh.faceSmoothing !== null))) {
      out.line(`s ${group === 0 ? 'off' : group >>> 0}`);
      offsets.smoothing = group;
    }
    let text = 'f';
    for (let i = 0; i < mesh.faceCounts[face]; i += 1, corner += 1) {
      const point = mesh.faceCorners[corner];
      text += ` ${point + offsets.points}`;
      if (uv || mesh.normals) text += `/${uv ? layerEntry(uv, corner, point, face) + offsets.uvs : ''}`;
      if (mesh.normals) text += `/${layerEntry(mesh.normals, corner, point, face) + offsets.normals}`;
    }
    out.line(text);
  }
  offsets.points += mesh.points.length / 3;
  if (uv) offsets.uvs += uv.values.length / 2;
  if (mesh.normals) offsets.normals += mesh.normals.values.length / 3;
}

/** Points with their colour where one is given by point. */
function writePoints(out: TextSink, { points, colours }: PolygonMesh): void {
  const own = colours.find((layer) => layer.domain === 'point');
  const colour = own && asPicked(own);
  for (let i = 0; i + 2 < points.length; i += 3) {
    let text = `v ${numberText(points[i])} ${numberText(points[i + 1])} ${numberText(points[i + 2])}`;
    if (colour) {
      const offset = (colour.index ? colour.index[i / 3] : i / 3) * colour.size;
      text += ` ${numberText(colour.values[offset])} ${numberText(colour.values[offset + 1])} ${numberText(colour.values[offset + 2])}`;
    }
    out.line(text);
  }
}

function writeValues(out: TextSink, word: string, { values, size }: Layer): void {
  for (let i = 0; i + size <= values.length; i += size) {
    let text = word;
    for (let k = 0; k < size; k += 1) text += ` ${numberText(values[i + k])}`;
    out.line(text);
  }
}

/** Collects lines and encodes them piece by piece, so that the whole text is never held as one string. */
class TextSink {
  private readonly pieces: Uint8Array[] = [];
  private readonly encoder = new TextEncoder();
  private text = '';

  line(text: string): void {
    this.text += `${text}\n`;
    if (this.text.length > FLUSH_AT) this.flush();
  }

  finish(): Uint8Array {
    this.flush();
    const out = new Uint8Array(this.pieces.reduce((sum, piece) => sum + piece.length, 0));
    let offset = 0;
    for (const piece of this.pieces) {
      out.set(piece, offset);
      offset += piece.length;
    }
    return out;
  }

  private flush(): void {
    if (this.text !== '') this.pieces.push(this.encoder.encode(this.text));
    this.text = '';
  }
}
