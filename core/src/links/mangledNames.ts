import { remember } from '../remember.ts';

const LATIN = Array.from({ length: 128 }, (_, i) => String.fromCharCode(128 + i));
/** What code page 1252 has where Latin-1 has no letters. */
const QUOTES = [...'€\x81‚ƒ„…†‡ˆ‰Š‹Œ\x8dŽ\x8f\x90‘’“”•–—˜™š›œ\x9džŸ'];
/** The upper half of the code page of DOS, which old archives spell names in. */
const DOS = [
  ...'ÇüéâäàåçêëèïîìÄÅÉæÆôöòûùÿÖÜ¢£¥₧ƒáíóúñÑªº¿⌐¬½¼¡«»░▒▓│┤╡╢╖╕╣║╗╝╜╛┐└┴┬├─┼╞╟╚╔╩╦╠═╬╧╨╤╥╙╘╒╓╫╪┘┌█▄▌▐▀αßΓπΣσµτΦΘΩδ∞φε∩≡±≥≤⌠⌡÷≈°∙·√ⁿ²■\xa0',
];

/** Encodings of a letter a byte: the letters of the bytes from 128 on. */
const LETTERS: Readonly<Record<string, readonly string[]>> = {
  latin1: LATIN,
  'windows-1252': [...QUOTES, ...LATIN.slice(QUOTES.length)],
  macintosh: [...new TextDecoder('macintosh').decode(Uint8Array.from(LATIN, (_, i) => 128 + i))],
  dos: DOS,
};
/** What the bytes may have been; those of one letter a byte last, since they fit anything. */
const MEANT = ['utf-8', 'shift_jis', 'gbk', 'big5', 'euc-kr', 'windows-1251', ...Object.keys(LETTERS)];

const codesOf = remember(
  (encoding: string): ReadonlyMap<string, number> =>
    new Map(LETTERS[encoding].map((letter, i) => [letter, 128 + i])),
);

/**
 * What a name may have been before its bytes were taken for another encoding (`MÃ¶we` for `Möwe`); none for
 * plain names.
 */
export function unmangled(name: string): string[] {
  const readings = new Set<string>();
  for (const taken of Object.keys(LETTERS)) {
    const bytes = bytesIn(name, taken);
    if (!bytes) continue;
    for (const meant of MEANT) {
      const text = meant === taken ? null : textIn(bytes, meant);
      if (text !== null && text !== name) readings.add(text.normalize('NFC'));
    }
  }
  return [...readings];
}

/** A name as bytes of a letter each; null when it is plain, or holds letters that the encoding has not. */
function bytesIn(name: string, encoding: string): Uint8Array | null {
  const codes = codesOf(encoding);
  const bytes: number[] = [];
  let plain = true;
  for (const letter of name) {
    const code = letter.codePointAt(0) as number;
    const byte = code < 128 ? code : codes.get(letter);
    if (byte === undefined) return null;
    if (byte > 127) plain = false;
    bytes.push(byte);
  }
  return plain ? null : Uint8Array.from(bytes);
}

function textIn(bytes: Uint8Array, encoding: string): string | null {
  if (Object.hasOwn(LETTERS, encoding))
    return Array.from(bytes, (byte) =>
      byte < 128 ? String.fromCharCode(byte) : LETTERS[encoding][byte - 128],
    ).join('');
  try {
    return new TextDecoder(encoding, { fatal: true }).decode(bytes);
  } catch {
    return null;
  }
}
