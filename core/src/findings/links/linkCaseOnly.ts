import { fileName } from '../../parcel/fileSource.ts';
import type { Check } from '../findingContext.ts';
import { missingFinding, missingImages, usesInWords } from './missingImages.ts';

/** A path that differs from the file's only in case or accents: found on some systems and not on others. */
export const linkCaseOnly: Check = (context) =>
  missingImages(context, 'caseOnly').map((missing) =>
    missingFinding(
      missing,
      'Name differs in case or accents',
      `${usesInWords(missing.slots)}. The file is called ${fileName(missing.candidates[0].path)}; systems that tell case and accents apart do not find it.`,
    ),
  );
