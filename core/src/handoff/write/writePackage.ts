import { editedDocument } from '../../asset/editedDocument.ts';
import type { DestinationFormat } from '../../destinations/profile.ts';
import { KinkajouError } from '../../errors.ts';
import { JOINTS_PER_VERTEX } from '../../formats/gltf/writeScene.ts';
import { writeModel } from '../../formats/writeModel.ts';
import type { ReadFile } from '../../parcel/fileSource.ts';
import { type SceneDocument, withoutAlpha } from '../../scene/document.ts';
import { withHeaviestJoints } from '../../scene/heaviestJoints.ts';
import { applyIntake } from '../../scene/intake.ts';
import { isUnsaid, type Loss } from '../../scene/loss.ts';
import { withMaterialForAll, withMaterialForSlots } from '../../scene/materialForAll.ts';
import { pruneMaterials } from '../../scene/pruneMaterials.ts';
import { withSoundNormals } from '../../scene/soundNormals.ts';
import { splitTiles } from '../../scene/splitTiles.ts';
import { withStage } from '../../scene/stage.ts';
import { onTurntable } from '../../scene/turntable.ts';
import { type TakeoffRow, takeOff } from '../../shape/takeoff.ts';
import { patchedModel } from '../plan/patchHandoff.ts';
import { longestSide, type ModelPiece, piecesOf } from '../plan/pieces.ts';
import type { HandoffPlan } from '../plan/plan.ts';
import type { PlannedImage } from '../plan/planImage.ts';
import type { Prepared } from '../prepare/prepare.ts';
import { destinationDocument, pathInPackage, withOwnMaterials } from './destinationDocument.ts';
import { materialXDocument } from './materialX.ts';
import { createSheet, type Sheet } from './sheet.ts';
import { sheetPage } from './sheetPage.ts';
import { silenceOf } from './silence.ts';
import { gatherSkies, type Skies } from './skies.ts';
import { takeoffTable } from './takeoffTable.ts';
import { type PackageFiles, writeGltf } from './writeGltf.ts';

/** What a package is written from. */
export interface WriteInputs {
  prepared: Prepared;
  plan: HandoffPlan;
  document: SceneDocument;
  /** Content of each planned image by its file name. */
  baked: ReadonlyMap<string, Uint8Array>;
  /** The asset's name as files bear it. */
  name: string;
  variant: string;
  /** A PNG of the asset for the receiver's sheet. */
  picture: Uint8Array | null;
  /** Reads the picture of an environment that the stage names. */
  readEnvironment?: ReadFile;
  /** Told the share done, in 0..1, and what is being done. */
  report(share: number, doing: string): void;
}

/** A package before it is proven. */
export interface WrittenPackage {
  files: PackageFiles;
  sheet: Sheet;
  /** The plan with what writing has found that the formats cannot say. */
  plan: HandoffPlan;
  models: WrittenFile[];
}

/** A model file of the package, with what it must read as. */
export interface WrittenFile {
  model: string;
  /** The plan of what this file uses alone. */
  plan: HandoffPlan;
  /** The document that it was made from. */
  source: SceneDocument;
  /** The document that was written; of glTF null. */
  written: SceneDocument | null;
  /** What reading it must find, under the names that go out. */
  expected: SceneDocument;
  /** Names of each material's copies by its key. */
  copies: ReadonlyMap<string, string[]>;
  /** The source file, where it was changed itself. */
  original: OriginalFile | null;
}

/** A source file that was changed itself. */
export interface OriginalFile {
  bytes: Uint8Array;
  /** What it calls each material, by the name that goes out. */
  names: ReadonlyMap<string, string>;
}

/** Losses that turn up while writing: what looks will miss, and what the sheet tells instead. */
interface Found {
  losses: Loss[];
  unsaid: Loss[];
}

/** The fourth stage: models and maps, what the building wants, and the receiver's sheet. */
export async function writePackage(inputs: WriteInputs): Promise<WrittenPackage> {
  const written = inputs.prepared.refusal === null ? await changeSource(inputs) : await writePieces(inputs);
  const { files, sheet } = written;
  files.set('handoff.json', encode(`${JSON.stringify(sheet, null, 2)}\n`));
  files.set('README.html', encode(sheetPage(sheet, inputs.picture)));
  return written;
}

