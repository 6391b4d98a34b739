import { KinkajouError } from '../../errors.ts';
import { BOOTSTRAP_SIZE, MAGIC, SECTION_NAME, SPEC } from './crate.ts';
import { decodeIntegers } from './integerCoding.ts';
import {
  createPrim,
  createProperty,
  type PrimSpec,
  type PropertySpec,
  type Specifier,
  type UsdLayer,
  type UsdValue,
} from './layer.ts';
import { unpackBlocks } from './lz4.ts';
import type { ParsedLayer } from './parseUsda.ts';
import { ValueReader } from './readCrateValue.ts';

/** Whether the bytes start with the header of a crate file. */
export function isUsdc(bytes: Uint8Array): boolean {
  for (let i = 0; i < MAGIC.length; i += 1) if (bytes[i] !== MAGIC.charCodeAt(i)) return false;
  return true;
}

/** Versions below keep their tables unpacked; the public tools have not written those since 2016. */
const FIRST_PACKED = 0x0004;
const SPECIFIERS: Specifier[] = ['def', 'over', 'class'];

/** Reads a binary layer, versions 0.4 to 0.10. A damaged value is left out; damaged tables give a fault. */
export function parseUsdc(bytes: Uint8Array, file = ''): ParsedLayer {
  const layer: UsdLayer = { metadata: {}, prims: [] };
  try {
    new CrateReader(bytes, file).readInto(layer);
    return { layer, fault: null };
  } catch (error) {
    const typed = typedFault(error, file);
    if (!typed) throw error;
    return { layer, fault: typed };
  }
}

interface SpecEntry {
  path: string;
  kind: number;
  fields: Map<string, UsdValue>;
}

class CrateReader {
  private readonly view: DataView;
  private readonly version: number;
  private readonly sections = new Map<string, { start: number; size: number }>();

  constructor(
    private readonly bytes: Uint8Array,
    private readonly file: string,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    if (bytes.length < BOOTSTRAP_SIZE) throw this.fault('the file is cut off in its header', 0);
    this.version = (bytes[8] << 8) | bytes[9];
    if (this.version < FIRST_PACKED) {
      throw new KinkajouError(
        'usd.version',
        `binary USD of version ${bytes[8]}.${bytes[9]} is too old to be read`,
        { file },
        'Save it again with a current program.',
      );
    }
    this.readSections();
  }

  readInto(layer: UsdLayer): void {
    const tokens = this.readTokens();
    const strings = this.readStrings(tokens);
    const paths = this.readPaths(tokens);
    const values = new ValueReader(this.bytes, this.version, { tokens, strings, paths });
    const fields = this.readFields(tokens);
    const sets = this.readFieldSets();
    const specs = this.readSpecs(paths, fields, sets, values);
    buildLayer(layer, specs);
  }

  private readSections(): void {
    const toc = Number(this.view.getBigInt64(16, true));
    if (toc < BOOTSTRAP_SIZE || toc + 8 > this.bytes.length)
      throw this.fault('the table of contents lies past the end: the file is cut off', 16);
    const count = Number(this.view.getBigUint64(toc, true));
    if (count > 64) throw this.fault('the table of contents is damaged', toc);
    for (let i = 0; i < count; i += 1) {
      const offset = toc + 8 + i * (SECTION_NAME + 16);
      if (offset + SECTION_NAME + 16 > this.bytes.length)
        throw this.fault('the table of contents is cut off', offset);
      const name = String.fromCharCode(...this.bytes.subarray(offset, offset + SECTION_NAME)).replace(
        /\0.*$/,
        '',
      );
      const start = Number(this.view.getBigInt64(offset + SECTION_NAME, true));
      const size = Number(this.view.getBigInt64(offset + SECTION_NAME + 8, true));
      if (start < 0 || size < 0 || start + size > this.bytes.length)
        throw this.fault(`section ${name} reaches past the end: the file is cut off`, offset);
      this.sections.set(name, { start, size });
    }
  }

  private section(name: string): Cursor {
    const section = this.sections.get(name);
    if (!section) throw this.fault(`section ${name} is missing`, 0);
    return new Cursor(
      this.bytes.subarray(section.start, section.start + section.size),
      section.start,
      this.file,
    );
  }

  private readTokens(): string[] {
    const cursor = this.section('TOKENS');
    const count = cursor.count(1);
    const size = cursor.u64();
    const raw = unpackBlocks(cursor.take(cursor.u64()), size);
    const decoder = new TextDecoder();
    const tokens: string[] = [];
    let start = 0;
    for (let i = 0; i < count; i += 1) {
      const end = raw.indexOf(0, start);
      if (end < 0) throw cursor.fault('the list of words is cut off');
      tokens.push(decoder.decode(raw.subarray(start, end)));
      start = end + 1;
    }
    return tokens;
  }

  private readStrings(tokens: string[]): string[] {
    const cursor = this.section('STRINGS');
    const count = cursor.count(4);
    return Array.from({ length: count }, () => tokens[cursor.u32()] ?? '');
  }

