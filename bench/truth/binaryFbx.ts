import { deflateSync } from 'node:zlib';
import type { Lot } from '../fuzz/lot.ts';

/** A record of the text form: numbers and bare words as they stand, texts within quotes. */
interface Line {
  name: string;
  words: string[];
  inside: Line[];
}

/** Lists that are of whole numbers whatever they hold. */
const WHOLE = /^(PolygonVertexIndex|.*Index(es)?|Materials|Edges|KeyAttr(Flags|RefCount)|Indexes)$/;
/** Content of files, which is bytes in the binary form. */
const BYTES = new Set(['Content']);
const IDS = 2 ** 31;

/**
 * The same file in the binary form, by the rules of its records: heads of 32 or, from 7.5 on, 64 bits, numbers of any
 * type that holds them, lists packed and unpacked, in either order of bytes, with and without what closes an empty
 * record.
 */
export function binaryFbx(text: string, lot: Lot): Uint8Array {
  const lines = parsed(text);
  const said = Number(/FBXVersion: (\d+)/.exec(text)?.[1]);
  const version = said < 7000 ? said : lot.pick([7100, 7200, 7300, 7400, 7500, 7700]);
  return new BinaryForm(lot, version).file(lines);
}

function parsed(text: string): Line[] {
  const tokens = text.replace(/^\s*;.*$/gm, '').match(/"[^"]*"|[{}:,]|[^\s{}:,"]+/g) ?? [];
  let next = 0;
  const records = (): Line[] => {
    const list: Line[] = [];
    while (next < tokens.length && tokens[next] !== '}') {
      const line: Line = { name: tokens[next], words: [], inside: [] };
      next += 2;
      const hasWords = tokens[next] === ',' || tokens[next + 1] !== ':';
      while (hasWords && tokens[next] !== '{' && tokens[next] !== '}') {
        if (tokens[next] === ',') next += 1;
        line.words.push(tokens[next]);
        next += 1;
        if (tokens[next] !== ',') break;
      }
      if (tokens[next] === '{') {
        next += 1;
        line.inside = records();
        next += 1;
      }
      list.push(line);
    }
    return list;
  };
  return records();
}

class BinaryForm {
  private readonly wide: boolean;
  private readonly bigEnd: boolean;
  private readonly packs: boolean;
  private readonly closes: boolean;

  constructor(
    private readonly lot: Lot,
    private readonly version: number,
  ) {
    this.wide = version >= 7500;
    this.bigEnd = lot.chance(0.15);
    this.packs = lot.chance(0.7);
    this.closes = lot.chance(0.3);
  }

  file(lines: readonly Line[]): Uint8Array {
    const head = Buffer.concat([
      Buffer.from('Kaydara FBX Binary  \0\x1a', 'latin1'),
      Buffer.from([this.bigEnd ? 1 : 0]),
      this.number(4, this.version),
    ]);
    const records = this.records(lines, head.length);
    // What closes the file is for people who repair it; some leave it out.
    return Buffer.concat([
      head,
      records,
      this.nothing(),
      this.lot.chance(0.5) ? Buffer.alloc(160, 7) : Buffer.alloc(0),
    ]);
  }

  private records(lines: readonly Line[], from: number): Buffer {
    const done: Buffer[] = [];
    let place = from;
    for (const line of lines) {
      const record = this.record(line, place);
      place += record.length;
      done.push(record);
    }
    return Buffer.concat(done);
  }

  private record({ name, words, inside }: Line, from: number): Buffer {
    const list = /^\*\d+$/.test(words[0] ?? '');
    const properties = list
      ? [this.list(name, (inside[0]?.words ?? []).map(Number))]
      : words.map((word, i) => this.property(word, { name, first: i === 0 }));
    const data = Buffer.concat(properties);
    const headed = (this.wide ? 24 : 12) + 1 + name.length;
    const children = list ? [] : inside;
    const within = this.records(children, from + headed + data.length);
    const closing =
      children.length > 0 || (words.length === 0 && this.closes) ? this.nothing() : Buffer.alloc(0);
    const end = from + headed + data.length + within.length + closing.length;
    const numbers = [end, properties.length, data.length].map((value) =>
      this.number(this.wide ? 8 : 4, value),
    );
    return Buffer.concat([...numbers, Buffer.from([name.length]), Buffer.from(name), data, within, closing]);
  }

  private nothing(): Buffer {
    return Buffer.alloc(this.wide ? 25 : 13);
  }

  private property(word: string, { name, first }: { name: string; first: boolean }): Buffer {
    if (word.startsWith('"')) {
      const text = word.slice(1, -1).replaceAll('&quot;', '"');
      return BYTES.has(name)
        ? this.long('R', Buffer.from(text, 'base64'))
        : this.long('S', Buffer.from(inBinary(text)));
    }
    const value = Number(word);
    // `T` and `Y` are letters of a byte each.
    if (Number.isNaN(value)) return this.typed('C', word.charCodeAt(0));
    if (!Number.isInteger(value)) return this.typed(this.lot.chance(0.1) ? 'F' : 'D', value);
    const isId = Math.abs(value) >= IDS || (first && name !== 'P' && value >= 100);
    if (isId) return this.typed('L', value);
    const fitting = [
      'I',
      'I',
      'D',
      'L',
      ...(Math.abs(value) < 2 ** 15 ? ['Y'] : []),
      ...(value === 0 || value === 1 ? ['C'] : []),
    ];
    return this.typed(this.lot.pick(fitting), value);
  }

  private typed(type: string, value: number): Buffer {
    return Buffer.concat([Buffer.from(type), this.bits(type.toLowerCase(), [value])]);
  }

  private long(type: string, bytes: Buffer): Buffer {
    return Buffer.concat([Buffer.from(type), this.number(4, bytes.length), bytes]);
  }

  private list(name: string, values: readonly number[]): Buffer {
    const real = values.some((value) => !Number.isInteger(value)) || !WHOLE.test(name);
    const large = values.some((value) => Math.abs(value) >= IDS);
    const type = large ? 'l' : this.lot.pick(real ? ['d', 'd', 'f'] : ['i', 'i', 'i', 'l']);
    const bytes = this.bits(type, values);
    const stored = this.packs && this.lot.chance(0.8) ? deflateSync(bytes) : bytes;
    const numbers = [values.length, stored === bytes ? 0 : 1, stored.length].map((value) =>
      this.number(4, value),
    );
    return Buffer.concat([Buffer.from(type), ...numbers, stored]);
  }

  private number(size: 4 | 8, value: number): Buffer {
    return this.bits(size === 4 ? 'i' : 'l', [value]);
  }

  private bits(type: string, values: readonly number[]): Buffer {
    const size = { c: 1, y: 2, i: 4, f: 4, d: 8, l: 8 }[type] as number;
    const view = new DataView(new ArrayBuffer(size * values.length));
    values.forEach((value, i) => {
      const [place, little] = [i * size, !this.bigEnd];
      if (type === 'c') view.setUint8(place, value);
      else if (type === 'y') view.setInt16(place, value, little);
      else if (type === 'i') view.setInt32(place, value, little);
      else if (type === 'f') view.setFloat32(place, value, little);
      else if (type === 'd') view.setFloat64(place, value, little);
      else view.setBigInt64(place, BigInt(value), little);
    });
    return Buffer.from(view.buffer);
  }
}

/** `Model::Hull` is `Hull`, two bytes and `Model` there. */
function inBinary(text: string): string {
  const split = /^([A-Za-z]+)::(.*)$/s.exec(text);
  return split ? `${split[2]}\0\x01${split[1]}` : text;
}
