import { editedDocument } from '@kinkajou/core/asset/editedDocument';
import { reshapedKey, reshapedState } from '@kinkajou/core/asset/reshaped';
import { KinkajouError } from '@kinkajou/core/errors';
import { installedGuard } from '@kinkajou/core/guard/guard';
import { previewGlb } from '@kinkajou/core/preview/previewGlb';
import { LRUCache } from 'lru-cache';
import { reopenAsset } from './assetRow.ts';
import { replayedAsset } from './assetState.ts';

/** By asset and state. */
const kept = new LRUCache<string, Uint8Array>({
  maxSize: 256e6,
  sizeCalculation: (bytes) => bytes.length + 1,
});
/** Those that are being made, so that two views that ask at once wait for one. */
const making = new Map<string, Promise<Uint8Array>>();

/**
 * The geometry of an asset as its edits have left it. The page may be ahead of what it has sent; it asks
 * again then.
 */
export async function reshapedGeometry(id: string, wanted: string): Promise<Uint8Array> {
  const known = kept.get(`${id} ${wanted}`);
  if (known) return known;
  const { asset, state } = await replayedAsset(id);
  const reshaped = reshapedState(state);
  if (!reshaped || reshapedKey(state, asset.geometry) !== wanted) {
    throw new KinkajouError(
      'conflict',
      'the asset has other edits by now',
      { file: asset.name },
      'Ask again.',
    );
  }
  const key = `${id} ${wanted}`;
  const running = making.get(key);
  if (running) return running;
  const made = (async () => {
    const { document } = await reopenAsset(asset);
    const guard = installedGuard();
    if (guard) return guard.preview(document, reshaped, asset.model);
    const edited = editedDocument(document, reshaped);
    return previewGlb(edited.document, edited.keys);
  })().finally(() => making.delete(key));
  making.set(key, made);
  const bytes = await made;
  kept.set(key, bytes);
  return bytes;
}
