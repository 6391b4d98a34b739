import { own } from '../../own.ts';

/** How deep prims and dictionaries may nest: chains of bones are long. */
export const MOST_NESTED = 512;

/** A value of an attribute or of metadata, as both forms of USD hold it. */
export type UsdValue =
  | number
  | bigint
  | boolean
  | string
  | null
  | AssetPath
  | UsdPath
  | NumberArray
  | string[]
  | AssetPath[]
  | ListOp
  | UsdDictionary
  | UsdReference[];

/**
 * Numbers of an array of scalars, vectors, quaternions or matrices, one after the other. Single vectors are
 * arrays too.
 */
export type NumberArray = Float64Array | Float32Array | Int32Array | Uint32Array | BigInt64Array | Uint8Array;

/** `@textures/hull.png@`. */
export class AssetPath {
  constructor(readonly path: string) {}
}

/** `</Root/Mesh>`. */
export class UsdPath {
  constructor(readonly path: string) {}
}

/** A dictionary of metadata, such as `customData`. */
export type UsdDictionary = { [key: string]: UsdValue } & { readonly isDictionary?: never };

/** A target of a reference, payload or inherits arc. */
export interface UsdReference {
  /** '' for the layer itself. */
  asset: string;
  /** '' for the default prim. */
  prim: string;
}

/** An edited list: either given whole, or as items put before, after, or taken out. */
export interface ListOp {
  listOp: true;
  explicit: ListItems | null;
  prepended: ListItems;
  appended: ListItems;
  deleted: ListItems;
}

/** Items of a list that layers edit: paths and tokens, arcs, or numbers. */
export type ListItems = (string | UsdReference | number)[];

/**
 * What a prim says of itself: it defines, it adds to one that is defined elsewhere, or it is there to be
 * inherited.
 */
export type Specifier = 'def' | 'over' | 'class';

/** What one layer says of an attribute or relationship. */
export interface PropertySpec {
  name: string;
  kind: 'attribute' | 'relationship';
  /** `float3[]`, `token`, ... ; '' for relationships. */
  typeName: string;
  custom: boolean;
  uniform: boolean;
  /** Undefined when no default is written; null when it is blocked. */
  value: UsdValue | undefined;
  timeSamples: Map<number, UsdValue> | null;
  /** Connections of an attribute or targets of a relationship. */
  targets: string[];
  metadata: Record<string, UsdValue>;
}

/** What one layer says of a prim. */
export interface PrimSpec {
  name: string;
  specifier: Specifier;
  typeName: string;
  metadata: Record<string, UsdValue>;
  properties: Map<string, PropertySpec>;
  children: PrimSpec[];
  /** Set name to variant name to what the variant says. */
  variantSets: Map<string, Map<string, PrimSpec>>;
}

/** One layer: a file's own opinions, before any composition. */
export interface UsdLayer {
  metadata: Record<string, UsdValue>;
  prims: PrimSpec[];
}

/** A prim without properties or children. */
export function createPrim(
  name: string,
  typeName = '',
  specifier: Specifier = 'def',
  metadata: Record<string, UsdValue> = {},
): PrimSpec {
  return { name, specifier, typeName, metadata, properties: new Map(), children: [], variantSets: new Map() };
}

/** An attribute without value, unless `parts` says otherwise. */
export function createProperty(
  name: string,
  typeName: string,
  parts: Partial<PropertySpec> = {},
): PropertySpec {
  return {
    name,
    kind: 'attribute',
    typeName,
    custom: false,
    uniform: false,
    value: undefined,
    timeSamples: null,
    targets: [],
    metadata: {},
    ...parts,
  };
}

/** A list edit that does nothing, unless `parts` says otherwise. */
export function createListOp(parts: Partial<ListOp> = {}): ListOp {
  return { listOp: true, explicit: null, prepended: [], appended: [], deleted: [], ...parts };
}

/** Whether a value is an edit of a list, not a plain value. */
export function isListOp(value: UsdValue | undefined): value is ListOp {
  return typeof value === 'object' && value !== null && 'listOp' in value;
}

/** What a list operation leaves, applied to nothing. */
export function listItems(value: UsdValue | undefined): ListItems {
  if (Array.isArray(value)) return value as ListItems;
  if (!isListOp(value)) return [];
  return value.explicit ?? [...value.prepended, ...value.appended];
}

/** How the elements of a value type are built: scalar kind and numbers per element. */
export interface TypeShape {
  scalar:
    | 'int'
    | 'uint'
    | 'int64'
    | 'uint64'
    | 'uchar'
    | 'bool'
    | 'half'
    | 'float'
    | 'double'
    | 'string'
    | 'token'
    | 'asset'
    | 'timecode'
    | 'other';
  width: number;
  array: boolean;
}

const ROLES: Record<string, string> = {
  color3f: 'float3',
  color3d: 'double3',
  color3h: 'half3',
  color4f: 'float4',
  color4d: 'double4',
  color4h: 'half4',
  point3f: 'float3',
  point3d: 'double3',
  point3h: 'half3',
  normal3f: 'float3',
  normal3d: 'double3',
  normal3h: 'half3',
  vector3f: 'float3',
  vector3d: 'double3',
  vector3h: 'half3',
  texCoord2f: 'float2',
  texCoord2d: 'double2',
  texCoord2h: 'half2',
  texCoord3f: 'float3',
  texCoord3d: 'double3',
  texCoord3h: 'half3',
  frame4d: 'matrix4d',
};

/** `point3f[]` -> float, 3, array. Unknown types are `other`. */
export function shapeOfType(typeName: string): TypeShape {
  const array = typeName.endsWith('[]');
  const bare = array ? typeName.slice(0, -2) : typeName;
  const base = own(ROLES, bare) ?? bare;
  const matrix = /^matrix([234])d$/.exec(base);
  if (matrix) return { scalar: 'double', width: Number(matrix[1]) ** 2, array };
  const quaternion = /^quat([dfh])$/.exec(base);
  if (quaternion)
    return {
      scalar: quaternionScalar(quaternion),
      width: 4,
      array,
    };
  const vector = /^(int|half|float|double)([234])$/.exec(base);
  if (vector) return { scalar: vector[1] as TypeShape['scalar'], width: Number(vector[2]), array };
  const existing = [
    'int',
    'uint',
    'int64',
    'uint64',
    'uchar',
    'bool',
    'half',
    'float',
    'double',
    'string',
    'token',
    'asset',
    'timecode',
  ];
  return { scalar: existing.includes(base) ? (base as TypeShape['scalar']) : 'other', width: 1, array };
}

function quaternionScalar(
  quaternion: RegExpExecArray,
):
  | 'string'
  | 'double'
  | 'float'
  | 'half'
  | 'int'
  | 'uint'
  | 'int64'
  | 'uint64'
  | 'uchar'
  | 'bool'
  | 'token'
  | 'asset'
  | 'timecode'
  | 'other' {
  if (quaternion[1] === 'd') return 'double';
  return quaternion[1] === 'f' ? 'float' : 'half';
}