  private readFields(tokens: string[]): { name: string; rep: bigint }[] {
    const cursor = this.section('FIELDS');
    const count = cursor.count(0);
    const names = cursor.integers(count);
    const reps = unpackBlocks(cursor.take(cursor.u64()), count * 8);
    const view = new DataView(reps.buffer, reps.byteOffset, reps.byteLength);
    return Array.from(names, (token, i) => ({
      name: tokens[token] ?? '',
      rep: view.getBigUint64(i * 8, true),
    }));
  }

  /** Runs of field numbers, each closed by -1; a set is named by where its run starts. */
  private readFieldSets(): Int32Array {
    const cursor = this.section('FIELDSETS');
    return cursor.integers(cursor.count(0));
  }

  /**
   * Paths as a tree written depth first: per entry its number, its last element, and how far the next sibling
   * is.
   */
  private readPaths(tokens: string[]): string[] {
    const cursor = this.section('PATHS');
    const total = cursor.count(0);
    const count = cursor.count(0);
    const numbers = cursor.integers(count);
    const elements = cursor.integers(count);
    const jumps = cursor.integers(count);
    const paths = new Array<string>(total).fill('');
    const pending: [number, string | null][] = [[0, null]];
    let steps = 0;
    while (pending.length > 0) {
      let [offset, parent] = pending.pop() as [number, string | null];
      for (;;) {
        if (offset >= count) break;
        steps += 1;
        if (steps > count) throw cursor.fault('the tree of paths goes in circles');
        const path: string =
          parent === null
            ? '/'
            : join(parent, tokens[Math.abs(elements[offset])] ?? '', elements[offset] < 0);
        if (numbers[offset] >= 0 && numbers[offset] < total) paths[numbers[offset]] = path;
        const jump = jumps[offset];
        const hasChild = jump > 0 || jump === -1;
        const hasSibling = jump >= 0;
        if (hasChild) {
          if (hasSibling) pending.push([offset + jump, parent]);
          parent = path;
        } else if (!hasSibling) break;
        offset += 1;
      }
    }
    return paths;
  }

  private readSpecs(
    paths: string[],
    fields: { name: string; rep: bigint }[],
    sets: Int32Array,
    values: ValueReader,
  ): SpecEntry[] {
    const cursor = this.section('SPECS');
    const count = cursor.count(0);
    const pathNumbers = cursor.integers(count);
    const setNumbers = cursor.integers(count);
    const kinds = cursor.integers(count);
    const existing = new Map<number, Map<string, UsdValue>>();
    return Array.from(pathNumbers, (number, i) => {
      const start = setNumbers[i];
      let child = existing.get(start);
      if (!child) {
        child = new Map();
        for (let offset = start; offset >= 0 && offset < sets.length && sets[offset] !== -1; offset += 1) {
          const field = fields[sets[offset]];
          if (field) child.set(field.name, values.read(field.rep));
        }
        existing.set(start, child);
      }
      return { path: paths[number] ?? '', kind: kinds[i], fields: child };
    });
  }

  private fault(message: string, offset: number): KinkajouError {
    return new KinkajouError(
      'usd.broken',
      message,
      { file: this.file, offset },
      'Export or copy the file again.',
    );
  }
}

function typedFault(error: unknown, file: string) {
  if (error instanceof KinkajouError)
    return new KinkajouError(
      error.code,
      error.message,
      { file, ...error.place },
      error.hint || 'Export or copy the file again.',
    );
  return error instanceof RangeError
    ? new KinkajouError(
        'usd.broken',
        'the file is cut off or damaged',
        { file },
        'Export or copy the file again.',
      )
    : null;
}

function join(parent: string, element: string, property: boolean): string {
  if (property) return `${parent === '/' ? '' : parent}.${element}`;
  if (element.startsWith('{') || parent.endsWith('}')) return parent + element;
  return parent === '/' ? `/${element}` : `${parent}/${element}`;
}

/** Reads a section from its start, never past its end. */
class Cursor {
  private at = 0;
  private readonly view: DataView;

