import type { Check } from '../findingContext.ts';
import { capped, counted, NO_MEND, partFinding, soundShapes, withOthers } from './partFinding.ts';

/** From this share on they are a fault of the whole rather than leavings. */
const MANY = 0.01;

/** Faces without area: nothing to see, and trouble for normals, tangents and collision. */
export const shapeDegenerate: Check = (context) =>
  capped(
    soundShapes(context).flatMap((shape) => {
      const { part, facts } = shape;
      if (facts.degenerate === 0) return [];
      return [
        partFinding(part, {
          code: 'shape.degenerate',
          severity: facts.degenerate > MANY * facts.faces ? 'warning' : 'note',
          title: 'Faces without area',
          message: `${part.name}: ${counted(facts.degenerate, 'face has', 'faces have')} no area${withOthers(shape)}.`,
          evidence: [`${facts.degenerate} of ${counted(facts.faces, 'face')}`],
          ...NO_MEND,
        }),
      ];
    }),
  );
