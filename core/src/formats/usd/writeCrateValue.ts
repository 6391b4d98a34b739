import { numberToHalf } from '../../scene/half.ts';
import type { ByteSink } from '../byteSink.ts';
import {
  type CrateType,
  IS_ARRAY,
  IS_COMPRESSED,
  IS_INLINED,
  LAYOUT,
  LIST_APPENDED,
  LIST_DELETED,
  LIST_EXPLICIT,
  LIST_HAS_EXPLICIT,
  LIST_PREPENDED,
  MIN_PACKED,
  TYPE_NUMBER,
} from './crate.ts';
import { encodeIntegers } from './integerCoding.ts';
import {
  AssetPath,
  type ListItems,
  type ListOp,
  type NumberArray,
  shapeOfType,
  type UsdReference,
  type UsdValue,
} from './layer.ts';

/** Words, texts and paths of the file being written. */
export interface CrateTables {
  tokens: { list: string[]; add(text: string): number };
  /** Token number per text. */
  strings: number[];
  stringNumbers: Map<string, number>;
  paths: { list: string[]; add(text: string): number };
}

/** Writes values into the file and gives their 64-bit representation. */
export class ValueWriter {
  private readonly arrays = new WeakMap<object, { type: CrateType; rep: bigint }>();

  constructor(
    private readonly out: ByteSink,
    private readonly tables: CrateTables,
  ) {}

  token(text: string): bigint {
    return inlined('token', this.tables.tokens.add(text));
  }

  string(text: string): bigint {
    return inlined('string', this.stringNumber(text));
  }

  bool(value: boolean): bigint {
    return inlined('bool', value ? 1 : 0);
  }

  enumeration(type: 'specifier' | 'variability', value: number): bigint {
    return inlined(type, value);
  }

  /** A value of a USD type name. */
  typed(typeName: string, value: UsdValue): bigint {
    if (value === null) return inlined('valueBlock', 0);
    const { array } = shapeOfType(typeName);
    const type = crateType(typeName);
    if (array) return this.array(type, value);
    if (type === 'token') return this.token(String(value));
    if (type === 'string') return this.string(String(value));
    if (type === 'asset')
      return inlined(
        'asset',
        this.tables.tokens.add(value instanceof AssetPath ? value.path : String(value)),
      );
    if (type === 'bool') return this.bool(value === true || value === 1);
    const numbers =
      typeof value === 'number' || typeof value === 'bigint'
        ? [Number(value)]
        : Array.from(value as Float64Array, Number);
    return this.numbers(type, numbers);
  }

  timeSamples(typeName: string, samples: Map<number, UsdValue>): bigint {
    const reps = [...samples.values()].map((sample) => this.typed(typeName, sample));
    const times = this.place(() => {
      this.out.u64(samples.size);
      for (const time of samples.keys()) this.out.f64(time);
    });
    const offset = this.place(() => {
      this.out.u64(8);
      this.out.u64(rep('doubleVector', times));
      this.out.u64(8);
      this.out.u64(reps.length);
      for (const rep of reps) this.out.u64(rep);
    });
    return rep('timeSamples', offset);
  }

  dictionary(entries: Record<string, UsdValue>): bigint {
    const pairs = Object.entries(entries).map(
      ([key, value]) => [this.stringNumber(key), this.untyped(value)] as const,
    );
    if (pairs.length === 0) return inlined('dictionary', 0);
    return rep(
      'dictionary',
      this.place(() => {
        this.out.u64(pairs.length);
        for (const [key, value] of pairs) {
          this.out.u32(key);
          this.out.u64(8);
          this.out.u64(value);
        }
      }),
    );
  }

  variantSelection(entries: Record<string, UsdValue>): bigint {
    const pairs = Object.entries(entries).map(([set, variant]) => [
      this.stringNumber(set),
      this.stringNumber(String(variant)),
    ]);
    return rep(
      'variantSelectionMap',
      this.place(() => {
        this.out.u64(pairs.length);
        for (const pair of pairs) for (const number of pair) this.out.u32(number);
      }),
    );
  }

  tokenVector(texts: string[]): bigint {
    return this.vector('tokenVector', texts, (text) => this.tables.tokens.add(text));
  }

  stringVector(texts: string[]): bigint {
    return this.vector('stringVector', texts, (text) => this.stringNumber(text));
  }

  layerOffsets(count: number): bigint {
    return rep(
      'layerOffsetVector',
      this.place(() => {
        this.out.u64(count);
        for (let i = 0; i < count; i += 1) {
          this.out.f64(0);
          this.out.f64(1);
        }
      }),
    );
  }

