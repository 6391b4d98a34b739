/** A path as a model wrote it, understood. */
export interface WrittenPath {
  /** Folders and name, without drive, host, `.` and resolved `..`. */
  parts: string[];
  name: string;
  stem: string;
  extension: string;
  /** Drive letter, UNC host, leading slash or home: meant for one machine only. */
  absolute: boolean;
  /** Leads above the folder it starts from. */
  climbs: boolean;
}

/**
 * Understands Windows drives, UNC, URLs with percent codes, home folders and either slash. Accents are
 * composed (NFC).
 */
export function parseWrittenPath(written: string): WrittenPath {
  let text = written.trim().replace(/^"(.*)"$/, '$1');
  const url = /^file:\/{2,3}/i.test(text);
  if (url) text = text.replace(/^file:\/{2}/i, '');
  if (url || /%[0-9a-f]{2}/i.test(text)) text = decodePercent(text);
  text = text.normalize('NFC').replaceAll('\\', '/');
  const absolute = /^\/?[A-Za-z]:/.test(text) || text.startsWith('/') || text.startsWith('~');
  text = text.replace(/^\/?[A-Za-z]:/, '').replace(/^~[^/]*/, '');
  let climbs = false;
  const parts: string[] = [];
  for (const part of text.split('/')) {
    if (part === '' || part === '.') continue;
    if (part !== '..') parts.push(part);
    else if (parts.length > 0) parts.pop();
    else climbs = true;
  }
  const name = parts.at(-1) ?? '';
  const dot = name.lastIndexOf('.');
  return {
    parts,
    name,
    stem: dot > 0 ? name.slice(0, dot) : name,
    extension: dot > 0 ? name.slice(dot + 1).toLowerCase() : '',
    absolute,
    climbs,
  };
}

function decodePercent(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** The bare file name of a written path, whichever slash it uses. */
export function writtenName(written: string): string {
  return written.slice(Math.max(written.lastIndexOf('/'), written.lastIndexOf('\\')) + 1);
}
