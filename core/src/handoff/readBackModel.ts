import { countFaces, describeImages } from '../asset/describeSource.ts';
import { readModel } from '../formats/readModel.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { toYUpMetres } from '../scene/matrix.ts';
import { type Bounds, measureBoundsIn } from '../scene/measure.ts';
import type { Loss } from '../scene/loss.ts';
import type { AxisSystem, SceneDocument } from '../scene/document.ts';
import { cleanName } from '../parcel/names.ts';
import type { HandoffPlan } from './plan.ts';
import { compareBounds, compareNumber, countPlaced, type HandoffCheck, type ReadBack } from './readBack.ts';
import { threeSees } from './secondReader.ts';
import type { PackageFiles } from './writeGltf.ts';

/** What a model file is read back against. */
export interface ModelExpectation {
  files: PackageFiles;
  model: string;
  /** The document that it was made from, and the one that was written. */
  source: SceneDocument;
  wanted: SceneDocument;
  plan: HandoffPlan;
  /** The source file, where it was changed itself: what a second reader cannot open there it need not open here. */
  original?: Uint8Array;
}

export interface ModelReadBack {
  counts: ReadBack['counts'];
  bounds: Bounds | null;
  checks: HandoffCheck[];
}

/**
 * Opens a written FBX, OBJ or USD with our reader and with three's, and compares it with the edited source: polygons,
 * bounds in metres, names, the material of each face, the image in each slot.
 */
export async function readBackModel({ files, model, source, wanted, plan, original }: ModelExpectation): Promise<ModelReadBack> {
  const found = await readModel(model, memorySource('package', Object.fromEntries(files)));
  const bounds = measureBoundsIn(found, toYUpMetres(...statedSpace(found, wanted)));
  const checks = [
    compareNumber('triangles', countPlaced(source), countPlaced(found)),
    compareNumber('polygons', polygonsOf(wanted), polygonsOf(found)),
    compareNumber('materials', usedMaterials(wanted).length, usedMaterials(found).length),
    compareBounds(measureBoundsIn(source, toYUpMetres(source.axes, source.metresPerUnit)), bounds),
    compareWords('part names', partNames(wanted), partNames(found)),
    compareWords('material names', usedMaterials(wanted), usedMaterials(found)),
    compareWords('material of each face', facesOf(wanted), facesOf(found)),
    ...(found.format === 'obj' ? [] : [checkAxes(found, wanted)]),
    secondReader(files.get(model) as Uint8Array, found, bounds, original),
    ...slotChecks(model, files, wanted, found, plan),
  ];
  return {
    counts: { meshes: found.meshes.length, triangles: countPlaced(found), materials: found.materials.length, textures: plan.images.length },
    bounds,
    checks,
  };
}

/** OBJ states neither axes nor unit; they are what was written. */
function statedSpace({ format, axes, metresPerUnit }: SceneDocument, wanted: SceneDocument): [AxisSystem, number] {
  return format === 'obj' ? [wanted.axes, wanted.metresPerUnit] : [axes, metresPerUnit];
}

/** Names of parts as any format can write them: letters, digits and `_`. USD puts the mesh of a part that holds others beside them, as `hull_mesh`. */
function partNames(document: SceneDocument): string[] {
  const told = (name: string) =>
    cleanName(name)
      .toLowerCase()
      .replaceAll('-', '_')
      .replace(/_mesh(_\d+)?$/, '');
  return document.nodes.flatMap(({ mesh, name }) => (mesh < 0 || document.meshes[mesh].faceCounts.length === 0 ? [] : [told(name)]));
}

function polygonsOf(document: SceneDocument): number {
  return document.nodes.reduce((sum, node) => sum + (node.mesh < 0 ? 0 : document.meshes[node.mesh].faceCounts.length), 0);
}

/** `Brass 1204` for each material with the number of its faces. */
function facesOf(document: SceneDocument): string[] {
  const names = new Map(document.materials.map(({ key, name }) => [key, name]));
  return Object.entries(countFaces(document)).map(([key, faces]) => `${names.get(key) ?? 'none'} ${faces}`);
}

function usedMaterials(document: SceneDocument): string[] {
  const used = new Set(document.nodes.flatMap((node) => (node.mesh < 0 ? [] : node.materials)));
  return document.materials.filter((_, i) => used.has(i)).map(({ name }) => name);
}

function compareWords(check: string, expected: string[], found: string[]): HandoffCheck {
  const [a, b] = [[...expected].sort(), [...found].sort()];
  const only = b.filter((word) => !a.includes(word));
  const text = (words: string[]) => (words.length > 6 ? `${words.slice(0, 6).join(', ')} and ${words.length - 6} more` : words.join(', '));
  return { check, ok: a.join('\n') === b.join('\n'), expected: text(a), found: only.length > 0 ? `${text(b)}; not expected: ${text(only)}` : text(b) };
}

function checkAxes({ axes, metresPerUnit, unitStated }: SceneDocument, wanted: SceneDocument): HandoffCheck {
  const [up, wantedUp] = [axes, wanted.axes].map((system) => 'XYZ'[system.up.axis]);
  const unit = unitStated && Math.abs(metresPerUnit / wanted.metresPerUnit - 1) < 1e-9;
  return {
    check: 'axes and unit',
    ok: up === wantedUp && unit,
    expected: `${wantedUp} up, ${wanted.metresPerUnit} m`,
    found: `${up} up, ${metresPerUnit} m`,
  };
}

