import type { CustomValue } from '../../scene/document.ts';
import { type FbxNode, type FbxProperty, NAME_SEPARATOR } from './tree.ts';

/** Short hands for building records. */
export const S = (value: string): FbxProperty => ({ type: 'S', value });
export const I = (value: number): FbxProperty => ({ type: 'I', value });
export const D = (value: number): FbxProperty => ({ type: 'D', value });
export const L = (value: number | bigint): FbxProperty => ({ type: 'L', value: BigInt(value) });
export const R = (value: Uint8Array): FbxProperty => ({ type: 'R', value });

export function record(name: string, properties: FbxProperty[] = [], children: FbxNode[] = []): FbxNode {
  return { name, properties, children };
}

export function doubles(name: string, values: ArrayLike<number>): FbxNode {
  return record(name, [
    { type: 'd', value: values instanceof Float64Array ? values : Float64Array.from(values) },
  ]);
}

export function integers(name: string, values: ArrayLike<number>): FbxNode {
  return record(name, [
    { type: 'i', value: values instanceof Int32Array ? values : Int32Array.from(values) },
  ]);
}

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

export function properties70(entries: FbxNode[]): FbxNode {
  return record('Properties70', [], entries);
}

/** Type, label and flags of an entry of Properties70. */
type EntryKind = readonly [type: string, label: string, flags: string];

export function entry(name: string, kind: EntryKind, ...values: FbxProperty[]): FbxNode {
  return record('P', [S(name), ...kind.map(S), ...values]);
}

export const integerEntry = (name: string, value: number) => entry(name, ['int', 'Integer', ''], I(value));
export const enumEntry = (name: string, value: number) => entry(name, ['enum', '', ''], I(value));
export const boolEntry = (name: string, value: boolean) => entry(name, ['bool', '', ''], I(value ? 1 : 0));
export const numberEntry = (name: string, value: number) => entry(name, ['Number', '', 'A'], D(value));
export const doubleEntry = (name: string, value: number) => entry(name, ['double', 'Number', ''], D(value));
export const colourEntry = (name: string, value: readonly number[]) =>
  entry(name, ['Color', '', 'A'], D(value[0]), D(value[1]), D(value[2]));
export const vectorEntry = (name: string, value: readonly number[]) =>
  entry(name, ['Vector3D', 'Vector', ''], D(value[0]), D(value[1]), D(value[2]));
export const textEntry = (name: string, value: string) => entry(name, ['KString', '', ''], S(value));
export const timeEntry = (name: string, ticks: bigint) => entry(name, ['KTime', 'Time', ''], L(ticks));

/** A property that a person or program added. */
export function customEntry(name: string, value: CustomValue): FbxNode {
  if (typeof value === 'string') return entry(name, ['KString', '', 'U'], S(value));
  if (typeof value === 'boolean') return entry(name, ['bool', '', 'U'], I(value ? 1 : 0));
  if (typeof value === 'number') return entry(name, ['double', 'Number', 'U'], D(value));
  return entry(name, [value.length === 3 ? 'Vector3D' : 'double', 'Vector', 'U'], ...value.map(D));
}
