import Joi from 'joi';
import { KinkajouError } from '../errors.ts';
import { splitWords } from '../scene/channelWords.ts';
import { CHANNELS } from '../scene/material.ts';
import type { HouseWords } from './nameSpans.ts';

const MOST_WORDS = 2000;

const schema = Joi.object()
  .pattern(
    Joi.string()
      .min(1)
      .max(64)
      .pattern(/[\p{L}\p{N}]/u),
    Joi.string().valid(...CHANNELS),
  )
  .max(MOST_WORDS)
  .unknown(false);

/**
 * Words of a house from outside, `{ "farbe": "baseColor" }`, with the words as names are split: in lower case
 * and joined. Throws `words.invalid` naming the word that is wrong.
 */
export function parseHouseWords(input: unknown): HouseWords {
  const { error, value } = schema.required().validate(input);
  if (error)
    throw new KinkajouError(
      'words.invalid',
      `the words are not valid: ${error.message}`,
      {},
      `Channels are ${CHANNELS.join(', ')}.`,
    );
  return Object.fromEntries(
    Object.entries(value as HouseWords).map(([word, channel]) => [houseWord(word), channel]),
  );
}

/** A word as it is looked up: `Farb-Karte` is `farbkarte`. */
export function houseWord(word: string): string {
  return splitWords(word).join('');
}
