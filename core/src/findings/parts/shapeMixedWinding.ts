import type { Check } from '../findingContext.ts';
import { capped, counted, keysOf, partFinding, soundShapes, withOthers } from './partFinding.ts';

/** Neighbouring faces that disagree about which side is out. */
export const shapeMixedWinding: Check = (context) =>
  capped(
    soundShapes(context).flatMap((shape) => {
      const { part, facts } = shape;
      if (facts.mixedEdges === 0) return [];
      return [
        partFinding(part, {
          code: 'shape.mixedWinding',
          severity: 'warning',
          title: 'Neighbours disagree',
          message: `${part.name}: ${counted(facts.mixedEdges, 'edge has', 'edges have')} faces that look to opposite sides${withOthers(shape)}; some of them are black or missing where one side is drawn.`,
          evidence: [`${facts.mixedEdges} edges of ${counted(facts.faces, 'face')}`],
          mend: {
            kind: 'editParts',
            change: { do: 'agreeFaces', parts: keysOf(shape) },
            origin: { from: 'evidence', detail: 'neighbours disagree' },
          },
          // A body that closes has an outside; of a sheet it is the side that most of it looks to.
          safe: facts.openEdges === 0,
          mendLabel: 'Make them agree',
        }),
      ];
    }),
  );
