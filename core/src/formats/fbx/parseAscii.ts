import { KinkajouError } from '../../errors.ts';
import { DecimalReader } from '../decimal.ts';
import { FloatList } from '../growable.ts';
import type { ParsedBinary } from './parseBinary.ts';
import { type FbxNode, type FbxProperty, NAME_SEPARATOR, numbersOf } from './tree.ts';

const QUOTE = 34;
const COMMA = 44;
const COLON = 58;
const SEMICOLON = 59;
const OPEN = 123;
const CLOSE = 125;
const STAR = 42;
const NEWLINE = 10;
const STRETCH = 1 << 16;
const LATIN = new TextDecoder('latin1');

/** True for text that opens like an FBX file written as text. */
export function isAsciiFbx(bytes: Uint8Array): boolean {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
  return /^\uFEFF?\s*;\s*FBX\s/i.test(head) || /FBXHeaderExtension\s*:/.test(head);
}

/**
 * Reads the record tree of a text FBX file, 6.1 to 7.7. Records are `Name: value, value { children }`;
 * 7.x arrays are `*N { a: 1,2,3 }` and become one array property, as in the binary form.
 * A fault ends reading; what came before it is in the tree.
 */
export function parseAsciiFbx(bytes: Uint8Array, file = '', maxDepth = 64): ParsedBinary {
  const reader = new AsciiReader(bytes, file, maxDepth);
  const nodes: FbxNode[] = [];
  let fault: KinkajouError | null = null;
  try {
    reader.readNodes(nodes, 0);
  } catch (error) {
    if (!(error instanceof KinkajouError)) throw error;
    fault = error;
  }
  return { version: versionOf(nodes), binary: false, nodes, fault };
}

function versionOf(nodes: FbxNode[]): number {
  const header = nodes.find((node) => node.name === 'FBXHeaderExtension');
  const version = header?.children.find((child) => child.name === 'FBXVersion')?.properties[0]?.value;
  return typeof version === 'number' ? version : Number(version ?? 6100);
}

class AsciiReader {
  private at = 0;
  private readonly utf8 = new TextDecoder('utf-8');
  private readonly decimal = new DecimalReader();

  constructor(
    private readonly bytes: Uint8Array,
    private readonly file: string,
    private readonly maxDepth: number,
  ) {}

  readNodes(into: FbxNode[], depth: number): void {
    if (depth > this.maxDepth) throw this.fault(`records nest deeper than ${this.maxDepth}`);
    for (;;) {
      this.skipSpace();
      if (this.at >= this.bytes.length) {
        if (depth > 0) throw this.fault('the file ends inside a record');
        return;
      }
      if (this.bytes[this.at] === CLOSE) {
        if (depth === 0) throw this.fault('a closing brace has no opening one');
        this.at += 1;
        return;
      }
      this.readNode(into, depth);
    }
  }

  private readNode(into: FbxNode[], depth: number): void {
    const start = this.at;
    while (this.at < this.bytes.length && this.bytes[this.at] !== COLON) {
      if (this.bytes[this.at] === NEWLINE || this.at - start > 256)
        throw this.fault('a record name is expected', start);
      this.at += 1;
    }
    if (this.at >= this.bytes.length) throw this.fault('the file ends inside a record name', start);
    const node: FbxNode = {
      name: this.utf8.decode(this.bytes.subarray(start, this.at)).trim(),
      properties: [],
      children: [],
    };
    this.at += 1;
    into.push(node);
    this.readValues(node);
    this.skipBlanks();
    if (this.bytes[this.at] !== OPEN) return;
    this.at += 1;
    this.readNodes(node.children, depth + 1);
    this.foldArray(node);
  }

  /** `Vertices: *9 { a: ... }`: the numbers of `a` become the record's own single array property. */
  private foldArray(node: FbxNode): void {
    const inner = node.children[0];
    if (!node.properties.some((property) => property.type === 'S' && property.value.startsWith(ARRAY_MARK)))
      return;
    if (node.children.length === 0) {
      node.properties = [{ type: 'd', value: new Float64Array(0) }];
    } else if (node.children.length === 1 && inner.name === 'a') {
      node.properties = [arrayOf(inner)];
      node.children = [];
    }
  }

