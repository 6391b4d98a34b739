import type { Check } from '../findingContext.ts';
import { missingFinding, missingImages, usesInWords } from './missingImages.ts';

/** A missing image for which several files fit equally well: a person must choose. */
export const linkAmbiguous: Check = (context) =>
  missingImages(context, 'ambiguous').map((missing) =>
    missingFinding(
      missing,
      'Several images fit',
      `${usesInWords(missing.slots)}. ${missing.candidates.length} files may be meant, ${missing.candidates
        .slice(0, 3)
        .map(({ path }) => path)
        .join(', ')}${missing.candidates.length > 3 ? ' and others' : ''}; choose one.`,
    ),
  );
