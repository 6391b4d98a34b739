import { percent } from '../../maps/judgePixels.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { cutBase } from './alphaUse.ts';
import { materialFinding } from './materialFinding.ts';

const FOREIGN = 0.15;
/** From here on the colour is premultiplied, which is another finding with another mend. */
const PREMULTIPLIED = 0.75;

/** Foreign colour under the clear side of an edge: filtering draws it in as a fringe. */
export const alphaFringe: Check = (context) =>
  cutBase(context).flatMap(({ material, facts, file }): Finding[] => {
    const edges = facts?.edges;
    if (!edges || !file || edges.foreign < FOREIGN || edges.premultiplied >= PREMULTIPLIED) return [];
    return [
      materialFinding(material, 'baseColor', {
        code: 'alpha.fringe',
        severity: 'warning',
        title: 'Fringe at the edge',
        message: `Under the alpha of ${file.path} lies another colour, which filtering draws into the edges of ${material.key}.`,
        evidence: [`clear pixels differ from the visible ones beside them by ${percent(edges.foreign)}`],
        mend: null,
        make: { materials: [material.key], recipe: 'pad-edges', params: { width: 16 } },
        safe: true,
        mendLabel: 'Pad the edges',
      }),
    ];
  });
