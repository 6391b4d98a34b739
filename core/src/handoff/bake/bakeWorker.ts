import { toKinkajouError } from '../../errors.ts';
import type { GuardFault } from '../../guard/fault.ts';
import type { PlannedImage } from '../plan/planImage.ts';
import { bakeImage } from './bake.ts';

/** Errors lose their kind on the way between threads, so they go as data. */
export type BakeResult = { bytes: Uint8Array } | { fault: GuardFault };

/** Bakes one image in a thread of its own; sources come along by path. */
export default async function bake({
  image,
  sources,
}: {
  image: PlannedImage;
  sources: Map<string, Uint8Array>;
}): Promise<BakeResult> {
  try {
    return { bytes: await bakeImage(image, async (path) => sources.get(path) as Uint8Array) };
  } catch (error) {
    return { fault: toKinkajouError(error).toJSON() };
  }
}
