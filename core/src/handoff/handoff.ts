import { applyBindings } from '../asset/applyBindings.ts';
import type { AssetSource, AssetState, Edit, ParcelImage } from '../asset/asset.ts';
import type { Destination } from '../destinations/profile.ts';
import { KinkajouError } from '../errors.ts';
import type { Finding } from '../findings/finding.ts';
import type { SceneDocument } from '../scene/document.ts';
import { applyIntake } from '../scene/intake.ts';
import { writeModel } from '../formats/writeModel.ts';
import { bakeImage, type ReadFile } from './bake.ts';
import { cleanName } from '../parcel/names.ts';
import { type HandoffPlan, planHandoff } from './plan.ts';
import { destinationDocument, pathInPackage } from './destinationDocument.ts';
import { prepareState } from './prepareState.ts';
import { type ReadBack, readBackGltf } from './readBack.ts';
import { readBackModel } from './readBackModel.ts';
import { createSheet, sheetPage } from './sheet.ts';
import { createReceipt, type FileRecord, fileRecord, type Receipt } from './receipt.ts';
import { type PackageFiles, writeGltf } from './writeGltf.ts';

export interface HandoffInputs {
  document: SceneDocument;
  source: AssetSource;
  state: AssetState;
  edits: readonly Edit[];
  findings: readonly Finding[];
  images: readonly ParcelImage[];
  destination: Destination;
  /** One of the destination's variants. */
  variant: string;
  /** A PNG of the asset for the receiver's sheet. */
  picture?: Uint8Array | null;
  /** Files of the parcel by path. */
  read: ReadFile;
  /** Told the share done, in 0..1, and what is being done. */
  progress?: (share: number, doing: string) => void;
  signal?: AbortSignal;
}

export interface HandoffResult {
  files: PackageFiles;
  receipt: Receipt;
}

/**
 * Makes an asset ready for a destination: plan, bake, write, read back, receipt. The receipt is also among the files.
 * Throws `handoff.cancelled` when the signal says so, and the errors of reading and writing. A failed check does not
 * throw; it makes the receipt's verdict `failed`.
 */
export async function handOff(inputs: HandoffInputs): Promise<HandoffResult> {
  const { source, destination, variant } = inputs;
  if (!destination.variants.includes(variant))
    throw new KinkajouError('handoff.variant', `${destination.id} has no variant "${variant}"`, {}, `Use ${destination.variants.join(' or ')}.`);
  const document = applyBindings(applyIntake(inputs.document, inputs.state.intake), inputs.state);
  const report = (share: number, doing: string) => {
    if (inputs.signal?.aborted) throw new KinkajouError('handoff.cancelled', 'the handoff was cancelled');
    inputs.progress?.(share, doing);
  };
  report(0, 'planning');
  const { state, images, read, done } = await prepareState(source, inputs.state, inputs.images, inputs.read, destination, (share) =>
    report(0.25 * share, 'converting materials'),
  );
  const plan = planHandoff(state, images, destination);
  plan.prepared.push(...done);
  const baked = new Map<string, Uint8Array>();
  for (const [i, image] of plan.images.entries()) {
    report(0.25 + (0.4 * i) / plan.images.length, `baking ${image.file}`);
    baked.set(image.file, await bakeImage(image, read));
  }
  report(0.65, 'writing the model');
  const name = cleanName(source.name, 'asset');
  const making: Making = { document, plan, baked, name, variant, read, report };
  const { files, readBack } = destination.format === 'gltf' ? await makeGltf(making) : await makeModel(making);
  const sheet = createSheet(plan, source.name, `${name}.${variant}`);
  files.set('handoff.json', new TextEncoder().encode(`${JSON.stringify(sheet, null, 2)}\n`));
  files.set('README.html', new TextEncoder().encode(sheetPage(sheet, inputs.picture ?? null)));
  report(0.95, 'writing the receipt');
  const records = await inputRecords(
    source,
    plan.images.flatMap((image) => image.components),
    read,
  );
  const receipt = createReceipt({ source, edits: inputs.edits, plan, variant, inputs: records, files, readBack, findings: inputs.findings });
  files.set('receipt.json', new TextEncoder().encode(`${JSON.stringify(receipt, null, 2)}\n`));
  report(1, 'done');
  return { files, receipt };
}

/** Losses of words, not of looks: the tables of the sheet tell which component and which space. */
const UNSAID = /cannot say which component|has no word for the colour space/;

/** All that writing the model needs. */
interface Making {
  document: SceneDocument;
  plan: HandoffPlan;
  /** Content of each planned image by its file name. */
  baked: Map<string, Uint8Array>;
  name: string;
  variant: string;
  read: ReadFile;
  report: (share: number, doing: string) => void;
}

type Made = { files: PackageFiles; readBack: ReadBack };

async function makeGltf({ document, plan, baked, name, variant, read, report }: Making): Promise<Made> {
  const files = await writeGltf(document, plan, baked, name, variant === 'gltf' ? 'gltf' : 'glb');
  report(0.75, 'reading back');
  return { files, readBack: await readBackGltf(files, document, plan, read) };
}

/** FBX, OBJ and USD: the model beside its maps, or around them. */
async function makeModel({ document, plan, baked, name, variant, read, report }: Making): Promise<Made> {
  const { destination } = plan;
  const wanted = destinationDocument(document, plan);
  const model = `${name}.${variant}`;
  const carried = new Map([...baked].map(([file, bytes]) => [pathInPackage(destination, file), bytes]));
  const written = writeModel(wanted, model, { carried, targetOf: ({ written: path }) => ({ path, embed: null }) });
  const unsaid = written.losses.filter((loss) => UNSAID.test(loss));
  plan.unsaid.push(...unsaid);
  plan.losses.push(...written.losses.filter((loss) => !unsaid.includes(loss) && !plan.losses.includes(loss)));
  const files: PackageFiles = new Map(written.files);
  if (variant !== 'usdz') for (const [path, bytes] of carried) files.set(path, bytes);
  report(0.75, 'reading back');
  return { files, readBack: await readBackModel(files, model, document, wanted, plan, baked, read) };
}

async function inputRecords(source: AssetSource, components: { from: string; path?: string }[], read: ReadFile): Promise<FileRecord[]> {
  const paths = new Set([source.model, ...components.flatMap((component) => (component.path ? [component.path] : []))]);
  const records: FileRecord[] = [];
  for (const path of [...paths].sort()) records.push(fileRecord(path, await read(path)));
  return records;
}
