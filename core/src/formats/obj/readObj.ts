import { KinkajouError } from '../../errors.ts';
import { extensionOf, type FileSource, folderOf, safePath, stemOf } from '../../parcel/fileSource.ts';
import { asLight } from '../../scene/colours.ts';
import {
  addRemark,
  createDocument,
  createMesh,
  createNode,
  type Layer,
  type PolygonMesh,
  type SceneDocument,
} from '../../scene/document.ts';
import { assignKeys, createMaterial, type ImageEntry } from '../../scene/material.ts';
import { notFinite } from '../../scene/wholesome.ts';
import { looksWide } from '../text.ts';
import { toMaterial } from './mtlMaterial.ts';
import { parseMtl } from './parseMtl.ts';
import { ObjScanner, type ScannedObj } from './scanObj.ts';

/**
 * Reads an OBJ model and the MTL libraries it names from the source. One mesh and node per object, or per
 * group where there are no objects; corners keep their own UV and normal indices. Throws `obj.empty` when
 * there is not a single face.
 */
export async function readObj(
  content: Uint8Array | AsyncIterable<Uint8Array>,
  path: string,
  source: FileSource,
): Promise<SceneDocument> {
  const document = createDocument('obj', 'text');
  const scanned = await scan(content);
  document.remarks.push(...scanned.remarks);
  document.generator = scanned.header;
  if (scanned.faceCounts.length === 0) {
    const range = scanned.remarks.some((remark) => remark.code === 'read.indexRange');
    if (range || scanned.points.length === 0) {
      throw new KinkajouError(
        'obj.empty',
        range ? 'every face names points that do not exist' : 'there is not a single face in this file',
        { file: path },
        'Export the model again with its faces.',
      );
    }
    addRemark(document.remarks, {
      code: 'read.noFaces',
      severity: 'warning',
      subject: path,
      message: `there are ${scanned.points.length / 3} points and not a single face; nothing can be shown`,
    });
  }
  await readLibraries(document, scanned, path, source);
  buildMeshes(document, scanned, stemOf(path));
  assignKeys(document.materials);
  return document;
}

/**
 * Feeds the scanner piece by piece. UTF-16 is turned into UTF-8 on the way: statements are ASCII in every
 * other encoding.
 */
async function scan(content: Uint8Array | AsyncIterable<Uint8Array>): Promise<ScannedObj> {
  const scanner = new ObjScanner();
  let decoder: InstanceType<typeof TextDecoder> | null = null;
  let first = true;
  const feed = (piece: Uint8Array) => {
    if (first && piece.length > 0) {
      const wide = looksWide(piece);
      decoder = wide ? new TextDecoder(wide) : null;
      first = false;
      if (!wide && piece[0] === 0xef && piece[1] === 0xbb && piece[2] === 0xbf)
        return scanner.feed(piece.subarray(3));
    }
    scanner.feed(decoder ? new TextEncoder().encode(decoder.decode(piece, { stream: true })) : piece);
  };
  if (content instanceof Uint8Array) feed(content);
  else for await (const piece of content) feed(piece);
  return scanner.finish();
}

async function readLibraries(document: SceneDocument, scanned: ScannedObj, path: string, source: FileSource) {
  const images = new Map<string, ImageEntry>();
  const addImage = (written: string) => {
    let image = images.get(written);
    if (!image) {
      image = { key: written, written, relative: null, embedded: null };
      images.set(written, image);
      document.images.push(image);
    }
    return image;
  };
  for (const library of findLibraries(document, scanned.libraries, path, source)) {
    for (const entry of parseMtl(await source.read(library))) {
      document.materials.push(toMaterial(entry, addImage, document.remarks));
    }
  }
}

/**
 * Material libraries of a model, as they lie in the source, in the order in which their materials are read.
 */
export async function librariesOf(
  content: Uint8Array | AsyncIterable<Uint8Array>,
  path: string,
  source: FileSource,
): Promise<string[]> {
  return findLibraries(createDocument('obj', 'text'), (await scan(content)).libraries, path, source);
}

/** A `mtllib` line names one file with spaces in its name, or several files; what exists decides. */
function findLibraries(document: SceneDocument, lines: string[], path: string, source: FileSource): string[] {
  const libraries = new Set<string>();
  for (const line of new Set(lines)) {
    const whole = findFile(line, path, source);
    const names = whole ? [line] : line.split(/\s+/).filter(Boolean);
    for (const name of names) {
      const file = findFile(name, path, source);
      if (file) libraries.add(file);
      else {
        addRemark(document.remarks, {
          code: 'read.libraryMissing',
          severity: 'error',
          subject: name,
          message: `the material library ${name} is not in the parcel; its materials are empty`,
        });
      }
    }
  }
  if (libraries.size === 0) {
    const beside = findFile(`${stemOf(path)}.mtl`, path, source);
    if (beside) {
      libraries.add(beside);
      addRemark(document.remarks, {
        code: 'read.libraryGuessed',
        severity: 'note',
        subject: beside,
        message: `${beside} has the model's name and was taken as its material library`,
      });
    }
  }
  return [...libraries];
}

