import type { Vec3 } from '../../scene/document.ts';
import type { ComposedPrim, ComposedProperty } from './compose.ts';
import { AssetPath, type NumberArray, type UsdValue } from './layer.ts';

/** A property's value: its default, else its first sample. */
export function propertyValue(property: ComposedProperty | undefined): UsdValue | undefined {
  if (!property) return undefined;
  if (property.value !== undefined && property.value !== null) return property.value;
  if (property.timeSamples && property.timeSamples.size > 0)
    return property.timeSamples.get(Math.min(...property.timeSamples.keys()));
  return undefined;
}

/** Whether a property has motion: more than one sample, or one that stands beside what it is at rest. */
export function isMoving(property: ComposedProperty | undefined): boolean {
  const samples = property?.timeSamples?.size ?? 0;
  return samples > 1 || (samples === 1 && property?.value !== undefined && property.value !== null);
}

/** A value as one number; arrays of one count as their item, booleans as 1 and 0. */
export function numberOf(value: UsdValue | undefined): number | undefined {
  if (typeof value === 'number') return value;
  if (typeof value === 'bigint') return Number(value);
  if (typeof value === 'boolean') return value ? 1 : 0;
  return ArrayBuffer.isView(value) && (value as NumberArray).length === 1
    ? Number((value as NumberArray)[0])
    : undefined;
}

/** A value as 64-bit floats; vectors and matrices lie flat. Undefined when it holds no numbers. */
export function numbersOf(value: UsdValue | undefined): Float64Array | undefined {
  if (!ArrayBuffer.isView(value)) return undefined;
  if (value instanceof Float64Array) return value;
  return value instanceof BigInt64Array
    ? Float64Array.from(value, Number)
    : Float64Array.from(value as Float32Array);
}

/** A string, a token or the path of an asset as text. */
export function textOf(value: UsdValue | undefined): string | undefined {
  if (typeof value === 'string') return value;
  return value instanceof AssetPath ? value.path : undefined;
}

/** A value as list of strings; undefined when any item is none. */
export function textsOf(value: UsdValue | undefined): string[] | undefined {
  return Array.isArray(value) && value.every((item) => typeof item === 'string')
    ? (value as string[])
    : undefined;
}

/** The first three numbers of a value. */
export function vectorOf(value: UsdValue | undefined): Vec3 | undefined {
  const numbers = numbersOf(value);
  return numbers && numbers.length >= 3 ? [numbers[0], numbers[1], numbers[2]] : undefined;
}

/** An attribute of a prim; `get(prim, 'inputs:color', 'color')` takes the first that is written. */
export function get(prim: ComposedPrim, ...names: string[]): UsdValue | undefined {
  for (const name of names) {
    const value = propertyValue(prim.properties.get(name));
    if (value !== undefined) return value;
  }
  return undefined;
}

/** The first target of a relationship. */
export function targetOf(prim: ComposedPrim, name: string): string | undefined {
  return prim.properties.get(name)?.targets[0];
}
