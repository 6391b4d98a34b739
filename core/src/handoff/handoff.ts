import { applyBindings } from '../asset/applyBindings.ts';
import type { AssetSource, AssetState, Edit, ParcelImage } from '../asset/asset.ts';
import { embeddedImages } from '../asset/describeSource.ts';
import { type HandoffChoices, settle } from '../destinations/settle.ts';
import type { Destination } from '../destinations/profile.ts';
import { KinkajouError } from '../errors.ts';
import type { Finding } from '../findings/finding.ts';
import { writeModel } from '../formats/writeModel.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { cleanName } from '../parcel/names.ts';
import type { SceneDocument } from '../scene/document.ts';
import { isUnsaid, type Loss } from '../scene/loss.ts';
import { applyIntake } from '../scene/intake.ts';
import { pruneMaterials } from '../scene/pruneMaterials.ts';
import { splitTiles, type TiledMaterial } from '../scene/splitTiles.ts';
import { takeOff, type TakeoffRow } from '../scene/takeoff.ts';
import type { ReadFile } from './bake.ts';
import { type BakeCache, bakeImages } from './bakeImages.ts';
import { checkPixels } from './checkPixels.ts';
import { destinationDocument, pathInPackage, withOwnMaterials } from './destinationDocument.ts';
import { materialXDocument } from './materialX.ts';
import { patchedModel, planPatch, refusesPatch } from './patchHandoff.ts';
import { longestSide, type ModelPiece, piecesOf } from './pieces.ts';
import { type HandoffPlan, planHandoff } from './plan.ts';
import type { PlannedImage } from './planImage.ts';
import { prepareState } from './prepareState.ts';
import { joinProofs, type Proof, proveModel, sideOf } from './proof.ts';
import { type HandoffCheck, mergeReadBacks, proofChecks, type ReadBack, readBackGltf, samplesOf } from './readBack.ts';
import { readBackModel } from './readBackModel.ts';
import { createReceipt, type FileRecord, fileRecord, type Receipt } from './receipt.ts';
import { secondOpinion } from './secondOpinion.ts';
import { createSheet, type Sheet } from './sheet.ts';
import { silenceOf } from './silence.ts';
import { sheetPage } from './sheetPage.ts';
import { takeoffTable } from './takeoffTable.ts';
import { untile } from './tileMaterials.ts';
import { withoutUnusedDefaults } from './unusedMaterials.ts';
import { type PackageFiles, writeGltf } from './writeGltf.ts';

export interface HandoffInputs {
  document: SceneDocument;
  source: AssetSource;
  state: AssetState;
  edits: readonly Edit[];
  findings: readonly Finding[];
  images: readonly ParcelImage[];
  destination: Destination;
  /** What was settled where the destination leaves it open. */
  choices?: HandoffChoices;
  /** A PNG of the asset for the receiver's sheet. */
  picture?: Uint8Array | null;
  /** Files of the parcel by path. */
  read: ReadFile;
  /** Told the share done, in 0..1, and what is being done. */
  progress?: (share: number, doing: string) => void;
  signal?: AbortSignal;
  /** Images that were baked before. */
  cache?: BakeCache;
  /** Images baked at a time; as many as there are processors unless told. */
  threads?: number;
}

export interface HandoffResult {
  files: PackageFiles;
  receipt: Receipt;
  sheet: Sheet;
}

/**
 * Makes an asset ready for a destination: plan, bake, write, read back, receipt. The receipt is also among the files.
 * Where the destination says so and the source allows it, the source file itself is changed instead of written anew.
 * Throws `handoff.cancelled` when the signal says so, and the errors of settling, reading and writing. A failed check
 * does not throw; it makes the receipt's verdict `failed`.
 */
