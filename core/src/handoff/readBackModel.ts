import { describeSource } from '../asset/describeSource.ts';
import { toKinkajouError } from '../errors.ts';
import { readModel } from '../formats/readModel.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { toYUpMetres } from '../scene/matrix.ts';
import { measureBoundsIn } from '../scene/measure.ts';
import { type AxisSystem, type SceneDocument, Y_UP, Z_UP } from '../scene/document.ts';
import type { ReadFile } from './bake.ts';
import { checkPixels } from './checkPixels.ts';
import type { HandoffPlan } from './plan.ts';
import { compareBounds, compareNumber, countPlaced, type HandoffCheck, type ReadBack } from './readBack.ts';
import { threeSees } from './secondReader.ts';
import type { PackageFiles } from './writeGltf.ts';

/**
 * Opens a written FBX, OBJ or USD with our reader and with three's, and compares it with the edited source: polygons,
 * bounds in metres, names, the material of each face, the image in each slot, every image's pixels. `wanted` is the document
 * that was written, `source` the one that it was made from.
 */
export async function readBackModel(
  files: PackageFiles,
  modelPath: string,
  source: SceneDocument,
  wanted: SceneDocument,
  plan: HandoffPlan,
  baked: ReadonlyMap<string, Uint8Array>,
  read: ReadFile,
): Promise<ReadBack> {
  const found = await readModel(modelPath, memorySource('package', Object.fromEntries(files)));
  const bounds = measureBoundsIn(found, toYUpMetres(...statedSpace(found, plan)));
  const checks = [
    compareNumber('triangles', countPlaced(source), countPlaced(found)),
    compareNumber('polygons', polygonsOf(wanted), polygonsOf(found)),
    compareNumber('materials', usedMaterials(wanted).length, usedMaterials(found).length),
    compareBounds(measureBoundsIn(source, toYUpMetres(source.axes, source.metresPerUnit)), bounds),
    compareWords('material names', usedMaterials(wanted), usedMaterials(found)),
    compareWords('material of each face', facesOf(wanted), facesOf(found)),
    ...(plan.destination.format === 'obj' ? [] : [checkAxes(found, plan)]),
    secondReader(files, modelPath, found, plan),
    ...slotChecks(modelPath, files, wanted, found, plan),
  ];
  for (const image of plan.images) checks.push(await checkPixels(image, baked.get(image.file), read));
  return {
    validator: null,
    counts: { meshes: found.meshes.length, triangles: countPlaced(found), materials: found.materials.length, textures: plan.images.length },
    bounds,
    checks,
  };
}

/** OBJ states neither axes nor unit; they are the destination's. */
function statedSpace({ axes, metresPerUnit }: SceneDocument, { destination }: HandoffPlan): [AxisSystem, number] {
  if (destination.format !== 'obj') return [axes, metresPerUnit];
  return [destination.upAxis === 'Z' ? Z_UP : Y_UP, destination.metresPerUnit];
}

function polygonsOf(document: SceneDocument): number {
  return document.nodes.reduce((sum, node) => sum + (node.mesh < 0 ? 0 : document.meshes[node.mesh].faceCounts.length), 0);
}

/** `Brass 1204` for each material with the number of its faces. */
function facesOf(document: SceneDocument): string[] {
  const { facesPerMaterial, materials } = describeSource(document, 'model', []);
  const names = new Map(materials.map(({ key, name }) => [key, name]));
  return Object.entries(facesPerMaterial).map(([key, faces]) => `${names.get(key) ?? 'none'} ${faces}`);
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

/** OBJ states neither, so there is nothing to check; its bounds tell. */
function checkAxes({ axes, metresPerUnit, unitStated }: SceneDocument, { destination }: HandoffPlan): HandoffCheck {
  const [up, wanted] = ['XYZ'[axes.up.axis], destination.upAxis];
  const unit = unitStated && Math.abs(metresPerUnit / destination.metresPerUnit - 1) < 1e-9;
  return {
    check: 'axes and unit',
    ok: up === wanted && unit,
    expected: `${wanted} up, ${destination.metresPerUnit} m`,
    found: `${up} up, ${metresPerUnit} m`,
  };
}

/** three's loader of the format, as an outsider; it counts triangles and measures the size across. */
function secondReader(files: PackageFiles, modelPath: string, found: SceneDocument, { destination }: HandoffPlan): HandoffCheck {
  const check = 'second reader (three)';
  try {
    const kind = destination.format === 'gltf' ? 'obj' : destination.format;
    const { triangles } = threeSees(kind, files.get(modelPath) as Uint8Array);
    const expected = countPlaced(found);
    return { check, ok: triangles === expected, expected: `${expected} triangles`, found: `${triangles} triangles` };
  } catch (error) {
    return { check, ok: false, expected: 'reads it', found: toKinkajouError(error).message };
  }
}

/** Each map that was written is found again in its slot, and its path leads to a file of the package. */
function slotChecks(modelPath: string, files: PackageFiles, wanted: SceneDocument, found: SceneDocument, plan: HandoffPlan): HandoffCheck[] {
  const images = describeSource(found, modelPath, [...files.keys()]).images;
  const lost = images.filter(({ status, tiles }) => status === 'missing' && !tiles);
  const patterns = new Set(plan.images.map(({ pattern }) => pattern));
  const paths: HandoffCheck = {
    check: 'paths resolve inside the package',
    ok: lost.every(({ written }) => written.includes('<UDIM>') && patterns.has(written.slice(written.lastIndexOf('/') + 1))),
    expected: `${images.length} images`,
    found: lost.length === 0 ? `${images.length} images` : `${lost.map(({ written }) => written).join(', ')} not there`,
  };
  const [expected, seen] = [slotsOf(wanted), new Set(slotsOf(found))];
  const missing = expected.filter((slot) => !seen.has(slot) && !isLoss(slot, plan));
  const slots: HandoffCheck = {
    check: 'images in their slots',
    ok: missing.length === 0,
    expected: `${expected.length} slots`,
    found: missing.length === 0 ? `${expected.filter((slot) => seen.has(slot)).length} slots` : `not found: ${missing.join('; ')}`,
  };
  return [paths, slots];
}

/** What the format could not say is among the losses already. */
function isLoss(slot: string, { losses }: HandoffPlan): boolean {
  const channel = slot.slice(slot.lastIndexOf(', ') + 2, slot.lastIndexOf(': '));
  return losses.some((loss) => loss.includes(`no input for ${channel}`) || loss.includes(`no word for maps of ${channel}`));
}

/** `Brass, normal: brass_normal.png`. */
function slotsOf(document: SceneDocument): string[] {
  const files = new Map(
    document.images.map((image) => [image.key, image.written.slice(Math.max(image.written.lastIndexOf('/'), image.written.lastIndexOf('\\')) + 1)]),
  );
  return document.materials.flatMap((material) =>
    Object.entries(material.channels).flatMap(([channel, { map }]) => (map ? [`${material.name}, ${channel}: ${files.get(map.image)}`] : [])),
  );
}
