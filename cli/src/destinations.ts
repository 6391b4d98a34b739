import { DESTINATIONS } from '@kinkajou/core/destinations/destinations';
import { EXIT, type Output } from './output.ts';

/** Lists destinations; resolves to the exit code. */
export function runDestinations(options: { json?: boolean }, output: Output): number {
  if (options.json) output.json({ destinations: DESTINATIONS });
  else
    for (const { id, summary, variants } of DESTINATIONS)
      output.text(`${id}: ${summary} (${variants.join(', ')})`);
  return EXIT.done;
}
