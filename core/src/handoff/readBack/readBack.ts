/// <reference path="../../formats/gltf/gltf-validator.d.ts" />
import { type Document, getBounds, NodeIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { validateBytes } from 'gltf-validator';
import type { SceneDocument } from '../../scene/document.ts';
import { toYUpMetres } from '../../scene/matrix.ts';
import { type Bounds, measureBoundsIn } from '../../scene/measure.ts';
import { shearedBelow } from '../../scene/sheared.ts';
import type { HandoffPlan } from '../plan/plan.ts';
import type { PlannedImage } from '../plan/planImage.ts';
import type { PackageFiles } from '../write/writeGltf.ts';
import type { Proof } from './proof.ts';

/** One thing that was checked on the written files, with the numbers. */
export interface HandoffCheck {
  check: string;
  ok: boolean;
  expected: string;
  found: string;
  /** One of the two verdicts of the proof, which a receipt tells in full elsewhere. */
  verdict?: 'model' | 'sheet';
}

/** What the glTF validator of the Khronos Group reports. */
export interface ValidatorResult {
  version: string;
  errors: number;
  warnings: number;
  infos: number;
  messages: { code: string; message: string; pointer: string; severity: number }[];
}

/**
 * One channel of one material: what the source says through the destination's convention, and what was read.
 */
export interface ChannelSample {
  material: string;
  channel: string;
  /** Means over the places compared: one number, or three. */
  expected: number[];
  found: number[];
  /** The largest difference at any place, in 0..1 of the channel's range; of lengths in metres. */
  largest: number;
  places: number;
  ok: boolean;
}

/** What a package holds when it is read again. */
export interface ReadBack {
  /** Of glTF alone. */
  validator: ValidatorResult | null;
  counts: { meshes: number; triangles: number; materials: number; textures: number };
  bounds: Bounds | null;
  checks: HandoffCheck[];
  /** Each channel of each material, source against what was read. */
  channels: ChannelSample[];
}

/** One read-back of a package from those of its models: checks that all pass in each file are told once. */
export function mergeReadBacks(
  backs: readonly { model: string; back: ReadBack }[],
  images: HandoffCheck[],
): ReadBack {
  const [{ back: first }] = backs;
  if (backs.length === 1) return { ...first, checks: [...first.checks, ...images] };
  const names = [...new Set(backs.flatMap(({ back }) => back.checks.map(({ check }) => check)))];
  const checks = names.flatMap((check): HandoffCheck[] => {
    const modelChecks = backs.flatMap(({ model, back }) =>
      back.checks
        .filter((handoffCheck) => handoffCheck.check === check)
        .map((check) => ({ ...check, model })),
    );
    const wrong = modelChecks.filter(({ ok }) => !ok);
    if (wrong.length > 0)
      return wrong.map(({ model, ...checkOf }) => ({ ...checkOf, check: `${check} (${model})` }));
    const { verdict } = modelChecks[0];
    return [
      {
        ...(verdict && { verdict }),
        check,
        ok: true,
        expected: `in each of ${modelChecks.length} files`,
        found: `in each of ${modelChecks.length} files; first: ${modelChecks[0].found}`,
      },
    ];
  });
  const sum = (pick: (counts: ReadBack['counts']) => number) =>
    backs.reduce((total, { back }) => total + pick(back.counts), 0);
  const bounds = backs.map(({ back }) => back.bounds).filter((bounds) => bounds !== null);
  return {
    validator: first.validator && {
      ...first.validator,
      ...addMessages(backs.map(({ back }) => back.validator as ValidatorResult)),
    },
    counts: {
      meshes: sum((c) => c.meshes),
      triangles: sum((c) => c.triangles),
      materials: sum((c) => c.materials),
      textures: images.length,
    },
    bounds: bounds.length === 0 ? null : bounds.reduce(joinBounds),
    checks: [...checks, ...images],
    channels: backs.flatMap(({ back }) => back.channels),
  };
}

function addMessages(results: readonly ValidatorResult[]): Omit<ValidatorResult, 'version'> {
  const sum = (key: 'errors' | 'warnings' | 'infos') =>
    results.reduce((total, result) => total + result[key], 0);
  return {
    errors: sum('errors'),
    warnings: sum('warnings'),
    infos: sum('infos'),
    messages: results.flatMap(({ messages }) => messages),
  };
}

function joinBounds(a: Bounds, b: Bounds): Bounds {
  const each = (pick: (x: number, y: number) => number, key: 'min' | 'max') =>
    a[key].map((value, i) => pick(value, b[key][i])) as Bounds['min'];
  return { min: each(Math.min, 'min'), max: each(Math.max, 'max') };
}

/** Both verdicts of a proof as checks. */
export function proofChecks({ model, sheet, words, differences, channels }: Proof): HandoffCheck[] {
  const reported = differences.filter(({ exempt }) => exempt !== null).length;
  const open = differences.filter(({ exempt }) => exempt === null).map(({ message }) => message);
  const worst = open.length > 4 ? [...open.slice(0, 4), `and ${open.length - 4} more`] : open;
  const compared = channels.reduce((sum, { channels: ofMaterial }) => sum + ofMaterial.length, 0);
  const same = `${compared} channels of ${channels.length} materials, every part${reported > 0 ? `; ${reported} differences told as losses` : ''}`;
  return [
    {
      verdict: 'model',
      check: 'the model as it stands',
      ok: model === 'same',
      expected: 'as in the source',
      found: model === 'same' ? same : worst.join('; '),
    },
    {
      verdict: 'sheet',
      check: 'with the words of the sheet',
      ok: sheet === 'same',
      expected: 'as in the source',
      found:
        sheet === 'same' ? `as in the source, with ${words.length} words of the sheet` : worst.join('; '),
    },
  ];
}

/** The channels of a proof under the names of the written materials. */
export function samplesOf({ channels, differences }: Proof, { materials }: HandoffPlan): ChannelSample[] {
  const names = new Map(materials.map(({ name, source }) => [source.name, name]));
  const wrong = new Set(
    differences.flatMap(({ exempt, material, channel }) =>
      exempt === null && channel ? [`${material}\n${channel}`] : [],
    ),
  );
  return channels.flatMap(({ material, channels: ofMaterial }) =>
    ofMaterial.map(({ channel, a, b, largest, places }) => ({
      material: names.get(material) ?? material,
      channel,
      expected: a,
      found: b,
      largest,
      places,
      ok: !wrong.has(`${material}\n${channel}`),
    })),
  );
}

/** Opens the written model again, validates it, and compares it with what it was made from. */
export async function readBackGltf(
  files: PackageFiles,
  modelPath: string,
  document: SceneDocument,
  plan: HandoffPlan,
): Promise<Omit<ReadBack, 'channels'>> {
  const validator = await validate(files, modelPath);
  const gltf = await openWritten(files, modelPath);
  const scene = gltf.getRoot().listScenes()[0];
  const counts = countWritten(gltf);
  const bounds = counts.triangles > 0 ? (getBounds(scene) as Bounds) : null;
  const checks = [
    {
      check: 'gltf-validator',
      ok: validator.errors === 0,
      expected: '0 errors',
      found: `${validator.errors} errors, ${validator.warnings} warnings`,
    },
    compareNumber('triangles', countPlaced(document), countScene(gltf)),
    compareNumber('materials', plan.materials.length, counts.materials),
    compareNumber(
      'textures',
      new Set(plan.materials.flatMap((m) => usedFiles(m.images))).size,
      counts.textures,
    ),
    boundsOf(document, bounds),
    compareNames(plan, gltf),
  ];
  return { validator, counts, bounds, checks };
}

function usedFiles(images: Partial<Record<string, PlannedImage>>): string[] {
  return Object.values(images).flatMap((image) => (image ? [image.file] : []));
}

async function validate(files: PackageFiles, modelPath: string): Promise<ValidatorResult> {
  const report = await validateBytes(files.get(modelPath) as Uint8Array, {
    uri: modelPath,
    maxIssues: 200,
    writeTimestamp: false,
    externalResourceFunction: async (uri: string) => {
      const bytes = files.get(decodeURIComponent(uri));
      if (!bytes) throw new Error(`${uri} is not in the package`);
      return bytes;
    },
  });
  const { issues } = report;
  return {
    version: report.validatorVersion,
    errors: issues.numErrors,
    warnings: issues.numWarnings,
    infos: issues.numInfos,
    messages: issues.messages.map(({ code, message, pointer, severity }) => ({
      code,
      message,
      pointer: pointer ?? '',
      severity,
    })),
  };
}

async function openWritten(files: PackageFiles, modelPath: string): Promise<Document> {
  const io = new NodeIO().registerExtensions(ALL_EXTENSIONS);
  const bytes = files.get(modelPath) as Uint8Array;
  if (modelPath.endsWith('.glb')) return io.readBinary(bytes);
  const resources = Object.fromEntries([...files].filter(([path]) => path !== modelPath)) as Record<
    string,
    Uint8Array<ArrayBuffer>
  >;
  return io.readJSON({ json: JSON.parse(new TextDecoder().decode(bytes)), resources });
}

function countWritten(gltf: Document): ReadBack['counts'] {
  const root = gltf.getRoot();
  let triangles = 0;
  for (const mesh of root.listMeshes())
    for (const primitive of mesh.listPrimitives()) triangles += (primitive.getIndices()?.getCount() ?? 0) / 3;
  return {
    meshes: root.listMeshes().length,
    triangles,
    materials: root.listMaterials().length,
    textures: root.listTextures().length,
  };
}

/** Triangles as placed: a mesh that two nodes use counts twice. */
function countScene(gltf: Document): number {
  let triangles = 0;
  for (const node of gltf.getRoot().listNodes()) {
    for (const primitive of node.getMesh()?.listPrimitives() ?? [])
      triangles += (primitive.getIndices()?.getCount() ?? 0) / 3;
  }
  return triangles;
}

/** Triangles of all nodes: a mesh in three places counts three times. */
export function countPlaced(document: SceneDocument): number {
  let triangles = 0;
  for (const node of document.nodes) {
    if (node.mesh < 0) continue;
    const mesh = document.meshes[node.mesh];
    triangles += mesh.faceCorners.length - 2 * mesh.faceCounts.length;
  }
  return triangles;
}

/** A check that two numbers are equal. */
export function compareNumber(check: string, expected: number, actual: number): HandoffCheck {
  return { check, ok: expected === actual, expected: String(expected), found: String(actual) };
}

function compareNames(plan: HandoffPlan, gltf: Document): HandoffCheck {
  const expected = plan.materials.map((material) => material.name).sort();
  const extensions = gltf
    .getRoot()
    .listMaterials()
    .map((material) => material.getName())
    .sort();
  return {
    check: 'material names',
    ok: expected.join('\n') === extensions.join('\n') && new Set(extensions).size === extensions.length,
    expected: expected.join(', '),
    found: extensions.join(', '),
  };
}

/** Bounds of a package in a format that keeps no shear: that is told, and held against part by part. */
export function boundsOf(document: SceneDocument, actual: Bounds | null): HandoffCheck {
  const expected = measureBoundsIn(document, toYUpMetres(document.axes, document.metresPerUnit));
  return passingShear(compareBounds(expected, actual), shearedBelow(document).length);
}

/** A check of bounds, which are others where parts stand sheared. */
export function passingShear(check: HandoffCheck, sheared: number): HandoffCheck {
  return check.ok || sheared === 0
    ? check
    : {
        ...check,
        ok: true,
        found: `${check.found}, with ${sheared} ${sheared === 1 ? 'part' : 'parts'} sheared`,
      };
}

/** A check that two boxes agree but for rounding, in metres. */
export function compareBounds(expected: Bounds | null, actual: Bounds | null): HandoffCheck {
  if (!expected || !actual)
    return {
      check: 'bounds',
      ok: expected === actual,
      expected: expected ? 'geometry' : 'none',
      found: actual ? 'geometry' : 'none',
    };
  const size = Math.max(...expected.max.map((value, i) => value - expected.min[i]));
  const apart = Math.max(
    ...[0, 1, 2].flatMap((i) => [
      Math.abs(expected.min[i] - actual.min[i]),
      Math.abs(expected.max[i] - actual.max[i]),
    ]),
  );
  const text = ({ min, max }: Bounds) =>
    `${max.map((value, i) => (value - min[i]).toFixed(4)).join(' x ')} m`;
  return {
    check: 'bounds',
    ok: apart <= size * 1e-5 + 1e-9,
    expected: text(expected),
    // What single floats round is nothing to tell.
    found: apart <= size * 1e-6 ? text(actual) : `${text(actual)}, ${apart.toPrecision(2)} m apart`,
  };
}
