import type { Check } from '../findingContext.ts';
import { missingFinding, missingImages, usesInWords } from './missingImages.ts';

/**
 * A path written for another machine, absolute or leading out of the parcel, whose file is here all the same.
 */
export const linkOutside: Check = (context) =>
  missingImages(context, 'outside').map((missing) =>
    missingFinding(
      missing,
      'Path leads elsewhere',
      `${usesInWords(missing.slots)}. ${missing.image.written} holds on one machine only; ${missing.candidates[0].path} fits: ${missing.candidates[0].reasons.join(', ')}.`,
    ),
  );