  private readValues(node: FbxNode): void {
    const { bytes } = this;
    let expectValue = true;
    for (;;) {
      this.skipBlanks();
      const code = bytes[this.at];
      if (this.at >= bytes.length || code === OPEN || code === CLOSE) return;
      if (code === NEWLINE || code === SEMICOLON) {
        if (code === SEMICOLON) this.skipLine();
        if (!expectValue || node.properties.length === 0) return;
        this.at += 1;
        continue;
      }
      if (code === COMMA) {
        expectValue = true;
        this.at += 1;
        this.skipSpace();
        continue;
      }
      if (!expectValue) return;
      expectValue = false;
      if (code === QUOTE) node.properties.push(this.quoted());
      else if (code === STAR) node.properties.push({ type: 'S', value: ARRAY_MARK + this.word() });
      else if (isNumberStart(code)) this.numbers(node);
      else node.properties.push(wordProperty(this.word()));
    }
  }

  /**
   * One number, or a run of them: long runs become one array property, since 6.x lists and 7.x arrays look
   * alike.
   */
  private numbers(node: FbxNode): void {
    const { bytes, decimal } = this;
    const list = new FloatList(16);
    let whole = true;
    let exact: bigint | null = null;
    for (let more = true; more; ) {
      const start = this.at;
      const end = decimal.read(bytes, start, bytes.length);
      let value = decimal.value;
      let { fractional } = decimal;
      if (end >= 0 && endsNumber(bytes[end])) this.at = end;
      else {
        const text = this.numberWord();
        value = readNumber(text);
        if (Number.isNaN(value)) throw this.fault(`"${text}" is not a number`, start);
        fractional = /[.e]/i.test(text) || !Number.isFinite(value);
        if (!Number.isFinite(value)) value = 0;
      }
      if (list.length === 0 && Math.abs(value) > Number.MAX_SAFE_INTEGER) exact = this.exactInteger(start);
      list.push(value);
      if (fractional) whole = false;
      more = this.nextNumber();
    }
    if (list.length > 4 && node.properties.length === 0) {
      const values = list.finish();
      node.properties.push(
        whole && fitsInt32(values)
          ? { type: 'i', value: new Int32Array(values) }
          : { type: 'd', value: values },
      );
      return;
    }
    for (let i = 0; i < list.length; i += 1) {
      const value = list.values[i];
      if (i === 0 && exact !== null) node.properties.push({ type: 'L', value: exact });
      else if (whole && Number.isSafeInteger(value) && Math.abs(value) > 0x7fffffff)
        node.properties.push({ type: 'L', value: BigInt(value) });
      else node.properties.push({ type: whole ? 'I' : 'D', value });
    }
  }

  /** Goes to the next number of a run; stays where it is, or before the comma, when there is none. */
  private nextNumber(): boolean {
    const { bytes } = this;
    const before = this.at;
    if (bytes[before] === COMMA && isNumberStart(bytes[before + 1])) {
      this.at = before + 1;
      return true;
    }
    this.skipSpace();
    if (bytes[this.at] === COMMA) {
      const comma = this.at;
      this.at = comma + 1;
      this.skipSpace();
      if (isNumberStart(bytes[this.at])) return true;
      this.at = comma;
      return false;
    }
    this.at = before;
    return false;
  }

  /** What stands where a number is expected, up to its end, and moves past it. */
  private numberWord(): string {
    const start = this.at;
    while (this.at < this.bytes.length && isNumberPart(this.bytes[this.at])) this.at += 1;
    return this.numberText(start, Math.min(this.at, start + 64));
  }

  private stretch = '';
  private stretchStart = 0;

  /**
   * Bytes as text, out of a stretch that is decoded at once: long lists of long numbers need few decodings.
   */
  private numberText(start: number, end: number): string {
    if (start < this.stretchStart || end > this.stretchStart + this.stretch.length) {
      this.stretch = LATIN.decode(this.bytes.subarray(start, start + STRETCH));
      this.stretchStart = start;
    }
    return this.stretch.slice(start - this.stretchStart, end - this.stretchStart);
  }

  private exactInteger(from: number): bigint | null {
    const text = String.fromCharCode(...this.bytes.subarray(from, this.at)).trim();
    return /^[-+]?\d+$/.test(text) ? BigInt(text) : null;
  }

