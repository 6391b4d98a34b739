import type { Check } from '../findingContext.ts';
import { capped, partFinding } from './partFinding.ts';

/** Meshes without a single face; what only marks a place is none. */
export const partEmpty: Check = ({ parts }) =>
  capped(
    parts()
      .filter(({ kind, facts, dropped }) => kind === 'mesh' && facts?.faces === 0 && !dropped)
      .map((part) =>
        partFinding(part, {
          code: 'part.empty',
          severity: 'note',
          title: 'Empty part',
          message: `${part.name}: a mesh without a single face.`,
          evidence: [],
          mend: {
            kind: 'editParts',
            change: { do: 'drop', parts: [part.key] },
            origin: { from: 'evidence', detail: 'it shows nothing' },
          },
          safe: false,
          mendLabel: 'Drop it',
        }),
      ),
  );
