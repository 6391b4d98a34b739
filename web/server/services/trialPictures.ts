import type { initialState } from '@kinkajou/core/asset/asset';
import { editedDocument } from '@kinkajou/core/asset/editedDocument';
import { KinkajouError } from '@kinkajou/core/errors';
import { encodePng } from '@kinkajou/core/images/encode';
import { drawThumbnail } from '@kinkajou/core/preview/thumbnail';
import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import { blobs } from '../blobs.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { findAsset, reopenAsset } from './assetRow.ts';
import { currentState } from './assetState.ts';
import { triedState } from './runs.ts';

/** How an asset looks and how it would; null where there is nothing to see. */
export interface TrialPicture {
  asset: string;
  before: string | null;
  after: string | null;
}

const SIZE = { width: 240, height: 200 };

/** Has assets drawn as they are and as rules would leave them. Returns the job's id. */
export async function requestTrialPictures(book: unknown, assets: string[]): Promise<string> {
  return enqueue('draw-trial', { books: [parseRulebook(book)], assets });
}

/** The job: nothing is kept but pictures. An asset that cannot be drawn is passed over. */
export async function drawTrial({
  data: { books, assets },
  progress,
}: JobRun<'draw-trial'>): Promise<{ pictures: TrialPicture[] }> {
  const pictures: TrialPicture[] = [];
  for (const [i, id] of assets.entries()) {
    const asset = await findAsset(id).catch(() => null);
    if (!asset) continue;
    progress(i / assets.length, `drawing ${asset.name}`);
    const open = await reopenAsset(asset).catch((error) => {
      if (error instanceof KinkajouError) return null;
      throw error;
    });
    if (!open) continue;
    const draw = async (state: ReturnType<typeof initialState>) => {
      const picture = await drawThumbnail(
        editedDocument(open.document, state).document,
        state,
        open.read,
        SIZE,
      );
      return picture && blobs.put(await encodePng(picture));
    };
    pictures.push({
      asset: id,
      before: await draw((await currentState(id)).state),
      after: await draw(await triedState(id, books)),
    });
  }
  return { pictures };
}
