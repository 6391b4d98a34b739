import type { CustomValue } from '../../scene/document.ts';
import { type FbxNode, type FbxProperty, NAME_SEPARATOR } from './tree.ts';

/** Short hands for building records. */
export const S = (value: string): FbxProperty => ({ type: 'S', value });
/** A 32-bit integer property. */
export const I = (value: number): FbxProperty => ({ type: 'I', value });
/** A 64-bit float property. */
export const D = (value: number): FbxProperty => ({ type: 'D', value });
/** A 64-bit integer property: ids and times. */
export const L = (value: number | bigint): FbxProperty => ({ type: 'L', value: BigInt(value) });
/** A property of raw bytes. */
export const R = (value: Uint8Array): FbxProperty => ({ type: 'R', value });

/** A record of the file with its properties and the records inside it. */
export function record(name: string, properties: FbxProperty[] = [], children: FbxNode[] = []): FbxNode {
  return { name, properties, children };
}

/** A record whose one property is an array of 64-bit floats. */
export function doubles(name: string, values: ArrayLike<number>): FbxNode {
  return record(name, [
    { type: 'd', value: values instanceof Float64Array ? values : Float64Array.from(values) },
  ]);
}

/** A record whose one property is an array of 32-bit integers. */
export function integers(name: string, values: ArrayLike<number>): FbxNode {
  return record(name, [
    { type: 'i', value: values instanceof Int32Array ? values : Int32Array.from(values) },
  ]);
}

/** A record whose one property is an array of 32-bit floats. */
export function floats(name: string, values: ArrayLike<number>): FbxNode {
  return record(name, [{ type: 'f', value: Float32Array.from(values) }]);
}

/** What an object is called; its class is its kind unless another is given. */
interface ObjectName {
  name?: string;
  subclass?: string;
  className?: string;
}

/** A record of the Objects section: id, name with class, subclass. */
export function object(
  kind: string,
  id: number,
  { name = '', subclass = '', className = kind }: ObjectName,
  children: FbxNode[],
): FbxNode {
  return record(kind, [L(id), S(`${name}${NAME_SEPARATOR}${className}`), S(subclass)], children);
}

/** The table of typed properties that an object carries. */
export function properties70(entries: FbxNode[]): FbxNode {
  return record('Properties70', [], entries);
}

/** Type, label and flags of an entry of Properties70. */
type EntryKind = readonly [type: string, label: string, flags: string];

/** One row of a Properties70 table: name, its three words of type, then its values. */
export function entry(name: string, kind: EntryKind, ...values: FbxProperty[]): FbxNode {
  return record('P', [S(name), ...kind.map(S), ...values]);
}

/** A row with a whole number. */
export const integerEntry = (name: string, value: number) => entry(name, ['int', 'Integer', ''], I(value));
/** A row with the number of a choice. */
export const enumEntry = (name: string, value: number) => entry(name, ['enum', '', ''], I(value));
/** A row with a yes or no, stored as 1 or 0. */
export const boolEntry = (name: string, value: boolean) => entry(name, ['bool', '', ''], I(value ? 1 : 0));
/** A row with a number that may be animated. */
export const numberEntry = (name: string, value: number) => entry(name, ['Number', '', 'A'], D(value));
/** A row with a number that may not be animated. */
export const doubleEntry = (name: string, value: number) => entry(name, ['double', 'Number', ''], D(value));
/** A row with a linear colour that may be animated. */
export const colourEntry = (name: string, value: readonly number[]) =>
  entry(name, ['Color', '', 'A'], D(value[0]), D(value[1]), D(value[2]));
/** A row with three numbers. */
export const vectorEntry = (name: string, value: readonly number[]) =>
  entry(name, ['Vector3D', 'Vector', ''], D(value[0]), D(value[1]), D(value[2]));
/** A row with text. */
export const textEntry = (name: string, value: string) => entry(name, ['KString', '', ''], S(value));
/** A row with a time in FBX ticks (46,186,158,000 a second). */
export const timeEntry = (name: string, ticks: bigint) => entry(name, ['KTime', 'Time', ''], L(ticks));

/** A property that a person or program added. */
export function customEntry(name: string, value: CustomValue): FbxNode {
  if (typeof value === 'string') return entry(name, ['KString', '', 'U'], S(value));
  if (typeof value === 'boolean') return entry(name, ['bool', '', 'U'], I(value ? 1 : 0));
  if (typeof value === 'number') return entry(name, ['double', 'Number', 'U'], D(value));
  return entry(name, [value.length === 3 ? 'Vector3D' : 'double', 'Vector', 'U'], ...value.map(D));
}