export async function handOff(inputs: HandoffInputs): Promise<HandoffResult> {
  const { source, edits, findings } = inputs;
  const destination = settle(inputs.destination, inputs.choices);
  const { variant } = destination;
  const report = reporter(inputs);
  report(0, 'planning');
  const refusal = destination.patch ? await refusesPatch(source, inputs.state, destination, inputs.read) : 'not wanted';
  const taken = { ...inputs, state: withoutUnusedDefaults(source, inputs.state) };
  const untiled = refusal === null ? null : await untile(source, taken.state, inputs.images, inputs.read, destination);
  const given = untiled ?? taken;
  const prepared =
    refusal === null
      ? { state: inputs.state, images: inputs.images, read: inputs.read, done: [], origins: new Map() }
      : await prepareState(source, given.state, given.images, given.read, destination, { progress: (share) => report(0.2 * share, 'converting materials') });
  const { state, images, read } = prepared;
  const name = cleanName(source.name, 'asset');
  const plan = refusal === null ? planPatch(state, images, destination) : planHandoff(state, images, destination, name);
  plan.prepared.push(...(untiled?.done ?? []), ...prepared.done);
  if (destination.patch && refusal !== null) plan.prepared.push(`Written anew, since ${refusal}`);
  const baked = await bakeImages(plan.images, read, {
    cache: inputs.cache,
    signal: inputs.signal,
    threads: inputs.threads,
    progress: (done, total, file) => report(0.2 + (0.45 * done) / total, `baking ${file}, ${done + 1} of ${total}`),
  });
  const making: Making = { inputs, plan, state, baked, name, read, report, tiled: untiled?.tiled ?? [] };
  const { files, readBack, sheet, proof } = refusal === null ? await makePatched(making) : await makePieces(making);
  files.set('handoff.json', encode(`${JSON.stringify(sheet, null, 2)}\n`));
  files.set('README.html', encode(sheetPage(sheet, inputs.picture ?? null)));
  report(0.95, 'writing the receipt');
  const records = await inputRecords(
    source,
    plan.images.flatMap((image) => image.components),
    read,
  );
  const receipt = createReceipt({
    source,
    state: inputs.state,
    images: inputs.images,
    edits,
    plan,
    variant,
    inputs: records,
    files,
    readBack,
    proof,
    findings,
  });
  files.set('receipt.json', encode(`${JSON.stringify(receipt, null, 2)}\n`));
  report(1, 'done');
  return { files, receipt, sheet };
}

function reporter({ signal, progress }: HandoffInputs): (share: number, doing: string) => void {
  return (share, doing) => {
    if (signal?.aborted) throw new KinkajouError('handoff.cancelled', 'the handoff was cancelled');
    progress?.(share, doing);
  };
}

function encode(text: string): Uint8Array {
  return new TextEncoder().encode(text);
}

/** All that writing the models needs. */
interface Making {
  inputs: HandoffInputs;
  plan: HandoffPlan;
  /** What the images were baked from. */
  state: AssetState;
  /** Content of each planned image by its file name. */
  baked: Map<string, Uint8Array>;
  name: string;
  read: ReadFile;
  report: (share: number, doing: string) => void;
  /** Materials whose tiles became materials or places of an image. */
  tiled: readonly TiledMaterial[];
}

interface Made {
  files: PackageFiles;
  readBack: ReadBack;
  sheet: Sheet;
  proof: Proof;
}

/** A model file of the package with what it must read as. */
interface WrittenPiece {
  piece: ModelPiece;
  model: string;
  /** The document that was written; of glTF null. */
  wanted: SceneDocument | null;
  /** Names of each material's copies by its key. */
  copies: ReadonlyMap<string, string[]>;
}

async function makePieces(making: Making): Promise<Made> {
  const { inputs, plan, baked, name, report } = making;
  const { destination } = plan;
  const bound = applyBindings(applyIntake(inputs.document, inputs.state.intake), inputs.state);
  const document = withPlannedMaterials(bound, making);
  const pieces = piecesOf(document, plan, name);
  if (pieces.length === 0)
    throw new KinkajouError('handoff.empty', 'there are no parts to split into files', { file: inputs.source.model }, 'Take the meshes at intake.');
  const files: PackageFiles = new Map();
  const parts: WrittenPiece[] = [];
  for (const [i, piece] of pieces.entries()) {
    report(0.65 + (0.1 * i) / pieces.length, pieces.length === 1 ? 'writing the model' : `writing ${piece.name}, ${i + 1} of ${pieces.length}`);
    const model = `${piece.name}.${inputs.choices?.variant ?? destination.variants[0]}`;
    parts.push(await writePiece(piece, model, baked, files));
  }
  const takeoff = destination.takeoff ? pieces.flatMap(({ document: own }) => namedRows(takeOff(own), own, plan)) : [];
  if (takeoff.length > 0) files.set('takeoff.csv', encode(takeoffTable(takeoff)));
  const sheet = createSheet(plan, inputs.source.name, {
    models: parts.map(({ model }) => model),
    copies: joinCopies(parts),
    takeoff,
    sceneMetres: pieces[0].document.metresPerUnit,
    longest: longestSide(document),
  });
  if (destination.materialX) files.set(`${name}.mtlx`, encode(materialXDocument(sheet)));
  const backs: { model: string; back: ReadBack }[] = [];
  const proofs: Proof[] = [];
  const inside: Inside = new Map();
  for (const [i, part] of parts.entries()) {
    const { model } = part;
    report(0.75 + (0.18 * i) / parts.length, pieces.length === 1 ? 'reading back' : `reading back ${model}, ${i + 1} of ${parts.length}`);
    const { back, proof } = await readPieceBack(making, files, part, sheet, inside);
    backs.push({ model, back });
    proofs.push(proof);
  }
  return {
    files,
    sheet,
    proof: joinProofs(proofs),
    readBack: mergeReadBacks(backs, await imageChecks(making, files, inside)),
  };
}

