import type { Check } from '../findingContext.ts';
import { capped, counted, NO_MEND, partFinding, shownShapes, withOthers } from './partFinding.ts';

/** Parts of which some faces have no material. */
export const partNoMaterial: Check = (context) =>
  capped(
    shownShapes(context).flatMap((shape) => {
      const { part, facts } = shape;
      const bare = facts.uvs.reduce((sum, { slot, faces }) => sum + (part.slots[slot] ? 0 : faces), 0);
      if (bare === 0) return [];
      const which = bare === facts.faces ? 'it has' : `${counted(bare, 'face has', 'faces have')}`;
      return [
        partFinding(part, {
          code: 'part.noMaterial',
          severity: 'note',
          title: 'No material',
          message: `${part.name}: ${which} no material${withOthers(shape)}; each reader shows it in a grey of its own.`,
          evidence: [`${bare} of ${counted(facts.faces, 'face')}`],
          ...NO_MEND,
        }),
      ];
    }),
  );
