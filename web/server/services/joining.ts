import { JOINED_FOLDER, type Overlay } from '@kinkajou/core/asset/overlay';
import { KinkajouError } from '@kinkajou/core/errors';
import {
  formatJoined,
  JOINED,
  type JoinedFile,
  parseJoined,
  plainModel,
} from '@kinkajou/core/join/joinedFile';
import { extensionOf, fileName, folderOf, stemOf } from '@kinkajou/core/parcel/fileSource';
import { cleanName } from '@kinkajou/core/parcel/names';
import { isModelPath } from '@kinkajou/core/readModel';
import { eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { deliveries, parcels } from '../db/schema.ts';
import { publish } from '../events.ts';
import type { JoinOrder } from '../jobs/kinds.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { type AssetRow, findAsset } from './assetRow.ts';
import { currentState } from './assetState.ts';
import { appliedEdits, filesOf, makeWhole, type PlacedFile } from './deliveries.ts';
import { findParcel } from './parcelFiles.ts';

/**
 * A worker puts another asset beside what is there. Returns the parcel that both become, whose state tells
 * how far it is.
 */
export async function requestJoin(assetId: string, order: JoinOrder): Promise<{ parcel: string }> {
  const [asset, other] = await Promise.all([findAsset(assetId), findAsset(order.from)]);
  const { name } = await findParcel(asset.parcelId);
  const [{ id: parcel }] = await db()
    .insert(parcels)
    .values({ name, state: 'reading' })
    .returning({ id: parcels.id });
  const jobId = await enqueue('join-assets', {
    ...order,
    name: order.name || other.name,
    parcelId: parcel,
    assetId,
  });
  await db().update(parcels).set({ jobId }).where(eq(parcels.id, parcel));
  return { parcel };
}

/**
 * The job: all that the other asset needs comes along, with what was done to it; a joined file names both.
 */
export async function joinAssets({ data, progress }: JobRun<'join-assets'>): Promise<void> {
  const { parcelId, assetId } = data;
  // A worker may have ended after it was joined and before that was said.
  const [laid] = await db()
    .select({ id: deliveries.id })
    .from(deliveries)
    .where(eq(deliveries.parcelId, parcelId));
  if (!laid) {
    progress(0.1, 'gathering files');
    const overlay = await joinedFiles(data);
    progress(0.3, 'reading the models as one');
    const text = `Joined ${data.name}`;
    await makeWhole({ assetId, parcelId, from: text, overlay, text });
  }
  await db().update(parcels).set({ state: 'ready' }).where(eq(parcels.id, parcelId));
  await publish({ topic: 'parcel', id: parcelId });
}

async function joinedFiles({
  assetId,
  from,
  name,
  at,
  turn,
  scale,
}: JobRun<'join-assets'>['data']): Promise<Overlay<PlacedFile>> {
  const [asset, other] = await Promise.all([findAsset(assetId), findAsset(from)]);
  const files = new Map(
    (await filesOf(asset.parcelId)).map((file): [string, PlacedFile] => [file.path, file]),
  );
  const home = folderOf(asset.model);
  const folder = freeFolder(`${JOINED_FOLDER}/${cleanName(name, 'model')}`, home, files);
  const added: string[] = [];
  const place = (path: string, file: PlacedFile) => {
    added.push(path);
    files.set(path, file);
  };
  for (const file of await filesNeeded(other)) place(below(home, `${folder}/${file.path}`), file);
  const { state } = await currentState(assetId);
  const { models } = await modelsOf(asset, files);
  const entry = {
    ...plainModel(other.model),
    folder,
    name,
    at,
    turn,
    scale,
    intake: state.intake,
    edits: await appliedEdits(other),
  };
  const bytes = formatJoined({ models: [...models, entry] });
  const model =
    extensionOf(asset.model) === JOINED
      ? asset.model
      : freePath(below(home, `${stemOf(asset.model)}.${JOINED}`), files);
  place(model, {
    path: model,
    sha256: await blobs.put(bytes),
    size: bytes.length,
    modified: new Date(),
    info: null,
    fault: null,
  });
  return { files, replaced: [], added, unchanged: 0, model };
}

async function modelsOf(asset: AssetRow, files: ReadonlyMap<string, PlacedFile>): Promise<JoinedFile> {
  if (extensionOf(asset.model) !== JOINED) return { models: [plainModel(fileName(asset.model))] };
  const file = files.get(asset.model);
  if (!file)
    throw new KinkajouError(
      'joined.missing',
      'the list of joined models is gone',
      { file: asset.model },
      'Take the newest delivery back.',
    );
  return parseJoined(await blobs.get(file.sha256), asset.model);
}

/**
 * The model with what lies around it and whatever images it reads; other models of its parcel stay where they
 * are.
 */
async function filesNeeded(asset: AssetRow): Promise<PlacedFile[]> {
  const { state } = await currentState(asset.id);
  const used = new Set(
    state.images.flatMap(({ resolved, tiles = [] }) => [resolved, ...tiles.map(({ path }) => path)]),
  );
  const { home = '', commons = [], lender } = asset.source;
  const isJoined = extensionOf(asset.model) === JOINED;
  return (await filesOf(asset.parcelId)).filter(({ path }) => {
    if (path === asset.model || isJoined || used.has(path)) return true;
    if (isModelPath(path)) return false;
    return home === '' || path.startsWith(`${home}/`) || [...commons, lender].includes(folderOf(path));
  });
}

function below(folder: string, path: string): string {
  return folder === '' ? path : `${folder}/${path}`;
}

/** A folder below `home` that holds nothing yet. */
function freeFolder(wanted: string, home: string, files: ReadonlyMap<string, unknown>): string {
  const isTaken = (folder: string) =>
    [...files.keys()].some((path) => path.startsWith(`${below(home, folder)}/`));
  let folder = wanted;
  for (let i = 2; isTaken(folder); i += 1) folder = `${wanted}_${i}`;
  return folder;
}

function freePath(wanted: string, files: ReadonlyMap<string, unknown>): string {
  let path = wanted;
  for (let i = 2; files.has(path); i += 1) path = wanted.replace(/(\.[^.]*)$/, `_${i}$1`);
  return path;
}