function joinCopies(parts: readonly WrittenPiece[]): Map<string, string[]> {
  const all = new Map<string, string[]>();
  for (const { copies } of parts) for (const [key, names] of copies) all.set(key, [...(all.get(key) ?? []), ...names]);
  return all;
}

/** The document whose faces follow maps that are in tiles no more, with no material that is neither planned nor used. */
function withPlannedMaterials(document: SceneDocument, { tiled, state, plan }: Making): SceneDocument {
  const planned = new Set(plan.materials.map(({ key }) => key));
  const isPlanned = (key: string) => planned.has(key);
  if (tiled.length === 0) return pruneMaterials(document, isPlanned);
  const known = new Map(document.materials.map((material) => [material.key, material]));
  const fresh = state.materials.filter(({ key }) => !known.has(key));
  const split = splitTiles({ ...document, materials: [...document.materials, ...fresh] }, tiled);
  if (split.across > 0) plan.losses.push({ code: 'tile.across', count: split.across });
  return pruneMaterials(split.document, isPlanned);
}

/** Writes one model; FBX, OBJ and USD beside their maps or around them. What the format cannot say joins the plan. */
async function writePiece(piece: ModelPiece, model: string, baked: Making['baked'], files: PackageFiles): Promise<WrittenPiece> {
  const { document, plan, name } = piece;
  const { destination } = plan;
  if (destination.format === 'gltf') {
    for (const [path, bytes] of await writeGltf(document, plan, baked, name, model.endsWith('.gltf') ? 'gltf' : 'glb')) files.set(path, bytes);
    return { piece, model, wanted: null, copies: new Map() };
  }
  const whole = destinationDocument(document, plan);
  const { document: wanted, copies } = destination.parts === 'solids' ? withOwnMaterials(whole) : { document: whole, copies: new Map<string, string[]>() };
  const carried = new Map(plan.images.map((image) => [placeOf(image), baked.get(image.file) as Uint8Array]));
  const inside = destination.embed && destination.format === 'fbx';
  const written = writeModel(wanted, model, { carried, targetOf: ({ written: path }) => ({ path, embed: inside ? (carried.get(path) ?? null) : null }) });
  plan.unsaid.push(...written.losses.filter(isUnsaid), ...silenceOf(destination.format, wanted));
  plan.losses.push(...written.losses.filter((loss) => !isUnsaid(loss)));
  for (const [path, bytes] of written.files) files.set(path, bytes);
  if (!model.endsWith('.usdz') && !inside) for (const [path, bytes] of carried) files.set(path, bytes);
  return { piece, model, wanted, copies };
}

/** Path of one image in the package, its tile's number in place. */
function placeOf({ folder, file }: PlannedImage): string {
  return pathInPackage({ folder, pattern: file });
}

async function readPieceBack(
  making: Making,
  files: PackageFiles,
  { piece, wanted, model, copies }: WrittenPiece,
  sheet: Sheet,
  inside: Inside,
): Promise<{ back: ReadBack; proof: Proof }> {
  const { document, plan } = piece;
  const { checks, ...rest } = wanted
    ? { validator: null, ...(await readBackModel({ files, model, source: document, wanted, plan })) }
    : await readBackGltf(files, model, document, plan);
  const side = await sideOf(memorySource('package', Object.fromEntries(files)), model);
  gatherInside(side.document, inside);
  const expected = { document: asNamed(document, plan), materials: making.state.materials, images: making.state.images, read: making.read };
  const proof = await proveModel({ side: expected, plan, copies }, { side, sheet });
  const others = await secondOpinion(files, model, side);
  return { back: { ...rest, checks: [...checks, ...others, ...proofChecks(proof)], channels: samplesOf(proof, plan) }, proof };
}

