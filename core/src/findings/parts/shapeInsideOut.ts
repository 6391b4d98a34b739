import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import {
  capped,
  counted,
  keysOf,
  NO_MEND,
  partFinding,
  type ShownShape,
  soundShapes,
  withOthers,
} from './partFinding.ts';

/** Closed bodies whose faces look inwards, and faces whose normals point the other way. */
export const shapeInsideOut: Check = (context) => capped(soundShapes(context).flatMap(insideOut));

/** More than half of a surface, so that cards whose two sides share their normals are no case of it. */
const MOST_OF_IT = 0.5;

function insideOut(shape: ShownShape): Finding[] {
  const { part, facts } = shape;
  const { inward, closed, normals } = facts;
  // Readers differ in whether a mirrored part turns its faces; that it is mirrored is told.
  if ([part, ...shape.others].every(({ mirrored }) => mirrored)) return [];
  const text = { code: 'shape.insideOut', severity: 'warning', title: 'Inside out' } as const;
  if (inward.solids > 0) {
    const whole = inward.solids === closed;
    const what =
      closed === 1
        ? 'it closes, and its faces look inwards'
        : `${inward.solids} of its ${closed} bodies look inwards`;
    return [
      partFinding(part, {
        ...text,
        message: `${part.name}: ${what}${withOthers(shape)}; where one side is drawn, the far wall shows.`,
        evidence: [
          `${counted(inward.faces, 'face looks', 'faces look')} into the volume that they close`,
          ...(normals.written && normals.against > MOST_OF_IT
            ? ['its normals look outwards, against the order of the corners']
            : []),
        ],
        ...(whole
          ? {
              mend: {
                kind: 'editParts',
                change: { do: 'turnFaces', parts: keysOf(shape) },
                origin: { from: 'evidence', detail: 'the volume is negative' },
              },
              safe: facts.openEdges === 0 && facts.solids === closed,
              mendLabel: 'Turn its faces',
            }
          : NO_MEND),
      }),
    ];
  }
  if (normals.against <= MOST_OF_IT) return [];
  return [
    partFinding(part, {
      ...text,
      title: 'Normals against the faces',
      message: `${part.name}: its normals point to the other side than the order of its corners says${withOthers(shape)}; it is lit from within.`,
      evidence: [`${Math.round(normals.against * 100)}% of its area`],
      mend: {
        kind: 'editParts',
        change: { do: 'normals', parts: keysOf(shape), angle: 60 },
        origin: { from: 'evidence', detail: 'normals point against the winding' },
      },
      safe: false,
      mendLabel: 'Compute normals',
    }),
  ];
}
