import { KinkajouError } from '../../errors.ts';
import { halfToNumber } from '../../scene/half.ts';
import {
  CRATE_TYPES,
  type CrateType,
  IS_ARRAY,
  IS_COMPRESSED,
  IS_INLINED,
  LAYOUT,
  LIST_ADDED,
  LIST_APPENDED,
  LIST_DELETED,
  LIST_EXPLICIT,
  LIST_HAS_EXPLICIT,
  LIST_ORDERED,
  LIST_PREPENDED,
  MIN_PACKED,
  PAYLOAD_MASK,
  SCALAR_BYTES,
} from './crate.ts';
import { decodeIntegers, decodeIntegers64 } from './integerCoding.ts';
import {
  AssetPath,
  createListOp,
  type ListItems,
  type NumberArray,
  type UsdDictionary,
  type UsdReference,
  type UsdValue,
} from './layer.ts';

/** From this version on array lengths are 64 bits wide, and before the fifth they carried a rank. */
const WIDE_LENGTHS = 0x0007;
const NO_RANK = 0x0005;
const PAYLOAD_OFFSETS = 0x0008;
const MAX_DEPTH = 32;

/** What values name by number. */
interface CrateTables {
  tokens: string[];
  strings: string[];
  paths: string[];
}

/**
 * Reads values by their 64-bit representation. Values that lie past the end or are damaged throw
 * `usd.broken`.
 */
export class ValueReader {
  private readonly view: DataView;
  private readonly tokens: string[];
  private readonly strings: string[];
  private readonly paths: string[];
  private at = 0;
  private depth = 0;
  private readonly arrays = new Map<bigint, UsdValue>();