/** The document with the names under which its materials, and their copies, go out. */
function asNamed(document: SceneDocument, { materials, destination }: HandoffPlan): SceneDocument {
  const names = new Map(materials.map(({ key, name }) => [key, name]));
  const named = { ...document, materials: document.materials.map((material) => ({ ...material, name: names.get(material.key) ?? material.name })) };
  return destination.parts === 'solids' ? withOwnMaterials(named).document : named;
}

/** Images that models carry inside, by their file's name with and without its type. */
type Inside = Map<string, Uint8Array>;

function gatherInside(found: SceneDocument, inside: Inside): void {
  for (const { path, bytes } of embeddedImages(found)) {
    const bare = path.slice(path.lastIndexOf('/') + 1);
    inside.set(bare, bytes);
    inside.set(bare.replace(/\.\w+$/, ''), bytes);
  }
}

/** Every image as it lies in the package, beside a model or inside it. */
async function imageChecks({ plan, read }: Making, files: PackageFiles, inside: Inside): Promise<HandoffCheck[]> {
  const checks: HandoffCheck[] = [];
  for (const image of plan.images) {
    const bytes = files.get(placeOf(image)) ?? inside.get(image.file) ?? inside.get(image.file.replace(/\.\w+$/, ''));
    checks.push(await checkPixels(image, bytes, read));
  }
  return checks;
}

/** The source file itself, with edits and new paths in it. */
async function makePatched(making: Making): Promise<Made> {
  const { inputs, plan, state, baked, name, read, report } = making;
  const { source } = inputs;
  report(0.65, 'changing the source file');
  const original = await read(source.model);
  const { files: patched, missed } = patchedModel(source, state, plan, original);
  plan.unsaid.push(...missed.map((detail): Loss => ({ code: 'patch.missed', detail })));
  const model = `${name}.fbx`;
  const files: PackageFiles = new Map([[model, patched.get(source.model) as Uint8Array]]);
  for (const image of plan.images) files.set(placeOf(image), baked.get(image.file) as Uint8Array);
  const sheet = createSheet(plan, source.name, {
    models: [model],
    sceneMetres: inputs.document.metresPerUnit,
    longest: longestSide(inputs.document),
    stated: { upAxis: source.upAxis, metresPerUnit: source.metresPerUnit },
  });
  report(0.75, 'reading back');
  const moved = new Map(plan.images.map((image) => [image.use.image, pathInPackage(image)]));
  const wanted: SceneDocument = {
    ...inputs.document,
    materials: state.materials,
    images: inputs.document.images.map((image) => ({ ...image, written: moved.get(image.key) ?? image.written })),
  };
  plan.unsaid.push(...silenceOf('fbx', wanted));
  const { checks, ...rest } = await readBackModel({ files, model, source: inputs.document, wanted, plan });
  const side = await sideOf(memorySource('package', Object.fromEntries(files)), model);
  const expected = { document: { ...inputs.document, materials: state.materials }, materials: state.materials, images: state.images, read };
  const proof = await proveModel({ side: expected, plan, copies: new Map() }, { side, sheet });
  const others = await secondOpinion(files, model, side, original);
  const back: ReadBack = { validator: null, ...rest, checks: [...checks, ...others, ...proofChecks(proof)], channels: samplesOf(proof, plan) };
  return { files, sheet, proof, readBack: mergeReadBacks([{ model, back }], await imageChecks(making, files, new Map())) };
}

/** Rows with the names under which materials go out. */
function namedRows(rows: TakeoffRow[], document: SceneDocument, { materials }: HandoffPlan): TakeoffRow[] {
  const names = new Map(document.materials.map(({ key, name }) => [name, materials.find((material) => material.key === key)?.name ?? name]));
  return rows.map((row) => ({ ...row, material: names.get(row.material) ?? row.material }));
}

async function inputRecords(source: AssetSource, components: { from: string; path?: string }[], read: ReadFile): Promise<FileRecord[]> {
  const paths = new Set([source.model, ...components.flatMap((component) => (component.path ? [component.path] : []))]);
  const records: FileRecord[] = [];
  for (const path of [...paths].sort()) records.push(fileRecord(path, await read(path)));
  return records;
}
