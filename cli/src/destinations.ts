import { DESTINATIONS } from '@kinkajou/core/destinations/destinations';
import { EXIT, type Output } from './output.ts';

export function runDestinations(options: { json?: boolean }, output: Output): number {
  if (options.json) output.json({ destinations: DESTINATIONS });
  else
    for (const { id, summary, variants } of DESTINATIONS)
      output.text(`${id}: ${summary} (${variants.join(', ')})`);
  return EXIT.done;
}
