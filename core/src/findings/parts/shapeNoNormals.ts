import type { Check } from '../findingContext.ts';
import { capped, keysOf, partFinding, shownShapes, withOthers } from './partFinding.ts';

/** Meshes without normals: every reader makes its own, flat or smooth. Subdivision surfaces need none. */
export const shapeNoNormals: Check = (context) =>
  capped(
    shownShapes(context).flatMap((shape) => {
      const { part, facts } = shape;
      if (facts.normals.written || facts.subdivided || facts.faces === 0) return [];
      return [
        partFinding(part, {
          code: 'shape.noNormals',
          severity: 'note',
          title: 'No normals',
          message: `${part.name}: no normals are written${withOthers(shape)}; some readers shade it flat, some smooth.`,
          evidence: [],
          mend: {
            kind: 'editParts',
            change: { do: 'normals', parts: keysOf(shape), angle: 60 },
            origin: { from: 'evidence', detail: 'no normals are written' },
          },
          safe: false,
          mendLabel: 'Compute normals',
        }),
      ];
    }),
  );