async function writePieces(inputs: WriteInputs): Promise<WrittenPackage> {
  const { prepared, name, report } = inputs;
  const { destination } = inputs.plan;
  const remarks: Found = { losses: [], unsaid: [] };
  const edited = editedDocument(inputs.document, prepared.state);
  remarks.losses.push(...edited.losses);
  const taken = applyIntake(edited.document, prepared.state.intake);
  if (taken.nodes.length === 0)
    throw new KinkajouError(
      'handoff.empty',
      'nothing of the model is left to hand off',
      { file: prepared.source.model },
      'Take its meshes at intake, or bring back a part that was dropped.',
    );
  const { turn = 0, stage } = inputs.plan.destination;
  const turned = turn > 0 ? onTurntable(taken, { seconds: turn }) : taken;
  const whole = withPlannedMaterials(stage ? withStage(turned, stage) : turned, inputs, remarks);
  const paths = new Map(prepared.state.images.map(({ key, resolved }) => [key, resolved]));
  const skies = await gatherSkies(whole, {
    plan: inputs.plan,
    paths,
    read: prepared.read,
    readEnvironment: inputs.readEnvironment,
  });
  const { document } = skies;
  const { pieces, losses } = await piecesOf(document, inputs.plan, name);
  remarks.losses.push(...skies.losses, ...losses);
  if (pieces.length === 0)
    throw new KinkajouError(
      'handoff.empty',
      'there are no parts to split into files',
      { file: prepared.source.model },
      'Take the meshes at intake.',
    );
  const files: PackageFiles = new Map();
  const models: WrittenFile[] = [];
  for (const [i, piece] of pieces.entries()) {
    report(
      i / pieces.length,
      pieces.length === 1 ? 'writing the model' : `writing ${piece.name}, ${i + 1} of ${pieces.length}`,
    );
    models.push(
      await writePiece(piece, `${piece.name}.${inputs.variant}`, inputs, { files, found: remarks, skies }),
    );
  }
  const plan = withFound(inputs.plan, remarks);
  const takeoff = destination.takeoff
    ? pieces.flatMap(({ document: piece }) => namedRows(takeOff(piece), piece, plan))
    : [];
  if (takeoff.length > 0) files.set('takeoff.csv', encode(takeoffTable(takeoff)));
  const sheet = createSheet(plan, prepared.source.name, {
    models: models.map(({ model }) => model),
    copies: joinCopies(models),
    takeoff,
    numbers: prepared.state.numbers,
    sceneMetres: pieces[0].document.metresPerUnit,
    longest: longestSide(document),
  });
  if (destination.materialX) files.set(`${name}.mtlx`, encode(materialXDocument(sheet)));
  return {
    files,
    sheet,
    plan,
    models: models.map((model) => ({
      ...model,
      plan: { ...model.plan, losses: plan.losses, unsaid: plan.unsaid },
    })),
  };
}

/**
 * The document whose faces follow maps that are in tiles no more, with no material that is neither planned
 * nor used.
 */
function withPlannedMaterials(
  document: SceneDocument,
  { prepared, plan }: WriteInputs,
  noted: Found,
): SceneDocument {
  const planned = new Set(plan.materials.map(({ key }) => key));
  const isPlanned = (key: string) => planned.has(key);
  if (prepared.tiled.length === 0) return pruneMaterials(document, isPlanned);
  const existing = new Set(document.materials.map(({ key }) => key));
  const fresh = prepared.state.materials.filter(({ key }) => !existing.has(key));
  const split = splitTiles({ ...document, materials: [...document.materials, ...fresh] }, prepared.tiled);
  if (split.across > 0) noted.losses.push({ code: 'tile.across', count: split.across });
  return pruneMaterials(split.document, isPlanned);
}

/** Writes one model; FBX, OBJ and USD beside their maps or around them. */
async function writePiece(
  { document, plan, name }: ModelPiece,
  model: string,
  { baked }: WriteInputs,
  { files, found: remarks, skies }: { files: PackageFiles; found: Found; skies: Skies },
): Promise<WrittenFile> {
  const { destination } = plan;
  const inside = destination.embed && destination.format === 'fbx';
  if (!model.endsWith('.usdz')) for (const [path, bytes] of skies.files) files.set(path, bytes);
  const common = { model, plan, source: document, expected: asNamed(document, plan), original: null };
  if (destination.format === 'gltf') {
    const gltf = await writeGltf(document, plan, baked, {
      name,
      variant: model.endsWith('.gltf') ? 'gltf' : 'glb',
    });
    for (const [path, bytes] of gltf.files) files.set(path, bytes);
    remarks.losses.push(...gltf.losses);
    // It cannot say a normal that points nowhere, and is read by four joints a point.
    const meshes = common.expected.meshes.map(
      (mesh) => withHeaviestJoints(withSoundNormals(mesh).mesh, JOINTS_PER_VERTEX).mesh,
    );
    const expected = { ...common.expected, meshes };
    return { ...common, expected, written: null, copies: new Map() };
  }
  const turned = destinationDocument(document, plan);
  const whole = { ...turned, images: [...turned.images, ...skies.images] };
  const { document: bound, copies } =
    destination.parts === 'solids'
      ? withOwnMaterials(whole)
      : { document: whole, copies: new Map<string, string[]>() };
  const { document: ownDocument, losses } = withPlainMaterial(bound, destination.format);
  remarks.losses.push(...losses);
  const maps = new Map(plan.images.map((image) => [pathOfImage(image), baked.get(image.file) as Uint8Array]));
  const carried = model.endsWith('.usdz') ? new Map([...maps, ...skies.files]) : maps;
  const written = writeModel(ownDocument, model, {
    carried,
    targetOf: ({ written: path }) => ({ path, embed: inside ? (carried.get(path) ?? null) : null }),
  });
  addFound(remarks, written.losses, silenceOf(destination.format, ownDocument));
  for (const [path, bytes] of written.files) files.set(path, bytes);
  if (!model.endsWith('.usdz') && !inside) for (const [path, bytes] of carried) files.set(path, bytes);
  const { document: expected } = withPlainMaterial(common.expected, destination.format);
  return {
    ...common,
    expected: destination.format === 'obj' ? withSolidColours(expected) : expected,
    written: ownDocument,
    copies,
  };
}