  constructor(
    private readonly bytes: Uint8Array,
    private readonly version: number,
    { tokens, strings, paths }: CrateTables,
  ) {
    this.tokens = tokens;
    this.strings = strings;
    this.paths = paths;
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  read(rep: bigint): UsdValue {
    const type = CRATE_TYPES[Number((rep >> 48n) & 0xffn)];
    const payload = Number(rep & PAYLOAD_MASK);
    if (!type || type === 'invalid') return null;
    const back = this.at;
    this.depth += 1;
    if (this.depth > MAX_DEPTH) throw this.fault('values nest too deep');
    try {
      if (rep & IS_ARRAY) {
        // Properties that share an array in the file share it here.
        const existing = this.arrays.get(rep);
        if (existing !== undefined) return existing;
        const value = this.array(type, payload, (rep & IS_COMPRESSED) !== 0n);
        this.arrays.set(rep, value);
        return value;
      }
      if (rep & IS_INLINED) return this.inlined(type, payload);
      this.at = payload;
      return this.single(type);
    } finally {
      this.at = back;
      this.depth -= 1;
    }
  }

  private inlined(type: CrateType, payload: number): UsdValue {
    const word = payload >>> 0;
    switch (type) {
      case 'bool':
        return word !== 0;
      case 'uchar':
        return word & 255;
      case 'int':
      case 'int64':
        return word | 0;
      case 'uint':
      case 'uint64':
      case 'specifier':
      case 'permission':
      case 'variability':
        return word;
      case 'half':
        return halfToNumber(word & 0xffff);
      case 'float':
      case 'double':
      case 'timecode':
        return floatOfBits(word);
      case 'token':
        return this.tokens[word] ?? '';
      case 'string':
        return this.strings[word] ?? '';
      case 'asset':
        return new AssetPath(this.tokens[word] ?? '');
      case 'dictionary':
        return {} as UsdDictionary;
      case 'valueBlock':
        return null;
      default:
        return this.inlinedVector(type, payload);
    }
  }

  /** Small vectors are held as one signed byte per number, matrices by their diagonal. */
  private inlinedVector(type: CrateType, payload: number): UsdValue {
    const layout = LAYOUT[type];
    if (!layout) return null;
    // Two halves fit as they are.
    if (type === 'half2')
      return Float64Array.of(halfToNumber(payload & 0xffff), halfToNumber((payload >>> 16) & 0xffff));
    const byte = (i: number) => (Math.floor(payload / 256 ** i) << 24) >> 24;
    if (!type.startsWith('matrix')) return Float64Array.from({ length: layout.width }, (_, i) => byte(i));
    const side = Math.sqrt(layout.width);
    return Float64Array.from({ length: layout.width }, (_, i) =>
      i % (side + 1) === 0 ? byte(i / (side + 1)) : 0,
    );
  }

  private single(type: CrateType): UsdValue {
    const layout = LAYOUT[type];
    if (layout) {
      const numbers = this.numbers(layout.scalar, layout.width);
      if (layout.width > 1)
        return isQuaternion(type)
          ? realFirst(Float64Array.from(numbers as ArrayLike<number>))
          : Float64Array.from(numbers as ArrayLike<number>);
      const [value] = numbers as unknown as (number | bigint)[];
      return typeof value === 'bigint' ? Number(value) : value;
    }
    switch (type) {
      case 'dictionary':
        return this.dictionary();
      case 'tokenListOp':
        return this.listOp(() => this.tokens[this.u32()] ?? '');
      case 'stringListOp':
        return this.listOp(() => this.strings[this.u32()] ?? '');
      case 'pathListOp':
        return this.listOp(() => this.paths[this.u32()] ?? '');
      case 'referenceListOp':
        return this.listOp(() => this.reference(true));
      case 'payloadListOp':
        return this.listOp(() => this.reference(false));
      case 'intListOp':
      case 'uintListOp':
        return this.listOp(() => this.u32());
      case 'int64ListOp':
      case 'uint64ListOp':
        return this.listOp(() => this.u64());
      case 'payload':
        return [this.reference(false)];
      case 'pathVector':
        return this.vector(4, () => this.paths[this.u32()] ?? '');
      case 'tokenVector':
        return this.vector(4, () => this.tokens[this.u32()] ?? '');
      case 'stringVector':
        return this.vector(4, () => this.strings[this.u32()] ?? '');
      case 'doubleVector':
        return Float64Array.from(this.vector(8, () => this.f64()));
      case 'layerOffsetVector':
        return Float64Array.from(this.vector(16, () => [this.f64(), this.f64()]).flat());
      case 'variantSelectionMap': {
        const out: Record<string, UsdValue> = {};
        for (const [set, variant] of this.vector(8, () => [
          this.strings[this.u32()] ?? '',
          this.strings[this.u32()] ?? '',
        ]))
          out[set] = variant;
        return out as UsdDictionary;
      }
      case 'timeSamples':
        return this.timeSamples() as unknown as UsdValue;
      case 'value':
      case 'unregisteredValue':
        return this.nested();
      default:
        return null;
    }
  }

  private array(type: CrateType, payload: number, packed: boolean): UsdValue {
    if (payload === 0)
      return type === 'token' || type === 'string' || type === 'asset' ? [] : new Float64Array(0);
    this.at = payload;
    if (this.version < NO_RANK) this.u32();
    const count = this.version < WIDE_LENGTHS ? this.u32() : this.u64();
    if (type === 'token' || type === 'string' || type === 'asset') {
      this.need(count * 4);
      return Array.from({ length: count }, () => {
        const number = this.u32();
        return type === 'string' ? (this.strings[number] ?? '') : (this.tokens[number] ?? '');
      }).map((text) => (type === 'asset' ? new AssetPath(text) : text)) as UsdValue;
    }
    const layout = LAYOUT[type];
    if (!layout) return null;
    if (packed && count >= MIN_PACKED) return this.packedArray(type, count);
    const numbers = this.numbers(layout.scalar, count * layout.width);
    return isQuaternion(type) ? realFirst(numbers) : numbers;
  }

  /**
   * Integers by differences; floats as whole numbers (`i`) or through a table of the values that occur (`t`).
   */
  private packedArray(type: CrateType, count: number): UsdValue {
    const scalar = LAYOUT[type]?.scalar;
    if (count > this.bytes.length * 2048) throw this.fault('an array announces more than the file can hold');
    if (scalar === 'int' || scalar === 'uint') {
      const numbers = decodeIntegers(this.take(this.u64()), count);
      return scalar === 'uint' ? new Uint32Array(numbers.buffer) : numbers;
    }
    if (scalar === 'int64' || scalar === 'uint64') return decodeIntegers64(this.take(this.u64()), count);
    this.need(1);
    const code = String.fromCharCode(this.bytes[this.at]);
    this.at += 1;
    const Kind = scalar === 'double' ? Float64Array : Float32Array;
    if (code === 'i') return Kind.from(decodeIntegers(this.take(this.u64()), count));
    if (code !== 't' || !scalar) throw this.fault('an array is packed in an unknown way');
    const table = this.numbers(scalar, this.u32()) as ArrayLike<number>;
    const indices = decodeIntegers(this.take(this.u64()), count);
    const out = new Kind(count);
    for (let i = 0; i < count; i += 1) out[i] = table[indices[i]] ?? 0;
    return out;
  }

  private numbers(scalar: keyof typeof SCALAR_BYTES, count: number): NumberArray {
    const size = count * SCALAR_BYTES[scalar];
    const raw = this.take(size);
    const aligned = raw.byteOffset % 8 === 0 ? raw : new Uint8Array(raw);
    const { buffer, byteOffset } = aligned;
    switch (scalar) {
      case 'uchar':
        return aligned;
      case 'int':
        return new Int32Array(buffer, byteOffset, count);
      case 'uint':
        return new Uint32Array(buffer, byteOffset, count);
      case 'int64':
      case 'uint64':
        return new BigInt64Array(buffer, byteOffset, count);
      case 'half':
        return Float32Array.from(new Uint16Array(buffer, byteOffset, count), halfToNumber);
      case 'float':
        return new Float32Array(buffer, byteOffset, count);
      default:
        return new Float64Array(buffer, byteOffset, count);
    }
  }

  private dictionary(): UsdDictionary {
    const out: Record<string, UsdValue> = {};
    const count = this.u64();
    for (let i = 0; i < count; i += 1) {
      const key = this.strings[this.u32()] ?? '';
      out[key] = this.nested();
    }
    return out as UsdDictionary;
  }

  /** A value written as a distance to its representation, behind which reading goes on. */
  private nested(): UsdValue {
    const start = this.at;
    this.at = start + Number(this.i64());
    return this.read(this.rep());
  }

  private timeSamples(): Map<number, UsdValue> {
    const timesStart = this.at;
    this.at = timesStart + Number(this.i64());
    const times = this.read(this.rep());
    const valuesStart = this.at;
    this.at = valuesStart + Number(this.i64());
    const count = this.u64();
    this.need(count * 8);
    const samples = new Map<number, UsdValue>();
    const list = ArrayBuffer.isView(times) ? (times as Float64Array) : new Float64Array(0);
    for (let i = 0; i < count && i < list.length; i += 1) samples.set(list[i], this.read(this.rep()));
    return samples;
  }

  private listOp(item: () => string | number | UsdReference): UsdValue {
    this.need(1);
    const flags = this.bytes[this.at];
    this.at += 1;
    const items = (flag: number): ListItems => (flags & flag ? this.vector(1, item) : []);
    const explicit = items(LIST_HAS_EXPLICIT);
    const added = items(LIST_ADDED);
    const prepended = items(LIST_PREPENDED);
    const appended = items(LIST_APPENDED);
    const deleted = items(LIST_DELETED);
    items(LIST_ORDERED);
    return createListOp({
      explicit: flags & LIST_EXPLICIT ? explicit : null,
      prepended,
      appended: [...added, ...appended],
      deleted,
    });
  }

  /** References carry their custom data; payloads do not, and had no offsets before version 0.8. */
  private reference(full: boolean): UsdReference {
    const asset = this.strings[this.u32()] ?? '';
    const prim = this.paths[this.u32()] ?? '';
    if (full || this.version >= PAYLOAD_OFFSETS) {
      this.f64();
      this.f64();
    }
    if (full) this.dictionary();
    return { asset, prim };
  }

  private vector<T>(bytesEach: number, item: () => T): T[] {
    const count = this.u64();
    this.need(count * bytesEach);
    return Array.from({ length: count }, item);
  }

  private take(size: number): Uint8Array {
    this.need(size);
    this.at += size;
    return this.bytes.subarray(this.at - size, this.at);
  }

  private u32(): number {
    this.need(4);
    this.at += 4;
    return this.view.getUint32(this.at - 4, true);
  }

  private u64(): number {
    this.need(8);
    this.at += 8;
    return Number(this.view.getBigUint64(this.at - 8, true));
  }

  private i64(): bigint {
    this.need(8);
    this.at += 8;
    return this.view.getBigInt64(this.at - 8, true);
  }

  private f64(): number {
    this.need(8);
    this.at += 8;
    return this.view.getFloat64(this.at - 8, true);
  }

  private rep(): bigint {
    this.need(8);
    this.at += 8;
    return this.view.getBigUint64(this.at - 8, true);
  }

  private need(size: number): void {
    if (!(size >= 0) || this.at < 0 || this.at + size > this.bytes.length)
      throw this.fault('a value reaches past the end: the file is cut off or damaged');
  }

  private fault(message: string): KinkajouError {
    return new KinkajouError('usd.broken', message, { offset: Math.max(0, this.at) });
  }
}

function isQuaternion(type: CrateType): boolean {
  return type.startsWith('quat');
}

/** Binary files hold i, j, k, real; text holds the real part first, and so do values here. */
function realFirst<T extends NumberArray>(numbers: T): T {
  const out = numbers.slice() as T;
  for (let i = 0; i + 3 < numbers.length; i += 4) {
    out[i] = numbers[i + 3];
    out[i + 1] = numbers[i];
    out[i + 2] = numbers[i + 1];
    out[i + 3] = numbers[i + 2];
  }
  return out;
}

const scratch = new DataView(new ArrayBuffer(4));

function floatOfBits(bits: number): number {
  scratch.setUint32(0, bits, true);
  return scratch.getFloat32(0, true);
}