  private quoted(): FbxProperty {
    const start = this.at + 1;
    const end = this.bytes.indexOf(QUOTE, start);
    if (end < 0) throw this.fault('a text is not closed', this.at);
    this.at = end + 1;
    const text = this.utf8
      .decode(this.bytes.subarray(start, end))
      .replaceAll('&quot;', '"')
      .replaceAll('&lf;', '\n')
      .replaceAll('&cr;', '\r');
    const split = text.indexOf('::');
    // Names read `Class::Name` here and `Name\0\x01Class` in the binary form, which the rest of the reader
    // expects.
    const value =
      split >= 0 && /^[A-Za-z]\w*$/.test(text.slice(0, split))
        ? text.slice(split + 2) + NAME_SEPARATOR + text.slice(0, split)
        : text;
    return { type: 'S', value };
  }

  private word(): string {
    const start = this.at;
    while (this.at < this.bytes.length) {
      const code = this.bytes[this.at];
      if (isBlank(code) || code === NEWLINE || code === COMMA || code === OPEN || code === CLOSE) break;
      this.at += 1;
    }
    return this.utf8.decode(this.bytes.subarray(start, this.at));
  }

  private skipBlanks(): void {
    while (isBlank(this.bytes[this.at])) this.at += 1;
  }

  private skipLine(): void {
    const end = this.bytes.indexOf(NEWLINE, this.at);
    this.at = end < 0 ? this.bytes.length : end;
  }

  private skipSpace(): void {
    for (;;) {
      const code = this.bytes[this.at];
      if (code === SEMICOLON) this.skipLine();
      else if (isBlank(code) || code === NEWLINE || code === 0xef || code === 0xbb || code === 0xbf)
        this.at += 1;
      else return;
    }
  }

  private fault(message: string, offset = this.at): KinkajouError {
    let line = 1;
    const end = Math.min(offset, this.bytes.length);
    for (let i = 0; i < end; i += 1) if (this.bytes[i] === NEWLINE) line += 1;
    return new KinkajouError(
      'fbx.broken',
      message,
      { file: this.file, line },
      'Export or copy the file again.',
    );
  }
}

const ARRAY_MARK = '\0array ';

/** The numbers of a record as one array, which short lists are not read as. */
function arrayOf(node: FbxNode): FbxProperty {
  const [first] = node.properties;
  if (first?.type === 'i' || first?.type === 'd') return first;
  const types = new Set(node.properties.map(({ type }) => type));
  const values = numbersOf(node) as Float64Array;
  if (types.has('D')) return { type: 'd', value: values };
  if (!types.has('L')) return { type: 'i', value: new Int32Array(values) };
  return {
    type: 'l',
    value: BigInt64Array.from(node.properties, ({ value }) => BigInt(value as number | bigint)),
  };
}

function wordProperty(word: string): FbxProperty {
  if (word.length === 1)
    return {
      type: 'C',
      value: byteOf(word),
    };
  return { type: 'S', value: word };
}

function byteOf(word: string): number {
  if (word === 'T' || word === 'Y') return 1;
  return word === 'F' || word === 'N' ? 0 : word.charCodeAt(0);
}

/** Also the spellings that C libraries print for numbers that are none. */
function readNumber(text: string): number {
  const value = Number(text);
  return Number.isNaN(value) && /^[-+]?(1\.#|nan|inf)/i.test(text) ? Infinity : value;
}

/** Whether a number is over before this byte; past the end of the file there is none. */
function endsNumber(code: number | undefined): boolean {
  return (
    code === COMMA ||
    code === undefined ||
    isBlank(code) ||
    code === NEWLINE ||
    code === CLOSE ||
    code === OPEN ||
    code === SEMICOLON
  );
}

function isNumberStart(code: number): boolean {
  return (code >= 48 && code <= 57) || code === 45 || code === 43 || code === 46;
}

function isNumberPart(code: number): boolean {
  return isNumberStart(code) || code === 35 || (code >= 65 && code <= 90) || (code >= 97 && code <= 122);
}

function isBlank(code: number): boolean {
  return code === 32 || code === 9 || code === 13;
}

function fitsInt32(values: Float64Array): boolean {
  for (let i = 0; i < values.length; i += 1) if (Math.abs(values[i]) > 0x7fffffff) return false;
  return true;
}
