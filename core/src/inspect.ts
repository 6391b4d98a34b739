import {
  type AssetSource,
  type AssetState,
  type Edit,
  initialState,
  type ParcelImage,
} from './asset/asset.ts';
import { describeSource, embeddedImages } from './asset/describeSource.ts';
import { groundOf } from './asset/ownImages.ts';
import { reportParts } from './asset/parts.ts';
import { reportState } from './asset/reportState.ts';
import { scanImage, scanImages } from './asset/scanImages.ts';
import { tagUnstated } from './asset/unstatedTags.ts';
import { replay } from './edits/log.ts';
import { mendsOf } from './edits/mends.ts';
import { KinkajouError } from './errors.ts';
import { findFindings } from './findings/checks.ts';
import { type Finding, openFinding } from './findings/finding.ts';
import { type Knowledge, NOTHING_KNOWN } from './findings/knowledge.ts';
import { placeOf } from './parcel/filePlace.ts';
import {
  extensionOf,
  type FileSource,
  isOtherArchive,
  missingFile,
  otherArchive,
  type SourceFile,
} from './parcel/fileSource.ts';
import { DEFAULT_LIMITS, type Limits } from './parcel/limits.ts';
import { isModelPath, readModel } from './readModel.ts';
import type { SceneDocument } from './scene/document.ts';

/** An asset opened from files, with its geometry. */
export interface OpenAsset {
  document: SceneDocument;
  source: AssetSource;
  images: ParcelImage[];
  /** The parcel that it was read from. */
  files: FileSource;
  /** Reads files of the parcel and images carried inside the model, by path. */
  read(path: string): Promise<Uint8Array>;
}

/** Paths of the models in a source, in its order. */
export function listModels(source: FileSource): string[] {
  return source.files.map((file) => file.path).filter(isModelPath);
}

/** What is said of a source without a model, and of archives in it that may hold one. */
export function noModelIn(name: string, files: readonly SourceFile[]): KinkajouError {
  const archive = files.find(({ path }) => isOtherArchive(path));
  if (archive) return otherArchive(archive.path);
  return new KinkajouError(
    'parcel.noModel',
    'there is no model in it',
    { file: name },
    files.some(({ path }) => extensionOf(path) === 'zip')
      ? 'Unpack the zips in it.'
      : 'Add an FBX, OBJ, USD or glTF file.',
  );
}

/** Reads one model of a source with all images around it. Throws the reader's errors. */
export async function openAsset(
  source: FileSource,
  modelPath: string,
  limits: Limits = DEFAULT_LIMITS,
  existing?: readonly ParcelImage[],
): Promise<OpenAsset> {
  const { document, images, read } = await readWhole(source, modelPath, limits, existing);
  const paths = images.map((image) => image.path);
  const own = paths.filter((path) => placeOf(path).in === 'parcel');
  const ground = groundOf(modelPath, listModels(source), own);
  const bare = describeSource(document, modelPath, paths, ground.home);
  const described = { ...bare, materials: tagUnstated(bare.materials, bare.images, images) };
  return {
    document,
    source: { ...described, ...ground },
    images,
    files: source,
    read,
  };
}

/** A model and all images around it and in it, not looked into yet. */
export async function readWhole(
  source: FileSource,
  modelPath: string,
  limits: Limits = DEFAULT_LIMITS,
  existing?: readonly ParcelImage[],
): Promise<Pick<OpenAsset, 'document' | 'images' | 'read'>> {
  const document = await readModel(modelPath, source, limits);
  const images = [...(existing ?? (await scanImages(source, limits)))];
  const carried = new Map(embeddedImages(document).map((image) => [image.path, image.bytes]));
  for (const [path, bytes] of carried) images.push(await scanImage(path, bytes, null, limits));
  const read = async (path: string) => {
    const bytes = carried.get(path);
    if (bytes) return bytes;
    if (!source.files.some((file) => file.path === path)) throw missingFile(source.name, path);
    return source.read(path);
  };
  return { document, images, read };
}

/** How much is mended unasked: everything that can be, what is safe, or nothing. */
export type MendLevel = 'all' | 'safe' | 'none';

/** An asset after mending, with what is left. */
export interface Mended {
  edits: Edit[];
  state: AssetState;
  findings: Finding[];
}

/** The asset with further images beside its own, such as ones that were made from them. */
export async function withImages<Asset extends Pick<OpenAsset, 'images' | 'read'>>(
  asset: Asset,
  files: ReadonlyMap<string, Uint8Array>,
  limits: Limits = DEFAULT_LIMITS,
): Promise<Asset> {
  const added: ParcelImage[] = [];
  for (const [path, bytes] of files) added.push(await scanImage(path, bytes, null, limits));
  return {
    ...asset,
    images: [...asset.images.filter(({ path }) => !files.has(path)), ...added],
    read: async (path) => files.get(path) ?? asset.read(path),
  };
}

/** Rounds of mending: one mend may uncover another (a linked image turns out to be packed). */
const MAX_ROUNDS = 8;

/**
 * Applies the mends of findings until none is left at the level, and returns the edits made. No mend is taken
 * twice: what another one undid is left to a person.
 */
export function mendAsset(
  source: AssetSource,
  images: readonly ParcelImage[],
  level: MendLevel,
  {
    before = [],
    spared = () => false,
    ...given
  }: Partial<Knowledge> & { before?: readonly Edit[]; spared?: (finding: Finding) => boolean } = {},
): Mended {
  const knowledge = { ...NOTHING_KNOWN, ...given };
  const look = (edits: readonly Edit[]) => {
    const state = edits.length > 0 ? replay(source, edits, images).state : initialState(source);
    return { state, findings: findFindings(source, state, images, knowledge) };
  };
  const wanted = (finding: Finding) => (level === 'all' || finding.safe) && !spared(finding);
  return mendInRounds(before, look, level === 'none' ? () => false : wanted);
}

/** Takes the wanted mends of what a look at the edits so far shows, and looks again, each mend once. */
export function mendInRounds(
  before: readonly Edit[],
  look: (edits: readonly Edit[]) => Omit<Mended, 'edits'>,
  wanted: (finding: Finding) => boolean,
): Mended {
  const edits = [...before];
  let seen = look(edits);
  const taken = new Set<string>();
  const keyOf = ({ key, mend }: Finding) => `${key}\n${JSON.stringify(mend)}`;
  for (let round = 0; round < MAX_ROUNDS; round += 1) {
    const mends = seen.findings.filter(
      (finding) => finding.mend && wanted(finding) && !taken.has(keyOf(finding)),
    );
    if (mends.length === 0) break;
    for (const finding of mends) taken.add(keyOf(finding));
    edits.push(...mendsOf(mends).edits);
    seen = look(edits);
  }
  return { edits, ...seen };
}

/** The JSON of `inspect --json`. */
export function inspectReport(
  asset: Pick<OpenAsset, 'source' | 'images'>,
  state: AssetState,
  findings: readonly Finding[],
) {
  const { source, images } = asset;
  return {
    file: source.model,
    format: source.format,
    variant: source.variant,
    metresPerUnit: source.metresPerUnit,
    upAxis: source.upAxis,
    counts: source.counts,
    bounds: source.bounds,
    ...reportState(state, images),
    parts: reportParts(source, state),
    findings: findings.map(openFinding),
  };
}
