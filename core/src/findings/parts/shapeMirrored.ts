import type { Part } from '../../asset/parts.ts';
import type { Check } from '../findingContext.ts';
import { capped, partFinding } from './partFinding.ts';

/**
 * Parts whose own scale is negative: what they show is mirrored, and some readers turn its faces inside out.
 */
export const shapeMirrored: Check = ({ parts }) => {
  const all = parts();
  const shows = new Set<string>();
  const byKey = new Map(all.map((part) => [part.key, part]));
  for (const part of all) {
    if (part.dropped || part.polygons === 0) continue;
    for (
      let above: Part | undefined = part;
      above && !shows.has(above.key);
      above = byKey.get(above.parent ?? '')
    )
      shows.add(above.key);
  }
  return capped(
    all
      .filter((part) => part.flips && !part.dropped && shows.has(part.key))
      .map((part) =>
        partFinding(part, {
          code: 'shape.mirrored',
          severity: 'note',
          title: 'Mirrored',
          message: `${part.name}: its scale is negative, so that it stands mirrored; readers without that word show it inside out.`,
          evidence: [],
          mend: {
            kind: 'editParts',
            change: { do: 'apply', parts: [part.key] },
            origin: { from: 'evidence', detail: 'its scale is negative' },
          },
          safe: false,
          mendLabel: 'Apply its transform',
        }),
      ),
  );
};
