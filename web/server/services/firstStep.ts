import type { Step } from '@kinkajou/core/findings/finding';
import { currentState } from './assetState.ts';

/**
 * The step that can settle what is worst of an asset; where nothing is open, or it is not there, the board of
 * its slots.
 */
export async function firstStep(id: string): Promise<Step> {
  const current = await currentState(id).catch(() => null);
  return current?.findings[0]?.step ?? 'slots';
}
