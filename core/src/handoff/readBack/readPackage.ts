import { embeddedImages } from '../../asset/describeSource.ts';
import type { DecodedImages } from '../../images/decodedImages.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import type { SceneDocument } from '../../scene/document.ts';
import type { PlannedImage } from '../plan/planImage.ts';
import type { Prepared } from '../prepare/prepare.ts';
import type { PackageFiles } from '../write/writeGltf.ts';
import { pathOfImage, type WrittenFile, type WrittenPackage } from '../write/writePackage.ts';
import { checkPixels } from './checkPixels.ts';
import { checkViews } from './checkViews.ts';
import { joinProofs, type Proof, proveModel, sideOf } from './proof.ts';
import {
  type HandoffCheck,
  mergeReadBacks,
  proofChecks,
  type ReadBack,
  readBackGltf,
  samplesOf,
} from './readBack.ts';
import { readBackModel } from './readBackModel.ts';
import { secondOpinion } from './secondOpinion.ts';

/** What a package holds, and how it compares with its source. */
export interface ReadPackage {
  readBack: ReadBack;
  proof: Proof;
}

/**
 * The fifth stage: every model as its receiver opens it, once, and what it is held against: counts, names and
 * places; the whole of it, with and without the words of the sheet; another reader; the pixels of every
 * image.
 */
export async function readPackage(
  written: WrittenPackage,
  prepared: Prepared,
  decoded: DecodedImages,
  report: (share: number, doing: string) => void,
): Promise<ReadPackage> {
  const { files, models, plan } = written;
  const backs: { model: string; back: ReadBack }[] = [];
  const proofs: Proof[] = [];
  const images: PackageImages = { inside: new Map(), decoded };
  for (const [i, file] of models.entries()) {
    report(
      i / models.length,
      models.length === 1 ? 'reading back' : `reading back ${file.model}, ${i + 1} of ${models.length}`,
    );
    const { back, proof } = await readFile(file, written, prepared, images);
    backs.push({ model: file.model, back });
    proofs.push(proof);
  }
  return {
    readBack: mergeReadBacks(backs, await imageChecks(plan.images, prepared, files, images)),
    proof: joinProofs(proofs),
  };
}

async function readFile(
  file: WrittenFile,
  { files, sheet }: WrittenPackage,
  { state, read }: Prepared,
  images: PackageImages,
): Promise<{ back: ReadBack; proof: Proof }> {
  const { model, plan, source, written, expected, copies, original } = file;
  const side = await sideOf(memorySource('package', Object.fromEntries(files)), model);
  gatherInside(side.document, images.inside);
  const { checks, ...rest } = written
    ? { validator: null, ...readBackModel({ files, model, source, wanted: written, plan }, side.document) }
    : await readBackGltf(files, model, source, plan);
  const proof = await proveModel(
    {
      side: { document: expected, materials: state.materials, images: state.images, read },
      plan,
      copies,
      decoded: images.decoded,
    },
    { side, sheet },
  );
  const others = [
    checkViews(source, side.document, files),
    ...(await secondOpinion(files, model, side, original ?? undefined)),
  ];
  return {
    back: {
      ...rest,
      checks: [...checks, ...others, ...proofChecks(proof)],
      channels: samplesOf(proof, plan),
    },
    proof,
  };
}

/** Images of a package that its files alone do not give. */
interface PackageImages {
  /** Those that models carry inside, by their file's name with and without its type. */
  inside: Map<string, Uint8Array>;
  decoded: DecodedImages;
}

function gatherInside(document: SceneDocument, inside: PackageImages['inside']): void {
  for (const { path, bytes } of embeddedImages(document)) {
    const bare = path.slice(path.lastIndexOf('/') + 1);
    inside.set(bare, bytes);
    inside.set(bare.replace(/\.\w+$/, ''), bytes);
  }
}

/** Every image as it lies in the package, beside a model or inside it. */
async function imageChecks(
  images: readonly PlannedImage[],
  { read }: Prepared,
  files: PackageFiles,
  { inside, decoded }: PackageImages,
): Promise<HandoffCheck[]> {
  const checks: HandoffCheck[] = [];
  for (const image of images) {
    const bytes =
      files.get(pathOfImage(image)) ?? inside.get(image.file) ?? inside.get(image.file.replace(/\.\w+$/, ''));
    checks.push(await checkPixels(image, bytes, read, decoded));
  }
  return checks;
}
