import { cleanName } from '../parcel/names.ts';

/**
 * Fills a template such as `{asset}_{part}`. A word that stands for nothing takes the separator beside it
 * along: with an empty part that is the asset's name alone. The result is a sound file name.
 */
export function fillName(
  template: string,
  words: Readonly<Record<string, string>>,
  fallback: string,
): string {
  const filled = template.replaceAll(/([_.-]?)\{(\w+)\}/g, (_, separator: string, word: string) => {
    const text = words[word] ?? '';
    return text === '' ? '' : `${separator}${text}`;
  });
  return cleanName(filled.replace(/^[_.-]+/, ''), fallback);
}
