import { countFaces, describeImages } from '../../asset/describeSource.ts';
import { objPartNames } from '../../formats/obj/partNames.ts';
import { cleanName } from '../../parcel/names.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { AxisSystem, SceneDocument } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import { usedSlots } from '../../scene/materialForAll.ts';
import { toYUpMetres } from '../../scene/matrix.ts';
import { type Bounds, measureBoundsIn } from '../../scene/measure.ts';
import { shearedNodes } from '../../scene/sheared.ts';
import { hiddenParts } from '../../scene/unsaidParts.ts';
import type { HandoffPlan } from '../plan/plan.ts';
import type { PackageFiles } from '../write/writeGltf.ts';
import {
  compareBounds,
  compareNumber,
  countPlaced,
  type HandoffCheck,
  passingShear,
  type ReadBack,
} from './readBack.ts';

/** What a model file is read back against. */
export interface ModelExpectation {
  files: PackageFiles;
  model: string;
  /** The document that it was made from, and the one that was written. */
  source: SceneDocument;
  wanted: SceneDocument;
  plan: HandoffPlan;
}

/** What a model file holds when it is read again. */
export interface ModelReadBack {
  counts: ReadBack['counts'];
  bounds: Bounds | null;
  checks: HandoffCheck[];
}

/**
 * Compares a written FBX, OBJ or USD, as our reader has it, with the edited source: polygons, bounds in
 * metres, names, the material of each face, the image in each slot.
 */
export function readBackModel(
  { files, model, source, wanted: expected, plan }: ModelExpectation,
  actual: SceneDocument,
): ModelReadBack {
  const bounds = measureBoundsIn(actual, toYUpMetres(...statedSpace(actual, expected)));
  const checks = [
    compareNumber('triangles', countPlaced(source), countPlaced(actual)),
    compareNumber('polygons', polygonsOf(expected), polygonsOf(actual)),
    compareNumber('materials', usedMaterials(expected).length, usedMaterials(actual).length),
    // FBX cannot say the place of a sheared part, which is told.
    passingShear(
      compareBounds(measureBoundsIn(source, toYUpMetres(source.axes, source.metresPerUnit)), bounds),
      actual.format === 'fbx' ? shearedNodes(expected).length : 0,
    ),
    compareWords('part names', partNames(expected, actual.format === 'obj'), partNames(actual)),
    compareWords('material names', usedMaterials(expected), usedMaterials(actual)),
    compareWords('material of each face', facesOf(expected), facesOf(actual)),
    ...(actual.format === 'obj'
      ? []
      : [
          checkAxes(actual, expected),
          compareWords('hidden parts', hiddenNames(expected), hiddenNames(actual)),
        ]),
    ...slotChecks(model, files, [expected, actual], plan),
  ];
  return {
    counts: {
      meshes: actual.meshes.length,
      triangles: countPlaced(actual),
      materials: actual.materials.length,
      textures: plan.images.length,
    },
    bounds,
    checks,
  };
}

/** OBJ states neither axes nor unit; they are what was written. */
function statedSpace(
  { format, axes, metresPerUnit }: SceneDocument,
  expected: SceneDocument,
): [AxisSystem, number] {
  return format === 'obj' ? [expected.axes, expected.metresPerUnit] : [axes, metresPerUnit];
}

/**
 * Names of parts as any format can write them: letters, digits and `_`. USD puts the mesh of a part that
 * holds others beside them, as `hull_mesh`.
 */
function partNames(document: SceneDocument, numbered = false): string[] {
  const reported = (name: string) =>
    cleanName(name)
      .toLowerCase()
      .replaceAll('-', '_')
      .replace(/_mesh(_\d+)?$/, '');
  const parts = document.nodes.filter(({ mesh }) => mesh >= 0);
  const given = parts.map(({ name }) => name);
  const names = numbered ? objPartNames(given) : given;
  return names.filter((_, i) => document.meshes[parts[i].mesh].faceCounts.length > 0).map(reported);
}

function hiddenNames(document: SceneDocument): string[] {
  return partNames({ ...document, nodes: hiddenParts(document) });
}

function polygonsOf(document: SceneDocument): number {
  return document.nodes.reduce(
    (sum, node) => sum + (node.mesh < 0 ? 0 : document.meshes[node.mesh].faceCounts.length),
    0,
  );
}

/** `Brass 1204` for each material with the number of its faces. */
function facesOf(document: SceneDocument): string[] {
  const names = new Map(document.materials.map(({ key, name }) => [key, name]));
  return Object.entries(countFaces(document)).map(([key, faces]) => `${names.get(key) ?? 'none'} ${faces}`);
}

