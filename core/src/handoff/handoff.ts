import { applyBindings } from '../asset/applyBindings.ts';
import type { AssetSource, AssetState, Edit, ParcelImage } from '../asset/asset.ts';
import type { Destination } from '../destinations/destination.ts';
import { KinkajouError } from '../errors.ts';
import type { Finding } from '../findings/finding.ts';
import type { SceneDocument } from '../scene/document.ts';
import { applyIntake } from '../scene/intake.ts';
import { bakeImage, type ReadFile } from './bake.ts';
import { cleanName } from '../parcel/names.ts';
import { planHandoff } from './plan.ts';
import { readBackGltf } from './readBack.ts';
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
  variant: 'glb' | 'gltf';
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
  const { source, state, images, destination, variant, read } = inputs;
  const document = applyBindings(applyIntake(inputs.document, state.intake), state);
  const report = (share: number, doing: string) => {
    if (inputs.signal?.aborted) throw new KinkajouError('handoff.cancelled', 'the handoff was cancelled');
    inputs.progress?.(share, doing);
  };
  report(0, 'planning');
  const plan = planHandoff(state, images, destination);
  const baked = new Map<string, Uint8Array>();
  for (const [i, image] of plan.images.entries()) {
    report(0.05 + (0.6 * i) / plan.images.length, `baking ${image.file}`);
    baked.set(image.file, await bakeImage(image, read));
  }
  report(0.65, 'writing the model');
  const files = await writeGltf(document, plan, baked, cleanName(source.name, 'asset'), variant);
  report(0.75, 'reading back');
  const readBack = await readBackGltf(files, document, plan, read);
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

async function inputRecords(source: AssetSource, components: { from: string; path?: string }[], read: ReadFile): Promise<FileRecord[]> {
  const paths = new Set([source.model, ...components.flatMap((component) => (component.path ? [component.path] : []))]);
  const records: FileRecord[] = [];
  for (const path of [...paths].sort()) records.push(fileRecord(path, await read(path)));
  return records;
}
