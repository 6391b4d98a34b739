import type { AssetSource } from '../asset/asset.ts';
import { identityWords } from './identity.ts';
import type { ImageSet } from './imageSet.ts';

/**
 * One remembered answer: which set a person chose for a material, in what came from one source. Plain JSON.
 */
export interface SetAnswer {
  /** See {@link answerSource}. */
  source: string;
  /** The material's words, joined by spaces. */
  material: string;
  /** The words of the set's names, joined by spaces; '' where only the folder tells it. */
  set: string;
  /** Name of the folder that the images lay in. */
  folder: string;
}

/**
 * Where an asset comes from: the program that wrote it, else its format. Answers count for parcels of the
 * same source.
 */
export function answerSource({ generator, format }: Pick<AssetSource, 'generator' | 'format'>): string {
  return generator.trim() === '' ? format : generator.trim();
}

/** What is remembered of a choice. */
export function answerOf(
  source: Pick<AssetSource, 'generator' | 'format'>,
  material: string,
  set: ImageSet,
): SetAnswer {
  return {
    source: answerSource(source),
    material: identityWords(material).join(' '),
    set: set.words.join(' '),
    folder: lastFolder(set.folder),
  };
}

/**
 * How an answer speaks for a pair: the same material and set, or the same folder among rivals of one name.
 */
export function answerFor(
  answers: readonly SetAnswer[],
  source: string,
  material: string,
  set: ImageSet,
): 'pair' | 'folder' | null {
  const words = identityWords(material).join(' ');
  let folder = false;
  for (const answer of answers) {
    if (answer.source !== source) continue;
    const sameFolder = answer.folder === lastFolder(set.folder);
    if (answer.material === words && answer.set === set.words.join(' ') && sameFolder) return 'pair';
    if (sameFolder && answer.folder !== '') folder = true;
  }
  return folder ? 'folder' : null;
}

function lastFolder(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1).toLowerCase();
}
