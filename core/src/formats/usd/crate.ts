/** Value types of binary USD, by their number in the file. */
export const CRATE_TYPES = [
  'invalid',
  'bool',
  'uchar',
  'int',
  'uint',
  'int64',
  'uint64',
  'half',
  'float',
  'double',
  'string',
  'token',
  'asset',
  'matrix2d',
  'matrix3d',
  'matrix4d',
  'quatd',
  'quatf',
  'quath',
  'double2',
  'float2',
  'half2',
  'int2',
  'double3',
  'float3',
  'half3',
  'int3',
  'double4',
  'float4',
  'half4',
  'int4',
  'dictionary',
  'tokenListOp',
  'stringListOp',
  'pathListOp',
  'referenceListOp',
  'intListOp',
  'int64ListOp',
  'uintListOp',
  'uint64ListOp',
  'pathVector',
  'tokenVector',
  'specifier',
  'permission',
  'variability',
  'variantSelectionMap',
  'timeSamples',
  'payload',
  'doubleVector',
  'layerOffsetVector',
  'stringVector',
  'valueBlock',
  'value',
  'unregisteredValue',
  'unregisteredValueListOp',
  'payloadListOp',
  'timecode',
] as const;
/** Name of a type of value that a crate file can hold. */
export type CrateType = (typeof CRATE_TYPES)[number];

/** Number of each type, as bits 48 to 55 of a value have it. */
export const TYPE_NUMBER = new Map<CrateType, number>(CRATE_TYPES.map((type, i) => [type, i]));

/** Kinds of specs, by their number in the file. */
export const SPEC = {
  attribute: 1,
  connection: 2,
  prim: 6,
  pseudoRoot: 7,
  relationship: 8,
  relationshipTarget: 9,
  variant: 10,
  variantSet: 11,
} as const;

/** Bit of a value: it is an array. */
export const IS_ARRAY = 1n << 63n;
/** Bit of a value: its payload is the value itself, not an offset. */
export const IS_INLINED = 1n << 62n;
/** Bit of a value: the array at its offset is compressed. */
export const IS_COMPRESSED = 1n << 61n;
/** Bits of a value that hold its payload: an offset into the file, or the value itself. */
export const PAYLOAD_MASK = (1n << 48n) - 1n;

/** First eight bytes of a crate file. */
export const MAGIC = 'PXR-USDC';
/** Bytes of the header: magic, version, offset of the table of contents, and reserved ones. */
export const BOOTSTRAP_SIZE = 88;
/** Bytes that a section's name takes in the table of contents, padded by zeros. */
export const SECTION_NAME = 16;
/** Shorter arrays are not worth packing. */
export const MIN_PACKED = 16;

/** Bit of a list's header: it replaces weaker lists. */
export const LIST_EXPLICIT = 1;
/** Bit of a list's header: explicit items follow. */
export const LIST_HAS_EXPLICIT = 2;
/** Bit of a list's header: added items follow. */
export const LIST_ADDED = 4;
/** Bit of a list's header: deleted items follow. */
export const LIST_DELETED = 8;
/** Bit of a list's header: ordered items follow. */
export const LIST_ORDERED = 16;
/** Bit of a list's header: prepended items follow. */
export const LIST_PREPENDED = 32;
/** Bit of a list's header: appended items follow. */
export const LIST_APPENDED = 64;

/** Numbers per element of a type, and how each is held. */
export const LAYOUT: Partial<
  Record<
    CrateType,
    { width: number; scalar: 'uchar' | 'int' | 'uint' | 'int64' | 'uint64' | 'half' | 'float' | 'double' }
  >
> = {
  bool: { width: 1, scalar: 'uchar' },
  uchar: { width: 1, scalar: 'uchar' },
  int: { width: 1, scalar: 'int' },
  uint: { width: 1, scalar: 'uint' },
  int64: { width: 1, scalar: 'int64' },
  uint64: { width: 1, scalar: 'uint64' },
  half: { width: 1, scalar: 'half' },
  float: { width: 1, scalar: 'float' },
  double: { width: 1, scalar: 'double' },
  timecode: { width: 1, scalar: 'double' },
  matrix2d: { width: 4, scalar: 'double' },
  matrix3d: { width: 9, scalar: 'double' },
  matrix4d: { width: 16, scalar: 'double' },
  quatd: { width: 4, scalar: 'double' },
  quatf: { width: 4, scalar: 'float' },
  quath: { width: 4, scalar: 'half' },
  double2: { width: 2, scalar: 'double' },
  float2: { width: 2, scalar: 'float' },
  half2: { width: 2, scalar: 'half' },
  int2: { width: 2, scalar: 'int' },
  double3: { width: 3, scalar: 'double' },
  float3: { width: 3, scalar: 'float' },
  half3: { width: 3, scalar: 'half' },
  int3: { width: 3, scalar: 'int' },
  double4: { width: 4, scalar: 'double' },
  float4: { width: 4, scalar: 'float' },
  half4: { width: 4, scalar: 'half' },
  int4: { width: 4, scalar: 'int' },
};

/** Bytes of one component of a type of number, as arrays store them. */
export const SCALAR_BYTES = {
  uchar: 1,
  int: 4,
  uint: 4,
  int64: 8,
  uint64: 8,
  half: 2,
  float: 4,
  double: 8,
} as const;
