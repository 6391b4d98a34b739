import type { AssetSource, AssetState, Edit, ParcelImage } from '../../asset/asset.ts';
import { reportState } from '../../asset/reportState.ts';
import { describeEdit } from '../../edits/log.ts';
import { type Finding, needsPerson, type OpenFinding, openFinding } from '../../findings/finding.ts';
import { sha256 } from '../../parcel/hash.ts';
import { lossesInWords } from '../../scene/loss.ts';
import type { HandoffPlan } from '../plan/plan.ts';
import type { Proof } from '../readBack/proof.ts';
import type { ReadBack } from '../readBack/readBack.ts';
import { componentInWords } from '../words.ts';
import type { PackageFiles } from '../write/writeGltf.ts';

/**
 * `clean` where nothing was lost, `with remarks` where losses were told, `failed` where anything else
 * differs.
 */
export type Verdict = 'clean' | 'with remarks' | 'failed';

/** A file of a package with its size and content. */
export interface FileRecord {
  path: string;
  bytes: number;
  sha256: string;
}

/**
 * What was made, from what, and what reading it back showed. Plain JSON; equal inputs give equal receipts.
 */
export interface Receipt {
  receipt: 1;
  destination: string;
  variant: string;
  asset: { name: string; model: string; format: string };
  verdict: Verdict;
  inputs: FileRecord[];
  outputs: FileRecord[];
  edits: { text: string; from: string; detail: string; rule?: string; rulebook?: string }[];
  packed: {
    file: string;
    width: number;
    height: number;
    copied: boolean;
    components: Record<string, string>;
  }[];
  losses: string[];
  /** What was converted before the images were baked. */
  prepared: string[];
  /** What the sheet for the receiver tells, since the format cannot. */
  unsaid: string[];
  /** Everything that was still open when it was made, notes among them, in short and in whole. */
  openFindings: Pick<OpenFinding, 'code' | 'severity' | 'subject' | 'message'>[];
  remaining: OpenFinding[];
  /** Materials and images as they were handed off, before they were made ready for the destination. */
  materials: ReturnType<typeof reportState>['materials'];
  images: ReturnType<typeof reportState>['images'];
  readBack: ReadBack;
  /** The model and its images by the rules of its format alone; and with what the sheet tells besides. */
  verdicts: { model: Proof['model']; sheet: Proof['sheet'] };
  /** Each word that the sheet adds. */
  sheetWords: Proof['words'];
  /** Everything that is not as in the source, with the loss that explains it; null where none does. */
  differences: Proof['differences'];
}

/** Everything that a receipt tells of. */
export interface ReceiptInputs {
  source: AssetSource;
  /** As it stands after the edits. */
  state: AssetState;
  /** Files of the parcel. */
  images: readonly ParcelImage[];
  edits: readonly Edit[];
  plan: HandoffPlan;
  variant: string;
  inputs: FileRecord[];
  files: PackageFiles;
  readBack: ReadBack;
  proof: Proof;
  findings: readonly Finding[];
}

/** The receipt of a package as it was read back, in the shape of `receipt.json`. */
export function createReceipt({
  source,
  state,
  images,
  edits,
  plan,
  variant,
  inputs,
  files,
  readBack,
  proof,
  findings,
}: ReceiptInputs): Receipt {
  const asks = findings.some(needsPerson);
  const sound = readBack.checks.every((check) => check.ok);
  const quiet = plan.losses.length === 0 && !asks && warningsThatCount(readBack) === 0;
  return {
    receipt: 1,
    destination: plan.destination.id,
    variant,
    asset: { name: source.name, model: source.model, format: source.format },
    verdict: verdictOf(sound, quiet),
    inputs,
    outputs: [...files]
      .map(([path, bytes]) => fileRecord(path, bytes))
      .sort((a, b) => (a.path < b.path ? -1 : 1)),
    edits: edits.map(recordOf),
    packed: plan.images.map((image) => ({
      file: image.file,
      width: image.width,
      height: image.height,
      copied: image.copyOf !== null,
      components: Object.fromEntries(
        image.components.map((component, i) => ['rgba'[i], componentInWords(component)]),
      ),
    })),
    losses: lossesInWords(plan.losses),
    prepared: [...plan.prepared],
    unsaid: lossesInWords(plan.unsaid),
    openFindings: findings.map(({ code, severity, subject, message }) => ({
      code,
      severity,
      subject,
      message,
    })),
    remaining: findings.map(openFinding),
    ...reportState(state, images),
    readBack,
    verdicts: { model: proof.model, sheet: proof.sheet },
    sheetWords: proof.words,
    differences: proof.differences,
  };
}

function verdictOf(sound: boolean, quiet: boolean): Verdict {
  if (!sound) return 'failed';
  return quiet ? 'clean' : 'with remarks';
}

/** An edit as receipts list it, with the rule that made it. */
export function recordOf(edit: Edit): Receipt['edits'][number] {
  const { from, detail, rule } = edit.origin;
  return { text: describeEdit(edit), from, detail, ...rule };
}

/** Without the hint that tangents are left to the receiver, which is as glTF wants it. */
function warningsThatCount({ validator }: ReadBack): number {
  if (!validator) return 0;
  const hints = validator.messages.filter(
    ({ code, severity }) => code === 'MESH_PRIMITIVE_GENERATED_TANGENT_SPACE' && severity === WARNING,
  ).length;
  return validator.warnings - hints;
}

/** Severity of the validator's warnings; hints and information have higher numbers. */
const WARNING = 1;

/** A file's size and SHA-256. */
export function fileRecord(path: string, bytes: Uint8Array): FileRecord {
  return { path, bytes: bytes.length, sha256: sha256(bytes) };
}
