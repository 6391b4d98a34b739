import {
  AssetPath,
  isListOp,
  type ListOp,
  type NumberArray,
  type PrimSpec,
  type PropertySpec,
  shapeOfType,
  type UsdLayer,
  UsdPath,
  type UsdReference,
  type UsdValue,
} from './layer.ts';

/** Numbers on one line of a long array before it is broken. */
const LINE_ELEMENTS = 256;
const PATH_LISTS = new Set(['inherits', 'specializes']);
const LIST_OPS = new Set(['references', 'payload', 'inherits', 'specializes', 'apiSchemas', 'variantSets']);

/** Writes a layer as text; the same layer always gives the same bytes. */
export function writeUsda(layer: UsdLayer): Uint8Array {
  const out: string[] = ['#usda 1.0'];
  const metadata = metadataLines(layer.metadata, '    ');
  if (metadata.length > 0) out.push('(', ...metadata, ')');
  for (const prim of layer.prims) {
    out.push('');
    writePrim(out, prim, '');
  }
  return new TextEncoder().encode(`${out.join('\n')}\n`);
}

function writePrim(out: string[], prim: PrimSpec, indent: string): void {
  const head = [prim.specifier, prim.typeName, quote(prim.name)].filter(Boolean).join(' ');
  const metadata = metadataLines(prim.metadata, `${indent}    `);
  if (prim.variantSets.size > 0 && !('variantSets' in prim.metadata))
    metadata.push(
      `${indent}    prepend variantSets = [${[...prim.variantSets.keys()].map(quote).join(', ')}]`,
    );
  out.push(metadata.length > 0 ? `${indent}${head} (` : `${indent}${head}`);
  if (metadata.length > 0) out.push(...metadata, `${indent})`);
  out.push(`${indent}{`);
  writeBody(out, prim, `${indent}    `);
  out.push(`${indent}}`);
}

function writeBody(out: string[], prim: PrimSpec, indent: string): void {
  for (const property of prim.properties.values()) writeProperty(out, property, indent);
  for (const [set, variants] of prim.variantSets) {
    out.push(`${indent}variantSet ${quote(set)} = {`);
    for (const [name, variant] of variants) {
      out.push(`${indent}    ${quote(name)} {`);
      writeBody(out, variant, `${indent}        `);
      out.push(`${indent}    }`);
    }
    out.push(`${indent}}`);
  }
  for (const child of prim.children) {
    out.push('');
    writePrim(out, child, indent);
  }
}

function writeProperty(out: string[], property: PropertySpec, indent: string): void {
  const { name, kind, typeName, custom, uniform, value, timeSamples, targets } = property;
  const lead = `${indent}${custom ? 'custom ' : ''}${uniform ? 'uniform ' : ''}`;
  const metadata = metadataLines(property.metadata, `${indent}    `);
  const tail = metadata.length > 0 ? ` (\n${metadata.join('\n')}\n${indent})` : '';
  if (kind === 'relationship') {
    out.push(`${lead}rel ${name}${targets.length > 0 ? ` = ${targetText(targets)}` : ''}${tail}`);
    return;
  }
  const shape = shapeOfType(typeName);
  const text = (item: UsdValue) =>
    valueText(item, shape.width, shape.scalar === 'float' || shape.scalar === 'half', shape.array);
  if (value !== undefined || (!timeSamples && targets.length === 0))
    out.push(`${lead}${typeName} ${name}${value === undefined ? '' : ` = ${text(value)}`}${tail}`);
  if (timeSamples) {
    out.push(`${lead}${typeName} ${name}.timeSamples = {`);
    for (const [time, sample] of timeSamples)
      out.push(`${indent}    ${numberText(time, false)}: ${text(sample)},`);
    out.push(`${indent}}${value === undefined ? tail : ''}`);
  }
  if (targets.length > 0)
    out.push(
      `${lead}${typeName} ${name}.connect = ${targetText(targets)}${value === undefined && !timeSamples ? tail : ''}`,
    );
}

function targetText(targets: string[]): string {
  return targets.length === 1 ? `<${targets[0]}>` : `[${targets.map((target) => `<${target}>`).join(', ')}]`;
}

function metadataLines(metadata: Record<string, UsdValue>, indent: string): string[] {
  const lines: string[] = [];
  for (const [name, value] of Object.entries(metadata)) {
    if (value === undefined) continue;
    if (isListOp(value)) lines.push(...listOpLines(name, value, indent));
    else if (LIST_OPS.has(name))
      lines.push(`${indent}${name} = ${itemsText(name, value as (string | UsdReference)[])}`);
    else if (name === 'subLayers' && Array.isArray(value))
      lines.push(`${indent}subLayers = [${(value as string[]).map(assetText).join(', ')}]`);
    else if (name === 'comment') lines.push(`${indent}${quote(String(value))}`);
    else lines.push(`${indent}${name} = ${anyText(value, indent)}`);
  }
  return lines;
}

function listOpLines(name: string, op: ListOp, indent: string): string[] {
  const lines: string[] = [];
  if (op.explicit) lines.push(`${indent}${name} = ${itemsText(name, op.explicit as string[])}`);
  if (op.deleted.length > 0)
    lines.push(`${indent}delete ${name} = ${itemsText(name, op.deleted as string[])}`);
  if (op.prepended.length > 0)
    lines.push(`${indent}prepend ${name} = ${itemsText(name, op.prepended as string[])}`);
  if (op.appended.length > 0)
    lines.push(`${indent}append ${name} = ${itemsText(name, op.appended as string[])}`);
  return lines;
}

