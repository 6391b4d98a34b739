import type { Check, FindingContext } from '../findingContext.ts';
import { byMaterial, type MappedFaces, mappedFaces } from './mappedParts.ts';
import { counted, NO_MEND } from './partFinding.ts';

/** Nearly all faces, so that a few hidden ones at a point of their own are no case of it. */
const NEARLY_ALL = 0.99;
/** Images of few flat colours look the same wherever a face takes its one point. */
const MOST_COLOURS = 160;
const FLAT = 0.7;

/** UVs without any area under a material that reads images, where that is no palette. */
export const shapeUvCollapsed: Check = (context) =>
  byMaterial(
    mappedFaces(context).filter((faces) => isCollapsed(faces) && !takesSwatches(faces, context)),
    (faces, where) => ({
      code: 'shape.uvCollapsed',
      severity: 'warning',
      title: 'UVs have no area',
      message: `${where}: the UVs of ${counted(
        faces.reduce((sum, { uvs }) => sum + uvs.collapsed, 0),
        'face',
      )} take no area of the image, though ${faces[0].material.key} reads one; all of each has one colour.`,
      evidence: [
        `${faces[0].uvs.points === 1 ? 'all at one point' : 'at single points or along lines'} of the image`,
      ],
      ...NO_MEND,
    }),
  );

function isCollapsed({ uvs }: MappedFaces): boolean {
  const having = uvs.faces - uvs.lacking;
  return having > 0 && uvs.collapsed >= NEARLY_ALL * having;
}

/** Whether the images are palettes, or may be as long as nobody has looked at them. */
function takesSwatches({ material, uvs }: MappedFaces, { slots }: FindingContext): boolean {
  const imageFacts = slots
    .filter((slot) => slot.material.key === material.key)
    .flatMap(({ facts }) => facts ?? []);
  if (imageFacts.length === 0) return uvs.points > 1;
  return imageFacts.every(({ colours, flat }) => flat >= FLAT && colours <= MOST_COLOURS);
}
