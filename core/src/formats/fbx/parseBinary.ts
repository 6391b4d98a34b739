import { inflateSync } from 'node:zlib';
import { KinkajouError } from '../../errors.ts';
import type { FbxNode, FbxProperty, FbxTree } from './tree.ts';

const MAGIC = 'Kaydara FBX Binary  \0';
const HEADER_LENGTH = 27;
/** Where the header says in which order the bytes of numbers stand: 1 for the most significant first. */
const ORDER_OFFSET = 22;
/** From this version on record offsets are 64 bits wide. */
const WIDE_VERSION = 7500;
const ELEMENT_SIZE: Record<string, number> = { f: 4, d: 8, l: 8, i: 4, b: 1, c: 1 };
const MAX_ARRAY_BYTES = 2 ** 31;

/** Records of a binary file, as far as they could be read. */
export interface ParsedBinary extends FbxTree {
  /** The fault that ended reading early; what came before it is in the tree. */
  fault: KinkajouError | null;
}

/** Whether the bytes start with the 21 characters of a binary FBX file. */
export function isBinaryFbx(bytes: Uint8Array): boolean {
  for (let i = 0; i < MAGIC.length; i += 1) if (bytes[i] !== MAGIC.charCodeAt(i)) return false;
  return true;
}

/**
 * Reads the record tree of a binary FBX file, 6.1 to 7.7. A file that ends early or is damaged gives the
 * records before the fault, and the fault. Throws `fbx.header` when even the header is not there.
 */
export function parseBinaryFbx(bytes: Uint8Array, file = '', maxDepth = 64): ParsedBinary {
  if (!isBinaryFbx(bytes) || bytes.length < HEADER_LENGTH) {
    throw new KinkajouError('fbx.header', 'this is not a binary FBX file', { file, offset: 0 });
  }
  const reader = new BinaryReader(bytes, file, maxDepth);
  const nodes: FbxNode[] = [];
  let fault: KinkajouError | null = null;
  try {
    reader.readAll(nodes);
  } catch (error) {
    if (!(error instanceof KinkajouError)) throw error;
    fault = error;
  }
  return { version: reader.version, binary: true, nodes, fault };
}

class BinaryReader {
  readonly version: number;
  private readonly view: DataView;
  private readonly wide: boolean;
  private readonly littleEnd: boolean;
  private at = HEADER_LENGTH;
  private readonly utf8 = new TextDecoder('utf-8');

  constructor(
    private readonly bytes: Uint8Array,
    private readonly file: string,
    private readonly maxDepth: number,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    this.littleEnd = bytes[ORDER_OFFSET] !== 1;
    this.version = this.view.getUint32(23, this.littleEnd);
    this.wide = this.version >= WIDE_VERSION;
  }

  readAll(into: FbxNode[]): void {
    for (;;) {
      if (this.at >= this.bytes.length) throw this.fault('the file ends before its closing record');
      const node = this.readNode(0, this.bytes.length, into);
      if (!node) return;
    }
  }

  /** Reads one record and adds it before its children are complete, so that a fault keeps what was read. */
  private readNode(depth: number, limit: number, into: FbxNode[]): FbxNode | null {
    const start = this.at;
    const headLength = (this.wide ? 24 : 12) + 1;
    if (start + headLength > limit) throw this.fault('the file ends inside a record');
    const end = this.offset(0);
    const count = this.offset(1);
    const listLength = this.offset(2);
    const nameLength = this.bytes[start + headLength - 1];
    this.at = start + headLength;
    if (end === 0) return null;
    if (depth > this.maxDepth) throw this.fault(`records nest deeper than ${this.maxDepth}`);
    const bodyEnd = this.at + nameLength + listLength;
    if (end < start || bodyEnd > Math.min(end, limit)) {
      throw this.fault(
        end > this.bytes.length
          ? 'the file is cut off: a record reaches past its end'
          : 'a record has a false length',
        start,
      );
    }
    const node: FbxNode = { name: this.text(nameLength), properties: [], children: [] };
    into.push(node);
    for (let i = 0; i < count; i += 1) {
      if (this.at >= bodyEnd) throw this.fault('a property list is shorter than announced');
      node.properties.push(this.property(bodyEnd));
    }
    this.at = bodyEnd;
    // A record that reaches past the end still gives the children that stand before the cut.
    const reach = Math.min(end, limit);
    while (this.at < reach) {
      if (!this.readNode(depth + 1, reach, node.children)) break;
    }
    if (end > limit) throw this.fault('the file is cut off: a record reaches past its end', start);
    this.at = end;
    return node;
  }

  private offset(index: number): number {
    if (!this.wide) return this.view.getUint32(this.at + index * 4, this.littleEnd);
    return Number(this.view.getBigUint64(this.at + index * 8, this.littleEnd));
  }