function itemsText(name: string, items: (string | number | UsdReference)[]): string {
  const texts = items.map((item) => {
    if (typeof item === 'object')
      return `${item.asset === '' ? '' : assetText(item.asset)}${item.prim === '' ? '' : `<${item.prim}>`}`;
    return itemText(name, item);
  });
  return texts.length === 1 && (name === 'references' || name === 'payload')
    ? texts[0]
    : `[${texts.join(', ')}]`;
}

function itemText(name: string, item: string | number): string {
  if (PATH_LISTS.has(name)) return `<${item}>`;
  return typeof item === 'string' ? quote(item) : String(item);
}

/** A value whose type is told by its own kind: metadata. */
function anyText(value: UsdValue, indent: string): string {
  if (value instanceof AssetPath) return assetText(value.path);
  if (value instanceof UsdPath) return `<${value.path}>`;
  if (typeof value === 'object' && value !== null && !Array.isArray(value) && !ArrayBuffer.isView(value)) {
    const entries = Object.entries(value as Record<string, UsdValue>).map(
      ([key, entry]) =>
        `${indent}    ${dictionaryType(entry)} ${identifierOrQuoted(key)} = ${anyText(entry, `${indent}    `)}`,
    );
    return entries.length === 0 ? `{\n${indent}}` : `{\n${entries.join('\n')}\n${indent}}`;
  }
  return valueText(
    value,
    ArrayBuffer.isView(value) ? (value as NumberArray).length : 1,
    false,
    Array.isArray(value),
  );
}

function dictionaryType(value: UsdValue): string {
  if (typeof value === 'string') return 'string';
  if (typeof value === 'boolean') return 'bool';
  if (typeof value === 'number') return Number.isInteger(value) ? 'int' : 'double';
  if (value instanceof AssetPath) return 'asset';
  if (Array.isArray(value)) return 'string[]';
  return ArrayBuffer.isView(value) ? 'double[]' : 'dictionary';
}

function identifierOrQuoted(key: string): string {
  return /^[A-Za-z_][A-Za-z0-9_]*$/.test(key) ? key : quote(key);
}

function valueText(value: UsdValue, width: number, single: boolean, array: boolean): string {
  if (value === null) return 'None';
  if (typeof value === 'string') return quote(value);
  if (typeof value === 'number') return numberText(value, single);
  if (typeof value === 'boolean') return value ? 'true' : 'false';
  if (typeof value === 'bigint') return value.toString();
  if (value instanceof AssetPath) return assetText(value.path);
  if (Array.isArray(value))
    return `[${value.map((item) => (item instanceof AssetPath ? assetText(item.path) : quote(String(item)))).join(', ')}]`;
  if (!ArrayBuffer.isView(value)) return 'None';
  const numbers = value as NumberArray;
  const side = matrixSide(width);
  if (!array)
    return side > 0 && numbers.length === width
      ? matrixText(numbers, 0, side)
      : tuple(numbers, 0, numbers.length, single);
  const parts: string[] = [];
  for (let offset = 0, n = 0; offset + width <= numbers.length; offset += width, n += 1) {
    const plain = () =>
      width === 1 ? numberText(Number(numbers[offset]), single) : tuple(numbers, offset, width, single);
    const text = side > 0 ? matrixText(numbers, offset, side) : plain();
    parts.push(n > 0 && n % LINE_ELEMENTS === 0 ? `\n${text}` : text);
  }
  return `[${parts.join(', ')}]`;
}

function matrixSide(width: number) {
  if (width === 16) return 4;
  return width === 9 ? 3 : 0;
}

function tuple(numbers: NumberArray, offset: number, width: number, single: boolean): string {
  let text = '(';
  for (let k = 0; k < width; k += 1)
    text += `${k > 0 ? ', ' : ''}${numberText(Number(numbers[offset + k]), single)}`;
  return `${text})`;
}

function matrixText(numbers: NumberArray, offset: number, side: number): string {
  const rows = Array.from({ length: side }, (_, row) => tuple(numbers, offset + row * side, side, false));
  return `( ${rows.join(', ')} )`;
}

/** Single-precision numbers need nine digits to come back the same. */
function numberText(value: number, single: boolean): string {
  if (Number.isInteger(value)) return Object.is(value, -0) ? '0' : String(value).replace('e+', 'e');
  if (!Number.isFinite(value)) return specialNumber(value);
  return (single ? String(Number(value.toPrecision(9))) : String(value)).replace('e+', 'e');
}

function specialNumber(value: number): string {
  if (Number.isNaN(value)) return 'nan';
  return value > 0 ? 'inf' : '-inf';
}

/** A path between signs; one that holds the sign itself between three of them. */
function assetText(path: string): string {
  return path.includes('@') ? `@@@${path.replaceAll('@@@', '\\@@@')}@@@` : `@${path}@`;
}

function quote(text: string): string {
  const escaped = text
    .replaceAll('\\', '\\\\')
    .replaceAll('"', '\\"')
    .replaceAll('\n', '\\n')
    .replaceAll('\r', '\\r')
    .replaceAll('\t', '\\t');
  return `"${escaped}"`;
}
