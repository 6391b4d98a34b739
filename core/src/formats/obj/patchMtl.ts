import type { FileSource } from '../../parcel/fileSource.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { ChannelName } from '../../scene/material.ts';
import { colourValue, scalarValue } from '../../scene/material.ts';
import { createKeyer, type ModelPatch, type Patched } from '../patch.ts';
import { decodeText, looksWide } from '../text.ts';
import { numberText } from './objWords.ts';
import { isMapKeyword, splitMapStatement } from './parseMtl.ts';

const WORDS: Partial<Record<ChannelName, { words: string[]; colour: boolean }>> = {
  baseColor: { words: ['Kd'], colour: true },
  specularColor: { words: ['Ks'], colour: true },
  emission: { words: ['Ke'], colour: true },
  roughness: { words: ['Pr'], colour: false },
  metalness: { words: ['Pm'], colour: false },
  coat: { words: ['Pc'], colour: false },
  coatRoughness: { words: ['Pcr'], colour: false },
  sheenColor: { words: ['Ps'], colour: true },
  ior: { words: ['Ni'], colour: false },
};

/**
 * Changes image paths and values in the material libraries of an OBJ model; lines that are not touched stay
 * to the letter, and so does the text's encoding. The OBJ itself is never changed.
 */
export async function patchMtl(
  libraries: readonly string[],
  source: FileSource,
  patch: ModelPatch,
): Promise<Patched> {
  const files = new Map<string, Uint8Array>();
  const missed = patch.sides.length > 0 ? ['MTL says nothing of sides'] : [];
  const keyOf = createKeyer();
  for (const library of libraries) {
    const bytes = await source.read(library);
    const before = decodeText(bytes);
    const after = patchText(before, patch, keyOf, missed);
    if (after !== before) files.set(library, encodeLike(after, bytes));
  }
  return { files, missed: [...new Set(missed)] };
}

function patchText(
  text: string,
  patch: ModelPatch,
  keyOf: (name: string) => string,
  missed: string[],
): string {
  const newline = /\r\n|\n|\r/.exec(text)?.[0] ?? '\n';
  const lines = text.split(/\r\n|\n|\r/);
  const paths = new Map(patch.images.map((image) => [image.written, image.path]));
  const out: string[] = [];
  let pending: ModelPatch['values'] = [];
  const flush = () => {
    while (out.length > 0 && pending.length > 0 && out[out.length - 1].trim() === '') out.pop();
    const had = pending.length > 0;
    for (const { channel, value } of pending) {
      const place = WORDS[channel];
      if (place) out.push(`${place.words[0]} ${valueText(place.colour, value)}`);
      else if (channel === 'opacity') out.push(`d ${numberText(scalarValue(value))}`);
      else missed.push(`MTL has no word for ${channelInWords(channel)}`);
    }
    if (had) out.push('');
    pending = [];
  };
  for (const line of lines) {
    const match = /^(\s*)(\S+)(\s+)(.*?)(\s*)$/.exec(line);
    if (!match) {
      out.push(line);
      continue;
    }
    const [, indent, keyword, gap, rest, tail] = match;
    if (keyword.toLowerCase() === 'newmtl') {
      flush();
      const key = keyOf(rest || 'unnamed');
      pending = patch.values.filter((value) => value.material === key);
      out.push(line);
      continue;
    }
    if (isMapKeyword(keyword)) {
      const { options, path } = splitMapStatement(rest);
      const target = paths.get(path);
      out.push(target === undefined ? line : `${indent}${keyword}${gap}${options}${target}${tail}`);
      continue;
    }
    const index = pending.findIndex(({ channel }) =>
      WORDS[channel]?.words.some((word) => word.toLowerCase() === keyword.toLowerCase()),
    );
    if (index >= 0) {
      const { channel, value } = pending[index];
      out.push(`${indent}${keyword}${gap}${valueText(WORDS[channel]?.colour ?? false, value)}${tail}`);
      pending = pending.filter((_, i) => i !== index);
      continue;
    }
    const opacity = pending.find(({ channel }) => channel === 'opacity');
    if (opacity && (keyword === 'd' || keyword.toLowerCase() === 'tr')) {
      const value = scalarValue(opacity.value);
      out.push(`${indent}${keyword}${gap}${numberText(keyword === 'd' ? value : 1 - value)}${tail}`);
      // Both words may stand there, and both must agree; it counts as said once d is.
      if (keyword === 'd') pending = pending.filter((other) => other !== opacity);
      continue;
    }
    out.push(line);
  }
  flush();
  return out.join(newline);
}

function valueText(colour: boolean, value: Parameters<typeof colourValue>[0]): string {
  return (colour ? colourValue(value) : [scalarValue(value)]).map(numberText).join(' ');
}

/**
 * UTF-16 stays UTF-16, a legacy encoding stays one byte a letter where every letter fits, all else is UTF-8.
 */
function encodeLike(text: string, original: Uint8Array): Uint8Array {
  const wide = looksWide(original);
  if (wide) {
    const bytes = Buffer.from(`\uFEFF${text.replace(/^\uFEFF/, '')}`, 'utf16le');
    return new Uint8Array(wide === 'utf-16be' ? bytes.swap16() : bytes);
  }
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(original);
    return new TextEncoder().encode(text);
  } catch {
    return /[^\0-\xff]/.test(text)
      ? new TextEncoder().encode(text)
      : new Uint8Array(Buffer.from(text, 'latin1'));
  }
}