  tokenListOp(list: ListOp): bigint {
    return this.listOp('tokenListOp', list, (item) => this.out.u32(this.tables.tokens.add(String(item))));
  }

  pathListOp(list: ListOp): bigint {
    return this.listOp('pathListOp', list, (item) => this.out.u32(this.tables.paths.add(String(item))));
  }

  referenceListOp(kind: 'references' | 'payload', list: ListOp): bigint {
    return this.listOp(kind === 'references' ? 'referenceListOp' : 'payloadListOp', list, (item) => {
      const { asset, prim } = item as UsdReference;
      this.out.u32(this.stringNumber(asset));
      this.out.u32(this.tables.paths.add(prim));
      this.out.f64(0);
      this.out.f64(1);
      if (kind === 'references') this.out.u64(0);
    });
  }

  private listOp(type: CrateType, list: ListOp, write: (item: ListItems[number]) => void): bigint {
    const parts: [number, ListItems][] = [
      [LIST_HAS_EXPLICIT, list.explicit ?? []],
      [LIST_PREPENDED, list.prepended],
      [LIST_APPENDED, list.appended],
      [LIST_DELETED, list.deleted],
    ];
    const present = parts.filter(([, items]) => items.length > 0);
    const offset = this.place(() => {
      this.out.u8(present.reduce((flags, [flag]) => flags | flag, list.explicit ? LIST_EXPLICIT : 0));
      for (const [, items] of present) {
        this.out.u64(items.length);
        for (const item of items) write(item);
      }
    });
    return rep(type, offset);
  }

  /** A value of metadata, whose type is told by its own kind. */
  private untyped(value: UsdValue): bigint {
    if (typeof value === 'string') return this.string(value);
    if (typeof value === 'boolean') return this.bool(value);
    if (typeof value === 'number')
      return this.typed(Number.isInteger(value) && Math.abs(value) < 2 ** 31 ? 'int' : 'double', value);
    if (value instanceof AssetPath) return this.typed('asset', value);
    if (Array.isArray(value)) return this.typed('string[]', value);
    if (ArrayBuffer.isView(value)) return this.typed('double[]', value);
    return value === null
      ? inlined('valueBlock', 0)
      : this.dictionary(value as unknown as Record<string, UsdValue>);
  }

  /** Arrays that several properties hold together are written once. */
  private array(type: CrateType, value: UsdValue): bigint {
    const existing = this.arrays.get(value as object);
    if (existing && existing.type === type) return existing.rep;
    const made = this.newArray(type, value);
    this.arrays.set(value as object, { type, rep: made });
    return made;
  }

  private newArray(type: CrateType, value: UsdValue): bigint {
    if (type === 'token' || type === 'string' || type === 'asset')
      return this.textArray(type, value as (string | AssetPath)[]);
    const layout = LAYOUT[type];
    const given = value as Float64Array;
    const count = layout ? Math.floor(given.length / layout.width) : 0;
    if (!layout || count === 0) return rep(type, 0) | IS_ARRAY;
    // What does not make a whole element is no part of the array.
    const numbers: NumberArray =
      given.length === count * layout.width ? given : given.slice(0, count * layout.width);
    if ((type === 'int' || type === 'uint') && count >= MIN_PACKED) {
      const packed = encodeIntegers(numbers as ArrayLike<number>);
      const offset = this.place(() => {
        this.out.u64(count);
        this.out.u64(packed.length);
        this.out.bytes(packed);
      });
      return rep(type, offset) | IS_ARRAY | IS_COMPRESSED;
    }
    const position = this.place(() => {
      this.out.u64(count);
      this.out.bytes(raw(type, numbers));
    });
    return rep(type, position) | IS_ARRAY;
  }

  private textArray(type: 'token' | 'string' | 'asset', texts: (string | AssetPath)[]): bigint {
    if (texts.length === 0) return rep(type, 0) | IS_ARRAY;
    const numbers = texts.map((text) => {
      const plain = text instanceof AssetPath ? text.path : text;
      return type === 'string' ? this.stringNumber(plain) : this.tables.tokens.add(plain);
    });
    const offset = this.place(() => {
      this.out.u64(numbers.length);
      for (const number of numbers) this.out.u32(number);
    });
    return rep(type, offset) | IS_ARRAY;
  }