  private property(limit: number): FbxProperty {
    const type = String.fromCharCode(this.bytes[this.at]);
    this.at += 1;
    const { view, littleEnd } = this;
    const offset = this.at;
    switch (type) {
      case 'Y':
        return { type, value: view.getInt16(this.take(2, limit), littleEnd) };
      case 'B':
      case 'C':
      case 'Z':
        return { type: 'C', value: view.getUint8(this.take(1, limit)) };
      case 'I':
        return { type, value: view.getInt32(this.take(4, limit), littleEnd) };
      case 'F':
        return { type, value: view.getFloat32(this.take(4, limit), littleEnd) };
      case 'D':
        return { type, value: view.getFloat64(this.take(8, limit), littleEnd) };
      case 'L':
        return { type, value: view.getBigInt64(this.take(8, limit), littleEnd) };
      case 'S':
      case 'R': {
        const length = view.getUint32(this.take(4, limit), littleEnd);
        if (this.at + length > limit) throw this.fault('a text reaches past its record');
        if (type === 'S') return { type, value: this.text(length) };
        const value = this.bytes.subarray(this.at, this.at + length);
        this.at += length;
        return { type, value };
      }
      case 'f':
      case 'd':
      case 'l':
      case 'i':
      case 'b':
      case 'c':
        return this.array(type, limit);
      default:
        throw this.fault(`property type ${JSON.stringify(type)} is unknown`, offset - 1);
    }
  }

  /** Moves past `size` bytes and returns where they began. */
  private take(size: number, limit: number): number {
    const offset = this.at;
    if (offset + size > limit) throw this.fault('a property reaches past its record');
    this.at = offset + size;
    return offset;
  }

  private array(type: 'f' | 'd' | 'l' | 'i' | 'b' | 'c', limit: number): FbxProperty {
    const start = this.at;
    if (start + 12 > limit) throw this.fault('an array header reaches past its record');
    const length = this.view.getUint32(start, this.littleEnd);
    const encoding = this.view.getUint32(start + 4, this.littleEnd);
    const stored = this.view.getUint32(start + 8, this.littleEnd);
    const size = length * ELEMENT_SIZE[type];
    this.at = start + 12;
    if (this.at + (encoding === 1 ? stored : size) > limit)
      throw this.fault('an array reaches past its record', start);
    if (size > MAX_ARRAY_BYTES) throw this.fault('an array announces more than 2 GiB', start);
    let raw: Uint8Array;
    if (encoding === 1) {
      const packed = this.bytes.subarray(this.at, this.at + stored);
      this.at += stored;
      try {
        const unpacked = inflateSync(packed, {
          maxOutputLength: Math.max(1, size),
          chunkSize: unpackedRoom(size, stored),
        });
        raw = new Uint8Array(unpacked.buffer, unpacked.byteOffset, unpacked.byteLength);
      } catch {
        throw this.fault('a compressed array cannot be unpacked', start);
      }
      if (raw.length !== size) throw this.fault('a compressed array has a false length', start);
    } else {
      raw = this.bytes.subarray(this.at, this.at + size);
      this.at += size;
    }
    const width = ELEMENT_SIZE[type];
    return typedArray(type, this.littleEnd || width === 1 ? raw : turnedRound(raw, width));
  }

  private text(length: number): string {
    const value = this.utf8.decode(this.bytes.subarray(this.at, this.at + length));
    this.at += length;
    return value;
  }

  private fault(message: string, offset = this.at): KinkajouError {
    return new KinkajouError(
      'fbx.broken',
      message,
      { file: this.file, offset },
      'Export or copy the file again.',
    );
  }
}

/** The most that deflated bytes grow to. */
const DEFLATE_RATIO = 1032;

/**
 * Bytes to unpack into at once: all of them and some, so that nothing is put together from pieces. A false
 * length asks for no more than so many packed bytes can fill.
 */
function unpackedRoom(size: number, stored: number): number {
  return Math.min(size, stored * DEFLATE_RATIO) + 64;
}

/** A copy with the bytes of each number, four or eight, the other way round. */
function turnedRound(raw: Uint8Array, size: number): Uint8Array {
  const copy = Buffer.from(raw);
  return size === 4 ? copy.swap32() : copy.swap64();
}

/** A typed array over the bytes where their alignment allows it, else over a copy. */
function typedArray(type: 'f' | 'd' | 'l' | 'i' | 'b' | 'c', raw: Uint8Array): FbxProperty {
  if (type === 'b' || type === 'c') return { type, value: raw };
  const size = ELEMENT_SIZE[type];
  const aligned = raw.byteOffset % size === 0 ? raw : new Uint8Array(raw);
  const length = aligned.length / size;
  const { buffer, byteOffset } = aligned;
  switch (type) {
    case 'f':
      return { type, value: new Float32Array(buffer, byteOffset, length) };
    case 'd':
      return { type, value: new Float64Array(buffer, byteOffset, length) };
    case 'i':
      return { type, value: new Int32Array(buffer, byteOffset, length) };
    default:
      return { type: 'l', value: new BigInt64Array(buffer, byteOffset, length) };
  }
}