  constructor(
    private readonly bytes: Uint8Array,
    private readonly base: number,
    private readonly file: string,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  u32(): number {
    this.need(4);
    this.at += 4;
    return this.view.getUint32(this.at - 4, true);
  }

  u64(): number {
    this.need(8);
    this.at += 8;
    return Number(this.view.getBigUint64(this.at - 8, true));
  }

  /**
   * A count of entries; one that the section cannot hold is damage. Packed entries take at least a 2048th of
   * a byte.
   */
  count(bytesEach: number): number {
    const count = this.u64();
    const most =
      bytesEach > 0 && bytesEach !== 1
        ? (this.bytes.length - this.at) / bytesEach
        : (this.bytes.length + 16) * 2048;
    if (count > most) throw this.fault('a count is larger than the file can hold');
    return count;
  }

  take(size: number): Uint8Array {
    this.need(size);
    this.at += size;
    return this.bytes.subarray(this.at - size, this.at);
  }

  integers(count: number): Int32Array {
    return decodeIntegers(this.take(this.u64()), count);
  }

  fault(message: string): KinkajouError {
    return new KinkajouError('usd.broken', message, { file: this.file, offset: this.base + this.at });
  }

  private need(size: number): void {
    if (!(size >= 0) || this.at + size > this.bytes.length) throw this.fault('a section is cut off');
  }
}

const FIELD_TO_METADATA = new Set([
  'specifier',
  'typeName',
  'primChildren',
  'properties',
  'propertyChildren',
  'variantSetChildren',
  'variantChildren',
]);

/**
 * Puts specs under their prims. Specs come parents first only by habit, so prims are made as they are named.
 */
function buildLayer(layer: UsdLayer, specs: SpecEntry[]): void {
  const prims = new Map<string, PrimSpec>();
  const order = new Map<string, string[]>();
  for (const { path, kind, fields } of specs) {
    if (kind === SPEC.pseudoRoot) {
      for (const [name, value] of fields)
        if (!FIELD_TO_METADATA.has(name)) layer.metadata[metadataName(name)] = value;
      order.set('/', (fields.get('primChildren') as string[] | undefined) ?? []);
    } else if (kind === SPEC.prim || kind === SPEC.variant) {
      const name =
        kind === SPEC.variant
          ? path.slice(path.lastIndexOf('=') + 1, -1)
          : path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('}')) + 1);
      const prim = createPrim(
        name,
        (fields.get('typeName') as string | undefined) ?? '',
        SPECIFIERS[Number(fields.get('specifier') ?? 1)] ?? 'over',
      );
      for (const [field, value] of fields)
        if (!FIELD_TO_METADATA.has(field)) prim.metadata[metadataName(field)] = value;
      prims.set(path, prim);
      order.set(path, (fields.get('primChildren') as string[] | undefined) ?? []);
    }
  }
  for (const { path, kind, fields } of specs) {
    if (kind !== SPEC.attribute && kind !== SPEC.relationship) continue;
    const dot = path.indexOf('.', Math.max(path.lastIndexOf('/'), path.lastIndexOf('}')));
    const owner = prims.get(path.slice(0, dot));
    if (owner && dot >= 0)
      owner.properties.set(path.slice(dot + 1), toProperty(path.slice(dot + 1), kind, fields));
  }
  for (const [path, prim] of prims) {
    const variant = /^(.*)\{([^{}=]*)=([^{}]*)\}$/.exec(path);
    if (variant) {
      const owner = prims.get(variant[1]);
      if (!owner) continue;
      const set = owner.variantSets.get(variant[2]) ?? new Map<string, PrimSpec>();
      owner.variantSets.set(variant[2], set);
      set.set(variant[3], prim);
      continue;
    }
    const cut = Math.max(path.lastIndexOf('/'), path.lastIndexOf('}'));
    const above = path[cut] === '}' ? path.slice(0, cut + 1) : path.slice(0, cut);
    if (above === '') layer.prims.push(prim);
    else prims.get(above)?.children.push(prim);
  }
  sortByOrder(layer.prims, order.get('/') ?? []);
  for (const [path, prim] of prims) sortByOrder(prim.children, order.get(path) ?? []);
}

function sortByOrder(list: PrimSpec[], order: string[]): void {
  if (order.length === 0) return;
  const place = new Map(order.map((name, i) => [name, i]));
  list.sort((a, b) => (place.get(a.name) ?? list.length) - (place.get(b.name) ?? list.length));
}

function metadataName(field: string): string {
  if (field === 'inheritPaths') return 'inherits';
  if (field === 'variantSelection') return 'variants';
  return field === 'variantSetNames' ? 'variantSets' : field;
}

function toProperty(name: string, kind: number, fields: Map<string, UsdValue>): PropertySpec {
  const property = createProperty(name, (fields.get('typeName') as string | undefined) ?? '', {
    kind: kind === SPEC.relationship ? 'relationship' : 'attribute',
    custom: fields.get('custom') === true,
    uniform: kind === SPEC.attribute && Number(fields.get('variability') ?? 0) === 1,
  });
  for (const [field, value] of fields) {
    if (field === 'default') property.value = value;
    else if (field === 'timeSamples') property.timeSamples = value as unknown as Map<number, UsdValue>;
    else if (field === 'connectionPaths' || field === 'targetPaths') property.targets = pathTexts(value);
    else if (!['typeName', 'custom', 'variability', 'connectionChildren', 'targetChildren'].includes(field))
      property.metadata[field] = value;
  }
  return property;
}

function pathTexts(value: UsdValue): string[] {
  if (Array.isArray(value)) return value as string[];
  if (!value || typeof value !== 'object' || !('listOp' in value)) return [];
  const op = value as { explicit: string[] | null; prepended: string[]; appended: string[] };
  return op.explicit ?? [...op.prepended, ...op.appended];
}
