import type { Part } from '../../asset/parts.ts';
import type { Finding } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { capped, counted, NO_MEND, partFinding, soundShapes, withOthers } from './partFinding.ts';

/** Faces upon each other within a mesh, and parts that show the same mesh in the same place. */
export const shapeDoubledFaces: Check = (context) => {
  const within = soundShapes(context).flatMap((shape): Finding[] => {
    const { part, facts } = shape;
    const { same, turned } = facts.doubled;
    if (same + turned === 0) return [];
    const message =
      same > 0
        ? `${counted(same, 'face lies', 'faces lie')} upon another; they flicker`
        : `${counted(turned, 'face lies', 'faces lie')} back to back with another, which shows both sides of a leaf and flickers where both are drawn`;
    return [
      partFinding(part, {
        code: 'shape.doubledFaces',
        severity: same > 0 ? 'warning' : 'note',
        title: 'Faces upon each other',
        message: `${part.name}: ${message}${withOthers(shape)}.`,
        evidence: [`${same} the same way round, ${turned} back to back, of ${counted(facts.faces, 'face')}`],
        ...NO_MEND,
      }),
    ];
  });
  return capped([...within, ...upon(context.parts())]);
};

/** Parts that stand where another with the same mesh stands. */
function upon(parts: readonly Part[]): Finding[] {
  const standing = new Map<string, Part>();
  return parts.flatMap((part) => {
    if (part.dropped || part.hidden || part.shape === null || !part.bounds || part.polygons === 0) return [];
    const place = JSON.stringify([
      part.shape,
      [...part.bounds.min, ...part.bounds.max].map((value) => Number(value.toPrecision(6))),
      part.pivot,
      part.mirrored,
    ]);
    const other = standing.get(place);
    standing.set(place, other ?? part);
    if (!other) return [];
    return [
      partFinding(part, {
        code: 'shape.doubledFaces',
        severity: 'warning',
        title: 'Faces upon each other',
        message: `${part.name}: it lies upon ${other.name}, which shows the same mesh in the same place; they flicker.`,
        evidence: [],
        mend: {
          kind: 'editParts',
          change: { do: 'drop', parts: [part.key] },
          origin: { from: 'evidence', detail: `it lies upon ${other.name}` },
        },
        safe: false,
        mendLabel: 'Drop it',
      }),
    ];
  });
}