/** Faces without a material have a plain one where the format cannot have them among others. */
function withPlainMaterial(
  document: SceneDocument,
  format: DestinationFormat,
): { document: SceneDocument; losses: Loss[] } {
  if (format === 'obj') {
    const { document: bound, parts } = withMaterialForAll(document);
    return { document: bound, losses: parts.map((part) => ({ code: 'obj.noMaterial', part })) };
  }
  if (format === 'gltf') return { document, losses: [] };
  const { document: bound, parts } = withMaterialForSlots(document);
  const detail = format.toUpperCase();
  return { document: bound, losses: parts.map((part) => ({ code: 'part.noMaterial', part, detail })) };
}

function withSolidColours(document: SceneDocument): SceneDocument {
  const meshes = document.meshes.map((mesh) => ({ ...mesh, colours: mesh.colours.map(withoutAlpha) }));
  return { ...document, meshes };
}

/** The source file itself, with edits and new paths in it. */
async function changeSource({
  prepared,
  plan: planned,
  document: asRead,
  baked,
  name,
  report,
}: WriteInputs): Promise<WrittenPackage> {
  const { source, state, read } = prepared;
  report(0, 'changing the source file');
  const { document } = editedDocument(asRead, state);
  const original = await read(source.model);
  const { files: patched, missed } = patchedModel(prepared, asRead, planned, original);
  const model = `${name}.fbx`;
  const files: PackageFiles = new Map([[model, patched.get(source.model) as Uint8Array]]);
  for (const image of planned.images) files.set(pathOfImage(image), baked.get(image.file) as Uint8Array);
  const paths = new Map(planned.images.map((image) => [image.use.image, pathInPackage(image)]));
  const written: SceneDocument = {
    ...document,
    materials: state.materials,
    images: document.images.map((image) => ({ ...image, written: paths.get(image.key) ?? image.written })),
  };
  const unsaid = missed.map((detail): Loss => ({ code: 'patch.missed', detail }));
  const sheet = createSheet(withFound(planned, { losses: [], unsaid }), source.name, {
    models: [model],
    sceneMetres: document.metresPerUnit,
    longest: longestSide(document),
    stated: { upAxis: source.upAxis, metresPerUnit: source.metresPerUnit },
  });
  const plan = withFound(planned, { losses: [], unsaid: [...unsaid, ...silenceOf('fbx', written)] });
  const expected = { ...document, materials: state.materials };
  const keyed = new Map(asRead.materials.map(({ key, name: before }) => [key, before]));
  const names = new Map(state.materials.map(({ key, name: after }) => [after, keyed.get(key) ?? after]));
  return {
    files,
    sheet,
    plan,
    models: [
      {
        model,
        plan,
        source: document,
        written,
        expected,
        copies: new Map(),
        original: { bytes: original, names },
      },
    ],
  };
}

function addFound(remarks: Found, losses: readonly Loss[], silence: readonly Loss[]): void {
  remarks.unsaid.push(...losses.filter(isUnsaid), ...silence);
  remarks.losses.push(...losses.filter((loss) => !isUnsaid(loss)));
}

function withFound(plan: HandoffPlan, { losses, unsaid }: Found): HandoffPlan {
  return { ...plan, losses: [...plan.losses, ...losses], unsaid: [...plan.unsaid, ...unsaid] };
}

/** Path of one image in the package, its tile's number in place. */
export function pathOfImage({ folder, file }: PlannedImage): string {
  return pathInPackage({ folder, pattern: file });
}

/** The document with the names under which its materials, and their copies, go out. */
function asNamed(document: SceneDocument, { materials, destination }: HandoffPlan): SceneDocument {
  const names = new Map(materials.map(({ key, name }) => [key, name]));
  const named = {
    ...document,
    materials: document.materials.map((material) => ({
      ...material,
      name: names.get(material.key) ?? material.name,
    })),
  };
  return destination.parts === 'solids' ? withOwnMaterials(named).document : named;
}

function joinCopies(models: readonly WrittenFile[]): Map<string, string[]> {
  const all = new Map<string, string[]>();
  for (const { copies } of models)
    for (const [key, names] of copies) all.set(key, [...(all.get(key) ?? []), ...names]);
  return all;
}

/** Rows with the names under which materials go out. */
function namedRows(rows: TakeoffRow[], document: SceneDocument, { materials }: HandoffPlan): TakeoffRow[] {
  const names = new Map(
    document.materials.map(({ key, name }) => [
      name,
      materials.find((material) => material.key === key)?.name ?? name,
    ]),
  );
  return rows.map((row) => ({ ...row, material: names.get(row.material) ?? row.material }));
}

function encode(text: string): Uint8Array {
  return new TextEncoder().encode(text);
}