  /** One scalar, vector, quaternion or matrix: inlined where it is small enough. */
  private numbers(type: CrateType, numbers: number[]): bigint {
    const layout = LAYOUT[type];
    if (!layout) return inlined('valueBlock', 0);
    const [first] = numbers;
    if (layout.width === 1) {
      if (layout.scalar === 'int' || layout.scalar === 'uint' || layout.scalar === 'uchar')
        return inlined(type, first >>> 0);
      if (layout.scalar === 'half') return inlined(type, numberToHalf(first));
      if (layout.scalar === 'float') return inlined(type, floatBits(first));
      if (layout.scalar === 'double' && Math.fround(first) === first) return inlined(type, floatBits(first));
    } else if (SMALL_VECTORS.has(type) && numbers.every(isByte)) {
      return inlined(
        type,
        numbers.reduce((bits, value, i) => bits | ((value & 255) << (i * 8)), 0),
      );
    }
    return rep(
      type,
      this.place(() => this.out.bytes(raw(type, Float64Array.from(numbers)))),
    );
  }

  private vector(type: CrateType, texts: string[], numberOf: (text: string) => number): bigint {
    const numbers = texts.map(numberOf);
    return rep(
      type,
      this.place(() => {
        this.out.u64(numbers.length);
        for (const number of numbers) this.out.u32(number);
      }),
    );
  }

  private stringNumber(text: string): number {
    let number = this.tables.stringNumbers.get(text);
    if (number === undefined) {
      number = this.tables.strings.push(this.tables.tokens.add(text)) - 1;
      this.tables.stringNumbers.set(text, number);
    }
    return number;
  }

  /** Writes at the next multiple of eight and returns where that was. */
  private place(write: () => void): number {
    this.out.align(8);
    const offset = this.out.length;
    write();
    return offset;
  }
}

function rep(type: CrateType, payload: number): bigint {
  return (BigInt(TYPE_NUMBER.get(type) as number) << 48n) | BigInt(payload);
}

function inlined(type: CrateType, payload: number): bigint {
  return rep(type, payload >>> 0) | IS_INLINED;
}

function crateType(typeName: string): CrateType {
  const { scalar, width } = shapeOfType(typeName);
  const bare = typeName.replace('[]', '');
  if (bare.startsWith('quat') || bare.startsWith('matrix')) return bare as CrateType;
  if (bare === 'frame4d') return 'matrix4d';
  return (width === 1 ? scalar : `${scalar}${width}`) as CrateType;
}

/**
 * Vectors that are held as one signed byte per number where they can be. The format would allow double ones
 * too, but some readers do not.
 */
const SMALL_VECTORS = new Set<CrateType>(['float2', 'float3', 'float4', 'int2', 'int3', 'int4']);

function isByte(value: number): boolean {
  return Number.isInteger(value) && value >= -128 && value <= 127;
}

const scratch = new DataView(new ArrayBuffer(4));

function floatBits(value: number): number {
  scratch.setFloat32(0, value, true);
  return scratch.getUint32(0, true);
}

/** Numbers as the file holds them; quaternions with the real part last. */
function raw(type: CrateType, numbers: NumberArray): Uint8Array {
  const layout = LAYOUT[type] as NonNullable<(typeof LAYOUT)[CrateType]>;
  const list = type.startsWith('quat') ? realLast(numbers) : numbers;
  const bytes = (array: ArrayBufferView) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength);
  switch (layout.scalar) {
    case 'uchar':
      return Uint8Array.from(list as Float64Array);
    case 'int':
      return bytes(list instanceof Int32Array ? list : Int32Array.from(list as Float64Array));
    case 'uint':
      return bytes(list instanceof Uint32Array ? list : Uint32Array.from(list as Float64Array));
    case 'int64':
    case 'uint64':
      return bytes(
        list instanceof BigInt64Array
          ? list
          : BigInt64Array.from(Array.from(list as Float64Array, (value) => BigInt(Math.trunc(value)))),
      );
    case 'half':
      return bytes(Uint16Array.from(list as Float64Array, numberToHalf));
    case 'float':
      return bytes(list instanceof Float32Array ? list : Float32Array.from(list as Float64Array));
    default:
      return bytes(list instanceof Float64Array ? list : Float64Array.from(list as Float32Array));
  }
}

function realLast(numbers: NumberArray): Float64Array {
  const out = new Float64Array(numbers.length);
  for (let i = 0; i + 3 < numbers.length; i += 4) {
    for (let k = 0; k < 3; k += 1) out[i + k] = Number(numbers[i + k + 1]);
    out[i + 3] = Number(numbers[i]);
  }
  return out;
}
