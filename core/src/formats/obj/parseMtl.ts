import { decodeText } from '../text.ts';

/** One statement of an MTL file: `map_Kd -bm 0.5 tex/a b.png` gives keyword, options and the rest. */
export interface MtlStatement {
  keyword: string;
  line: number;
  /** Options with their arguments, for maps only. */
  options: Map<string, string[]>;
  /** Everything after keyword and options. */
  rest: string;
}

/** One `newmtl` block with its statements in order; `line` counts from 1. */
export interface MtlMaterial {
  name: string;
  line: number;
  statements: MtlStatement[];
}

/** How many arguments each map option takes: the least and the most. */
const OPTION_ARGUMENTS: Record<string, [number, number]> = {
  '-blendu': [1, 1],
  '-blendv': [1, 1],
  '-bm': [1, 1],
  '-boost': [1, 1],
  '-cc': [1, 1],
  '-clamp': [1, 1],
  '-colorspace': [1, 1],
  '-imfchan': [1, 1],
  '-mm': [2, 2],
  '-o': [1, 3],
  '-s': [1, 3],
  '-t': [1, 3],
  '-texres': [1, 1],
  '-type': [1, 1],
};

/**
 * Splits an MTL file into materials and statements, of any text encoding, with continued lines joined.
 * Statements before the first `newmtl` belong to no material and are dropped.
 */
export function parseMtl(bytes: Uint8Array): MtlMaterial[] {
  const materials: MtlMaterial[] = [];
  const lines = decodeText(bytes)
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\n|\r/);
  for (let i = 0; i < lines.length; i += 1) {
    const line = i + 1;
    let text = lines[i];
    while (/\\\s*$/.test(text) && i + 1 < lines.length && !looksLikePath(text)) {
      i += 1;
      text = `${text.replace(/\\\s*$/, ' ')}${lines[i]}`;
    }
    const match = /^\s*(\S+)\s*(.*?)\s*$/.exec(text);
    if (!match || match[1].startsWith('#')) continue;
    const [, keyword, rest] = match;
    if (keyword.toLowerCase() === 'newmtl') {
      materials.push({ name: rest || 'unnamed', line, statements: [] });
      continue;
    }
    materials
      .at(-1)
      ?.statements.push(
        isMapKeyword(keyword)
          ? mapStatement(keyword, line, rest)
          : { keyword, line, options: new Map(), rest },
      );
  }
  return materials;
}

/** A trailing backslash after a folder is a path, not a continuation. */
function looksLikePath(text: string): boolean {
  return /[A-Za-z]:\\\S*\\\s*$/.test(text);
}

/** Whether a statement of a material library names an image file. */
export function isMapKeyword(keyword: string): boolean {
  return /^(map_|bump$|disp$|decal$|refl$|norm$)/i.test(keyword);
}

function mapStatement(keyword: string, line: number, text: string): MtlStatement {
  const options = new Map<string, string[]>();
  let rest = text;
  for (;;) {
    const match = /^(-[a-z]+)\s+/i.exec(rest);
    const counts = match && OPTION_ARGUMENTS[match[1].toLowerCase()];
    if (!match || !counts) break;
    rest = rest.slice(match[0].length);
    const values: string[] = [];
    while (values.length < counts[1]) {
      const argument = /^(\S+)(\s+|$)/.exec(rest);
      if (!argument) break;
      const numeric = argument[1] !== '' && Number.isFinite(Number(argument[1]));
      if (values.length >= counts[0] && !numeric) break;
      values.push(argument[1]);
      rest = rest.slice(argument[0].length);
    }
    options.set(match[1].toLowerCase(), values);
  }
  return { keyword, line, options, rest: rest.trim() };
}

/** A map statement's options as written, with the blanks behind them, and its path. */
export function splitMapStatement(text: string): { options: string; path: string } {
  const { rest } = mapStatement('map', 0, text);
  return { options: text.slice(0, text.length - rest.length), path: rest };
}
