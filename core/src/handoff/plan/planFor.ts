import type { Destination } from '../../destinations/profile.ts';
import { distinctLosses } from '../../scene/loss.ts';
import type { Prepared } from '../prepare/prepare.ts';
import { planPatch } from './patchHandoff.ts';
import { type HandoffPlan, planHandoff } from './plan.ts';

/**
 * The second stage: every output image and every loss, before anything is computed. `name` is the asset's,
 * for names of files.
 */
export function planFor(
  { state, images, refusal, done, losses }: Prepared,
  destination: Destination,
  name: string,
): HandoffPlan {
  const plan =
    refusal === null ? planPatch(state, images, destination) : planHandoff(state, images, destination, name);
  const anew = destination.patch && refusal !== null ? [`Written anew, since ${refusal}`] : [];
  return {
    ...plan,
    prepared: [...plan.prepared, ...done, ...anew],
    losses: distinctLosses([...plan.losses, ...losses]),
  };
}
