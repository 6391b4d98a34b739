import type { Check } from '../findingContext.ts';
import { capped, counted, keysOf, partFinding, shownShapes, withOthers } from './partFinding.ts';

/** Normals that are zero, no numbers, or not of length 1: black or blotchy faces. */
export const shapeBrokenNormals: Check = (context) =>
  capped(
    shownShapes(context).flatMap((shape) => {
      const { part, facts } = shape;
      if (facts.normals.broken === 0) return [];
      return [
        partFinding(part, {
          code: 'shape.brokenNormals',
          severity: 'warning',
          title: 'Broken normals',
          message: `${part.name}: ${counted(facts.normals.broken, 'corner has a normal that is', 'corners have normals that are')} zero, no number or not of length 1${withOthers(shape)}.`,
          evidence: [`${facts.normals.broken} corners of ${counted(facts.faces, 'face')}`],
          mend: {
            kind: 'editParts',
            change: { do: 'normals', parts: keysOf(shape), angle: 60 },
            origin: { from: 'evidence', detail: 'normals are not of length 1' },
          },
          safe: false,
          mendLabel: 'Compute normals',
        }),
      ];
    }),
  );