/** By relative path first, then by bare name anywhere in the parcel, then but for case. */
function findFile(name: string, path: string, source: FileSource): string | null {
  const paths = source.files
    .map((file) => file.path)
    .filter((file) => extensionOf(file) === extensionOf(name));
  const slashed = name.replaceAll('\\', '/');
  const relative = safePath(`${folderOf(path)}/${slashed}`.replace(/^\//, ''));
  if (relative && paths.includes(relative)) return relative;
  const bare = slashed.slice(slashed.lastIndexOf('/') + 1);
  const same = paths.find((file) => file === bare || file.endsWith(`/${bare}`));
  if (same) return same;
  const lower = bare.toLowerCase();
  return (
    paths.find((file) => file.toLowerCase() === lower || file.toLowerCase().endsWith(`/${lower}`)) ?? null
  );
}

interface Part {
  name: string;
  /** Half-open face ranges with the material each uses. */
  ranges: { first: number; end: number; material: string; smoothing: number }[];
  faces: number;
}

function buildMeshes(document: SceneDocument, scanned: ScannedObj, fallbackName: string): void {
  const cornerStarts = startsOf(scanned);
  const materialIndex = new Map<string, number>();
  document.materials.forEach((material, index) => {
    if (!materialIndex.has(material.name)) materialIndex.set(material.name, index);
  });
  const materialOf = (name: string) => {
    if (name === '') return -1;
    let index = materialIndex.get(name);
    if (index === undefined) {
      index = document.materials.length;
      document.materials.push(createMaterial(name, 'legacy'));
      materialIndex.set(name, index);
      addRemark(document.remarks, {
        code: 'read.materialMissing',
        severity: 'warning',
        subject: name,
        message: `faces use the material ${name}, which no library defines; an empty one stands in`,
      });
    }
    return index;
  };
  const compact = createCompactor(scanned);
  const parts = gatherParts(scanned, fallbackName);
  const filled = new Set(parts.map(({ name }) => name));
  for (const name of scanned.objects) {
    if (filled.has(name)) continue;
    addRemark(document.remarks, {
      code: 'part.empty',
      severity: 'note',
      subject: name,
      message: 'an object without a single face; it is not carried over',
    });
  }
  for (const part of parts) {
    const slots: number[] = [];
    const mesh = buildMesh(part, { scanned, starts: cornerStarts, compact }, (name) => {
      const index = materialOf(name);
      const slot = slots.indexOf(index);
      if (slot >= 0) return slot;
      slots.push(index);
      return slots.length - 1;
    });
    if (mesh.bad.length > 0)
      addRemark(
        document.remarks,
        notFinite(part.name, `, first on line ${scanned.badPoints.get(mesh.bad[0])}`),
        mesh.bad.length,
      );
    document.meshes.push(mesh.mesh);
    document.nodes.push(
      createNode(part.name, 'mesh', -1, { mesh: document.meshes.length - 1, materials: slots }),
    );
  }
}

function gatherParts(scanned: ScannedObj, fallbackName: string): Part[] {
  const total = scanned.faceCounts.length;
  const byObject = scanned.runs.some((run) => run.object !== '');
  const parts = new Map<string, Part>();
  scanned.runs.forEach((run, index) => {
    const end = scanned.runs[index + 1]?.firstFace ?? total;
    if (end === run.firstFace) return;
    const name = (byObject ? run.object : run.group) || fallbackName;
    let part = parts.get(name);
    if (!part) {
      part = { name, ranges: [], faces: 0 };
      parts.set(name, part);
    }
    part.ranges.push({ first: run.firstFace, end, material: run.material, smoothing: run.smoothing });
    part.faces += end - run.firstFace;
  });
  return [...parts.values()];
}

function startsOf(scanned: ScannedObj): Uint32Array {
  const starts = new Uint32Array(scanned.faceCounts.length + 1);
  for (let face = 0; face < scanned.faceCounts.length; face += 1) {
    starts[face + 1] = starts[face] + scanned.faceCounts.values[face];
  }
  return starts;
}

/** A part's own numbers of values that all parts of the file share. */
interface Compacted {
  /** Own value of each entry. */
  index: Uint32Array;
  /** Shared value behind each own one, in order of first use. */
  used: Uint32Array;
  values: Float64Array;
}

/** A run of corners of the file: the first, and the one after the last. */
interface CornerRun {
  first: number;
  end: number;
}

/** What {@link Compacted.index} says of a corner without an entry, until the number of entries is known. */
const NO_ENTRY = 0xffffffff;

/**
 * Renumbers shared indices to the ones a part uses, in order of first use; an entry of -1, which names none,
 * gets the number after the last. Scratch tables are shared by all parts.
 */
function createCompactor(scanned: ScannedObj) {
  const lists = {
    points: { place: 0, values: scanned.points.values, size: 3, own: newTable(scanned.points.length / 3) },
    uvs: { place: 1, values: scanned.uvs.values, size: 2, own: newTable(scanned.uvs.length / 2) },
    normals: { place: 2, values: scanned.normals.values, size: 3, own: newTable(scanned.normals.length / 3) },
  };
  const written = scanned.corners.values;
  return (kind: keyof typeof lists, runs: readonly CornerRun[]): Compacted => {
    const { place, values, size, own } = lists[kind];
    const corners = runs.reduce((sum, { first, end }) => sum + end - first, 0);
    const index = new Uint32Array(corners);
    const order = new Uint32Array(Math.min(corners, own.length));
    let count = 0;
    let none = 0;
    let corner = 0;
    for (const { first, end } of runs) {
      for (let source = first * 3 + place; source < end * 3; source += 3, corner += 1) {
        const shared = written[source];
        if (shared < 0) {
          none += 1;
          index[corner] = NO_ENTRY;
          continue;
        }
        let ownIndex = own[shared];
        if (ownIndex < 0) {
          ownIndex = count;
          own[shared] = ownIndex;
          order[count] = shared;
          count += 1;
        }
        index[corner] = ownIndex;
      }
    }
    if (none > 0) for (let i = 0; i < corners; i += 1) if (index[i] === NO_ENTRY) index[i] = count;
    const used = order.subarray(0, count);
    for (let i = 0; i < count; i += 1) own[used[i]] = -1;
    return { index, used, values: pickValues(values, used, size) };
  };
}

function newTable(length: number): Int32Array {
  return new Int32Array(length).fill(-1);
}

function pickValues(values: Float64Array, entries: Uint32Array, size: number): Float64Array {
  const picked = new Float64Array(entries.length * size);
  let target = 0;
  for (let i = 0; i < entries.length; i += 1) {
    const source = entries[i] * size;
    for (let k = 0; k < size; k += 1, target += 1) picked[target] = values[source + k];
  }
  return picked;
}

/** All lines of the file, and what makes a part's own tables of them. */
interface ObjTables {
  scanned: ScannedObj;
  /** First corner of each face, and the end of the last. */
  starts: Uint32Array;
  compact: ReturnType<typeof createCompactor>;
}

function buildMesh(
  part: Part,
  { scanned, starts, compact }: ObjTables,
  slotOf: (material: string) => number,
): { mesh: PolygonMesh; bad: Uint32Array } {
  const faceCounts = new Uint32Array(part.faces);
  const faceMaterial = new Int32Array(part.faces);
  const faceSmoothing = new Int32Array(part.faces);
  const runs = part.ranges.map(({ first, end }) => ({ first: starts[first], end: starts[end] }));
  let face = 0;
  for (const { first, end, material, smoothing } of part.ranges) {
    faceCounts.set(scanned.faceCounts.values.subarray(first, end), face);
    faceMaterial.fill(slotOf(material), face, face + end - first);
    faceSmoothing.fill(smoothing, face, face + end - first);
    face += end - first;
  }
  const compacted = compact('points', runs);
  const mesh = createMesh(part.name, {
    points: compacted.values,
    faceCounts,
    faceCorners: compacted.index,
    faceMaterial: faceMaterial.some((slot) => slot !== 0) ? faceMaterial : null,
    faceSmoothing: faceSmoothing.some((group) => group !== 0) ? faceSmoothing : null,
    normals: cornerLayer('normal', 3, compact('normals', runs)),
    uvSets: [cornerLayer('uv', 2, compact('uvs', runs))].filter((layer) => layer !== null),
    colours: colourLayer(scanned, compacted.used),
  });
  const bad = compacted.used.filter((point) => scanned.badPoints.has(point));
  return { mesh, bad };
}

/**
 * A layer of per-corner values; null when no corner names one. Corners without one read a zero entry.
 */
function cornerLayer(name: 'uv' | 'normal', size: 2 | 3, { index, used, values }: Compacted): Layer | null {
  if (used.length === 0) return null;
  const layer = { name, size, domain: 'corner' as const, index };
  if (!index.includes(used.length)) return { ...layer, values };
  const padded = new Float64Array(values.length + size);
  padded.set(values);
  return { ...layer, values: padded, none: used.length };
}

function colourLayer({ pointColours }: ScannedObj, used: Uint32Array): Layer[] {
  if (pointColours.length === 0) return [];
  const values = pickValues(pointColours.values, used, 3);
  return [asLight({ name: 'colour', size: 3, domain: 'point', values, index: null })];
}