/** three's loader of the format, as an outsider; it counts triangles and measures the sides, in whatever unit it sets up. */
function secondReader(bytes: Uint8Array, found: SceneDocument, bounds: Bounds | null, original: Uint8Array | undefined): HandoffCheck {
  const check = 'second reader (three)';
  const kind = found.format === 'gltf' ? 'obj' : found.format;
  try {
    const { triangles, min, max } = threeSees(kind, bytes);
    const expected = countPlaced(found);
    const spare = cornersInLine(found);
    const sides = bounds ? bounds.max.map((value, i) => value - bounds.min[i]) : [];
    const seen = max.map((value, i) => value - min[i]);
    const apart = bounds ? shapeApart(sides, seen) : 0;
    return {
      check,
      ok: triangles <= expected && triangles >= expected - spare && apart < SHAPE_TOLERANCE,
      expected: `${expected} triangles${spare > 0 ? `, ${spare} of them without area where corners lie in a line` : ''}`,
      found: `${triangles} triangles, proportions ${(apart * 100).toFixed(2)} % apart`,
    };
  } catch {
    if (original && !threeReads(kind, original))
      return { check, ok: true, expected: 'reads what it reads of the source', found: 'cannot open the source either' };
    return { check, ok: false, expected: 'reads it', found: "three's loader cannot open it" };
  }
}

function threeReads(kind: Parameters<typeof threeSees>[0], bytes: Uint8Array): boolean {
  try {
    threeSees(kind, bytes);
    return true;
  } catch {
    return false;
  }
}

const SHAPE_TOLERANCE = 0.005;
/** Sine of the angle below which three corners count as lying in a line. */
const IN_LINE = 1e-6;

/** Corners of polygons that lie in a line with their neighbours; readers may leave out the triangle that such a corner makes. */
function cornersInLine(document: SceneDocument): number {
  const perMesh = document.meshes.map(({ points, faceCounts, faceCorners }) => {
    let [spare, start] = [0, 0];
    for (const count of faceCounts) {
      for (let k = 0; count > 3 && k < count; k += 1) {
        const [a, b, c] = [k, (k + 1) % count, (k + 2) % count].map((corner) => faceCorners[start + corner] * 3);
        const [u, v] = [[0, 1, 2].map((axis) => points[b + axis] - points[a + axis]), [0, 1, 2].map((axis) => points[c + axis] - points[b + axis])];
        const across = Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]);
        if (across <= IN_LINE * Math.hypot(...u) * Math.hypot(...v)) spare += 1;
      }
      start += count;
    }
    return spare;
  });
  return document.nodes.reduce((sum, { mesh }) => sum + (mesh < 0 ? 0 : perMesh[mesh]), 0);
}

/** How far two boxes differ in their proportions, whatever their unit and which way up they lie. */
function shapeApart(a: readonly number[], b: readonly number[]): number {
  const shares = (sides: readonly number[]) => {
    const sorted = [...sides].sort((x, y) => y - x);
    return sorted.map((side) => (sorted[0] > 0 ? side / sorted[0] : 0));
  };
  const other = shares(b);
  return Math.max(...shares(a).map((share, i) => Math.abs(share - other[i])));
}

/** Each map that was written is found again in its slot, and its path leads to a file of the package. */
function slotChecks(modelPath: string, files: PackageFiles, wanted: SceneDocument, found: SceneDocument, plan: HandoffPlan): HandoffCheck[] {
  const images = describeImages(found, modelPath, files.keys());
  const lost = images.filter(({ status, tiles }) => status === 'missing' && !tiles);
  const patterns = new Set(plan.images.map(({ pattern }) => pattern));
  const paths: HandoffCheck = {
    check: 'paths resolve inside the package',
    ok: lost.every(({ written }) => written.includes('<UDIM>') && patterns.has(written.slice(written.lastIndexOf('/') + 1))),
    expected: `${images.length} images`,
    found: lost.length === 0 ? `${images.length} images` : `${lost.map(({ written }) => written).join(', ')} not there`,
  };
  const [expected, seen] = [slotsOf(wanted), new Set(slotsOf(found).map(({ words }) => words))];
  const missing = expected.filter((slot) => !seen.has(slot.words) && !isLoss(slot, plan));
  const slots: HandoffCheck = {
    check: 'images in their slots',
    ok: missing.length === 0,
    expected: `${expected.length} slots`,
    found:
      missing.length === 0 ? `${expected.filter(({ words }) => seen.has(words)).length} slots` : `not found: ${missing.map(({ words }) => words).join('; ')}`,
  };
  return [paths, slots];
}

/** What the format could not say of just this slot is among the losses already. */
function isLoss({ material, channel }: SlotOfMaterial, { losses }: HandoffPlan): boolean {
  const codes = new Set<Loss['code']>(['usd.noInput', 'mtl.noMapWord']);
  return losses.some((loss) => codes.has(loss.code) && loss.material === material && loss.channel === channel);
}

interface SlotOfMaterial {
  material: string;
  channel: string;
  /** `Brass, normal: brass_normal.png`. */
  words: string;
}

function slotsOf(document: SceneDocument): SlotOfMaterial[] {
  const files = new Map(
    document.images.map((image) => [image.key, image.written.slice(Math.max(image.written.lastIndexOf('/'), image.written.lastIndexOf('\\')) + 1)]),
  );
  return document.materials.flatMap((material) =>
    Object.entries(material.channels).flatMap(([channel, { map }]) =>
      map ? [{ material: material.key, channel, words: `${material.name}, ${channel}: ${files.get(map.image)}` }] : [],
    ),
  );
}
