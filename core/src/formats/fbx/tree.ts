/** One property of a record with the type code it has in the binary form. */
export type FbxProperty =
  | { type: 'Y' | 'C' | 'I' | 'F' | 'D'; value: number }
  | { type: 'L'; value: bigint }
  | { type: 'S'; value: string }
  | { type: 'R'; value: Uint8Array }
  | { type: 'f'; value: Float32Array }
  | { type: 'd'; value: Float64Array }
  | { type: 'i'; value: Int32Array }
  | { type: 'l'; value: BigInt64Array }
  | { type: 'b' | 'c'; value: Uint8Array };

/** A record: what stands in its line or header, and the records inside it. */
export interface FbxNode {
  name: string;
  properties: FbxProperty[];
  children: FbxNode[];
}

/** A whole file: its top-level records and version (7400 for 7.4). */
export interface FbxTree {
  version: number;
  binary: boolean;
  nodes: FbxNode[];
}

/** Separates name and class in binary names: `Hull\0\x01Model`. The text form writes `Model::Hull`. */
export const NAME_SEPARATOR = '\0\x01';

/** The first record of this name inside another. */
export function childOf(node: FbxNode | undefined, name: string): FbxNode | undefined {
  return node?.children.find((child) => child.name === name);
}

/** All records of this name inside another, in the order of the file. */
export function childrenOf(node: FbxNode | undefined, name: string): FbxNode[] {
  return node?.children.filter((child) => child.name === name) ?? [];
}

/** Property i as text; '' when it is absent. Numbers are written out. */
export function textAt(node: FbxNode | undefined, i: number): string {
  const property = node?.properties[i];
  if (!property) return '';
  return typeof property.value === 'object' ? '' : String(property.value);
}

/** Property i as a number; undefined when absent or not numeric. */
export function numberAt(node: FbxNode | undefined, i: number): number | undefined {
  const value = node?.properties[i]?.value;
  if (typeof value === 'number') return value;
  return typeof value === 'bigint' ? Number(value) : undefined;
}

/**
 * The numbers of an array record, wherever they stand: as one array property (7.x), as a list of single
 * properties (6.x), or under a child named `a` (7.x text). Undefined when the record is absent.
 */
export function numbersOf(node: FbxNode | undefined): Float64Array | undefined {
  if (!node) return undefined;
  const first = node.properties[0];
  if (first?.type === 'd') return first.value;
  if (first && (first.type === 'f' || first.type === 'i')) return Float64Array.from(first.value);
  if (first?.type === 'l') return Float64Array.from(first.value, Number);
  if (first && (first.type === 'b' || first.type === 'c')) return Float64Array.from(first.value);
  const list = node.properties;
  const out = new Float64Array(list.length);
  for (let i = 0; i < list.length; i += 1) out[i] = numberAt(node, i) ?? 0;
  return out;
}

/** As {@link numbersOf}, as whole numbers and without a copy where the file holds them so. */
export function integersOf(node: FbxNode | undefined): Int32Array | undefined {
  const first = node?.properties[0];
  if (first?.type === 'i') return first.value;
  const numbers = numbersOf(node);
  return numbers && Int32Array.from(numbers);
}
