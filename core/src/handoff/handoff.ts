import type { AssetSource, Edit, LoadedAsset } from '../asset/asset.ts';
import type { Destination } from '../destinations/profile.ts';
import { type HandoffChoices, resolveChoices } from '../destinations/resolveChoices.ts';
import { KinkajouError } from '../errors.ts';
import type { Finding } from '../findings/finding.ts';
import { DecodedImages } from '../images/decodedImages.ts';
import { JOINED, parseJoined, pathsIn } from '../join/joinedFile.ts';
import { extensionOf, type ReadFile } from '../parcel/fileSource.ts';
import { cleanName } from '../parcel/names.ts';
import type { SceneDocument } from '../scene/document.ts';
import { type BakeCache, bakeImages } from './bake/bakeImages.ts';
import type { HandoffPlan } from './plan/plan.ts';
import { planFor } from './plan/planFor.ts';
import { prepare } from './prepare/prepare.ts';
import { readPackage } from './readBack/readPackage.ts';
import { createReceipt, type FileRecord, fileRecord, type Receipt } from './tell/receipt.ts';
import type { Sheet } from './write/sheet.ts';
import type { PackageFiles } from './write/writeGltf.ts';
import { writePackage } from './write/writePackage.ts';

/** An asset as it stands and the destination it goes to. */
export interface HandoffInputs extends LoadedAsset {
  document: SceneDocument;
  edits: readonly Edit[];
  findings: readonly Finding[];
  destination: Destination;
  /** What was settled where the destination leaves it open. */
  choices?: HandoffChoices;
  /** A PNG of the asset for the receiver's sheet. */
  picture?: Uint8Array | null;
  /** Told the share done, in 0..1, and what is being done. */
  progress?: (share: number, doing: string) => void;
  signal?: AbortSignal;
  /** Reads the picture of an environment that the stage names. */
  readEnvironment?: ReadFile;
  /** Images that were baked before. */
  cache?: BakeCache;
  /** Images baked at a time; as many as there are processors unless told. */
  threads?: number;
}

/** A package and its proof. */
export interface HandoffResult {
  files: PackageFiles;
  receipt: Receipt;
  sheet: Sheet;
}

/** Where each stage ends, as a share of the whole. */
const ENDS = { prepare: 0.2, bake: 0.65, write: 0.75, readBack: 0.93, tell: 0.95 };

/**
 * Makes an asset ready for a destination: prepare, plan, bake, write, read back, tell. Each stage makes a
 * value of the values before it. The receipt is also among the files. Where the destination says so and the
 * source allows it, the source file itself is changed instead of written anew. Throws `handoff.empty` for a
 * model without faces, `handoff.cancelled` when the signal says so, and the errors of settling, reading and
 * writing. A failed check does not throw; it makes the receipt's verdict `failed`.
 */
export async function handOff(inputs: HandoffInputs): Promise<HandoffResult> {
  const { source, state, images, read, document, cache, signal, threads, picture = null } = inputs;
  const destination = resolveChoices(inputs.destination, inputs.choices);
  const name = cleanName(source.name, 'asset');
  refuseEmpty(document, source.model);
  const report = reporter(inputs);
  report(0, 'planning');
  const decoded = new DecodedImages();
  const prepared = await prepare({ source, state, images, read }, destination, {
    decoded,
    progress: (share) => report(ENDS.prepare * share, 'converting materials'),
  });
  const plan = planFor(prepared, destination, name);
  const baked = await bakeImages(plan.images, prepared.read, {
    cache,
    signal,
    threads,
    decoded,
    progress: (done, total, file) =>
      report(between('prepare', 'bake', done / total), `baking ${file}, ${done + 1} of ${total}`),
  });
  const variant = inputs.choices?.variant ?? destination.variants[0];
  const writing = {
    prepared,
    plan,
    document,
    baked,
    name,
    variant,
    picture,
    readEnvironment: inputs.readEnvironment,
  };
  const written = await writePackage({
    ...writing,
    report: (share, doing) => report(between('bake', 'write', share), doing),
  });
  const packageRead = await readPackage(written, prepared, decoded, (share, doing) =>
    report(between('write', 'readBack', share), doing),
  );
  report(ENDS.tell, 'writing the receipt');
  const receipt = createReceipt({
    source,
    state,
    images,
    edits: inputs.edits,
    plan: written.plan,
    variant: destination.variant,
    inputs: await inputRecords(source, plan, prepared.read),
    files: written.files,
    ...packageRead,
    findings: inputs.findings,
  });
  const files: PackageFiles = new Map([
    ...written.files,
    ['receipt.json', new TextEncoder().encode(`${JSON.stringify(receipt, null, 2)}\n`)],
  ]);
  report(1, 'done');
  return { files, receipt, sheet: written.sheet };
}

/** Points and lines are no surface: there is nothing to hand off. */
function refuseEmpty({ nodes, meshes }: SceneDocument, file: string): void {
  if (nodes.some(({ mesh }) => mesh >= 0 && meshes[mesh].faceCounts.length > 0)) return;
  throw new KinkajouError(
    'handoff.empty',
    'the model has no faces',
    { file },
    'Export it with its surfaces; points and lines alone cannot be handed off.',
  );
}

function between(from: keyof typeof ENDS, to: keyof typeof ENDS, share: number): number {
  return ENDS[from] + (ENDS[to] - ENDS[from]) * share;
}

function reporter({ signal, progress }: HandoffInputs): (share: number, doing: string) => void {
  return (share, doing) => {
    if (signal?.aborted) throw new KinkajouError('handoff.cancelled', 'the handoff was cancelled');
    progress?.(share, doing);
  };
}

/**
 * The files that the package was made from: the model, those that are joined in it, and the images that its
 * own are baked of.
 */
async function inputRecords(
  { model }: AssetSource,
  { images }: HandoffPlan,
  read: ReadFile,
): Promise<FileRecord[]> {
  const baked = images.flatMap(({ components }) =>
    components.flatMap((component) => (component.from === 'image' ? [component.path] : [])),
  );
  const joined = extensionOf(model) === JOINED ? pathsIn(parseJoined(await read(model), model), model) : [];
  const records: FileRecord[] = [];
  for (const path of [...new Set([model, ...joined, ...baked])].sort())
    records.push(fileRecord(path, await read(path)));
  return records;
}
