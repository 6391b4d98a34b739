import { percent } from '../../maps/judgePixels.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { cutBase } from './alphaUse.ts';
import { materialFinding } from './materialFinding.ts';

const MOST = 0.75;
const TELLING = 40;

/** Colour that was multiplied by its alpha: read as straight colour, edges turn dark. */
export const alphaPremultiplied: Check = (context) =>
  cutBase(context).flatMap(({ material, facts, file }): Finding[] => {
    const edges = facts?.edges;
    if (!edges || !file || edges.telling < TELLING || edges.premultiplied < MOST) return [];
    return [
      materialFinding(material, 'baseColor', {
        code: 'alpha.premultiplied',
        severity: 'warning',
        title: 'Colour is premultiplied',
        message: `${file.path} holds colour times alpha, so the edges of ${material.key} turn dark.`,
        evidence: [
          `${percent(edges.premultiplied)} of ${edges.telling} half-clear pixels are as dark as their alpha makes them`,
        ],
        mend: null,
        make: { materials: [material.key], recipe: 'undo-premultiplied', params: { in: 'stored' } },
        safe: false,
        mendLabel: 'Undo it',
      }),
    ];
  });