function usedMaterials(document: SceneDocument): string[] {
  // A slot that no face is in is none to formats that say materials of faces.
  const used = new Set(
    document.nodes.flatMap((node) =>
      node.mesh < 0 ? [] : usedSlots(node, document).map((slot) => node.materials[slot] ?? -1),
    ),
  );
  return document.materials.filter((_, i) => used.has(i)).map(({ name }) => name);
}

function compareWords(check: string, expected: string[], actual: string[]): HandoffCheck {
  const [a, b] = [[...expected].sort(), [...actual].sort()];
  const only = b.filter((word) => !a.includes(word));
  const text = (words: string[]) => {
    const more = words.length > 6 ? ` and ${words.length - 6} more` : '';
    return words.length === 0 ? 'none' : `${words.slice(0, 6).join(', ')}${more}`;
  };
  return {
    check,
    ok: a.join('\n') === b.join('\n'),
    expected: text(a),
    found: only.length > 0 ? `${text(b)}; not expected: ${text(only)}` : text(b),
  };
}

function checkAxes(
  { axes, metresPerUnit, unitStated }: SceneDocument,
  expected: SceneDocument,
): HandoffCheck {
  const [up, requiredUp] = [axes, expected.axes].map((system) => 'XYZ'[system.up.axis]);
  const unit = unitStated && Math.abs(metresPerUnit / expected.metresPerUnit - 1) < 1e-9;
  return {
    check: 'axes and unit',
    ok: up === requiredUp && unit,
    expected: `${requiredUp} up, ${expected.metresPerUnit} m`,
    found: `${up} up, ${metresPerUnit} m`,
  };
}

/** Each map that was written is found again in its slot, and its path leads to a file of the package. */
function slotChecks(
  modelPath: string,
  files: PackageFiles,
  [required, actual]: readonly [SceneDocument, SceneDocument],
  plan: HandoffPlan,
): HandoffCheck[] {
  const images = describeImages(actual, modelPath, files.keys());
  const lost = images.filter(({ status, tiles }) => status === 'missing' && !tiles);
  const patterns = new Set(plan.images.map(({ pattern }) => pattern));
  // What was not delivered is not there either; a source file that is changed itself names it all the same.
  const reported = new Set(
    plan.losses.flatMap(({ code, detail }) =>
      code === 'image.missing' && detail !== undefined ? [detail] : [],
    ),
  );
  const paths: HandoffCheck = {
    check: 'paths resolve inside the package',
    ok: lost.every(
      ({ written }) =>
        reported.has(written) ||
        (written.includes('<UDIM>') && patterns.has(written.slice(written.lastIndexOf('/') + 1))),
    ),
    expected: `${images.length} images`,
    found:
      lost.length === 0
        ? `${images.length} images`
        : `${lost.map(({ written }) => written).join(', ')} not there`,
  };
  const [expected, seen] = [slotsOf(required), new Set(slotsOf(actual).map(({ words }) => words))];
  const missing = expected.filter((slot) => !seen.has(slot.words) && !isLoss(slot, plan));
  const slots: HandoffCheck = {
    check: 'images in their slots',
    ok: missing.length === 0,
    expected: `${expected.length} slots`,
    found:
      missing.length === 0
        ? `${expected.filter(({ words }) => seen.has(words)).length} slots`
        : `not found: ${missing.map(({ words }) => words).join('; ')}`,
  };
  return [paths, slots];
}

/** What the format could not say of just this slot is among the losses already. */
function isLoss({ material, channel }: SlotOfMaterial, { losses }: HandoffPlan): boolean {
  const codes = new Set<Loss['code']>(['usd.noInput', 'mtl.noMapWord']);
  return losses.some(
    (loss) => codes.has(loss.code) && loss.material === material && loss.channel === channel,
  );
}

interface SlotOfMaterial {
  material: string;
  channel: string;
  /** `Brass, normal: brass_normal.png`. */
  words: string;
}

function slotsOf(document: SceneDocument): SlotOfMaterial[] {
  const files = new Map(
    document.images.map((image) => [
      image.key,
      image.written.slice(Math.max(image.written.lastIndexOf('/'), image.written.lastIndexOf('\\')) + 1),
    ]),
  );
  return document.materials.flatMap((material) =>
    Object.entries(material.channels).flatMap(([channel, { map }]) =>
      map
        ? [
            {
              material: material.key,
              channel,
              words: `${material.name}, ${channelInWords(channel)}: ${files.get(map.image)}`,
            },
          ]
        : [],
    ),
  );
}
