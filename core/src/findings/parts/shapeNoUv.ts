import type { Check } from '../findingContext.ts';
import { byMaterial, mappedFaces } from './mappedParts.ts';
import { counted, NO_MEND } from './partFinding.ts';

/** Faces without UVs whose material reads images: they have one colour, if any. */
export const shapeNoUv: Check = (context) =>
  byMaterial(
    mappedFaces(context).filter(({ uvs }) => uvs.lacking > 0),
    (faces, where) => {
      const lacking = faces.reduce((sum, { uvs }) => sum + uvs.lacking, 0);
      return {
        code: 'shape.noUv',
        severity: 'warning',
        title: 'No UVs',
        message: `${where}: ${counted(lacking, 'face has', 'faces have')} no UVs, though the material ${faces[0].material.key} reads images.`,
        evidence: [],
        ...NO_MEND,
      };
    },
  );
