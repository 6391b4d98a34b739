import { KinkajouError } from '../../errors.ts';
import { ByteSink } from '../byteSink.ts';
import { BOOTSTRAP_SIZE, MAGIC, SECTION_NAME, SPEC } from './crate.ts';
import { encodeIntegers } from './integerCoding.ts';
import {
  createListOp,
  isListOp,
  type PrimSpec,
  type PropertySpec,
  type UsdLayer,
  type UsdValue,
} from './layer.ts';
import { packBlocks } from './lz4.ts';
import { type CrateTables, ValueWriter } from './writeCrateValue.ts';

/** Version 0.8: the last that every reader of the past years knows. */
const VERSION = [0, 8, 0];
/** Stands first among the words, so that no element has number 0, whose sign could not tell a property. */
const FIRST_TOKEN = ';-)';
const SPECIFIER_NUMBER = { def: 0, over: 1, class: 2 } as const;
const TOKEN_METADATA = new Set([
  'kind',
  'interpolation',
  'colorSpace',
  'upAxis',
  'defaultPrim',
  'renderInterpolation',
  'permission',
]);
const DOUBLE_METADATA = new Set([
  'metersPerUnit',
  'kilogramsPerUnit',
  'timeCodesPerSecond',
  'framesPerSecond',
  'startTimeCode',
  'endTimeCode',
]);

/**
 * Writes a layer in binary form; the same layer always gives the same bytes. Throws `usd.write` for variant
 * sets.
 */
export function writeUsdc(layer: UsdLayer): Uint8Array {
  return new CrateWriter().write(layer);
}

class CrateWriter {
  private readonly out = new ByteSink();
  private readonly tables: CrateTables = {
    tokens: createTable(),
    strings: [],
    stringNumbers: new Map(),
    paths: createTable(),
  };
  private readonly values: ValueWriter;
  private readonly fields: { token: number; rep: bigint }[] = [];
  private readonly fieldNumbers = new Map<string, number>();
  private readonly fieldSets: number[] = [];
  private readonly setNumbers = new Map<string, number>();
  private readonly specs: { path: number; set: number; kind: number }[] = [];

  constructor() {
    this.out.zeros(BOOTSTRAP_SIZE);
    this.tables.tokens.add(FIRST_TOKEN);
    this.tables.paths.add('/');
    this.values = new ValueWriter(this.out, this.tables);
  }

  write(layer: UsdLayer): Uint8Array {
    this.addRoot(layer);
    for (const prim of layer.prims) this.addPrim(prim, `/${prim.name}`);
    const sections: { name: string; start: number; size: number }[] = [];
    const section = (name: string, body: () => void) => {
      this.out.align(8);
      const start = this.out.length;
      body();
      sections.push({ name, start, size: this.out.length - start });
    };
    const tree = pathTree(this.tables.paths, (element) => this.tables.tokens.add(element));
    section('TOKENS', () => this.writeTokens());
    section('STRINGS', () => {
      this.out.u64(this.tables.strings.length);
      for (const token of this.tables.strings) this.out.u32(token);
    });
    section('FIELDS', () => this.writeFields());
    section('FIELDSETS', () => {
      this.out.u64(this.fieldSets.length);
      this.packed(encodeIntegers(this.fieldSets));
    });
    section('PATHS', () => {
      this.out.u64(this.tables.paths.list.length);
      this.out.u64(tree.numbers.length);
      this.packed(encodeIntegers(tree.numbers));
      this.packed(encodeIntegers(tree.elements));
      this.packed(encodeIntegers(tree.jumps));
    });
    section('SPECS', () => {
      this.out.u64(this.specs.length);
      this.packed(encodeIntegers(this.specs.map((spec) => spec.path)));
      this.packed(encodeIntegers(this.specs.map((spec) => spec.set)));
      this.packed(encodeIntegers(this.specs.map((spec) => spec.kind)));
    });
    return this.close(sections);
  }

  private close(sections: { name: string; start: number; size: number }[]): Uint8Array {
    this.out.align(8);
    const toc = this.out.length;
    this.out.u64(sections.length);
    for (const { name, start, size } of sections) {
      this.out.text(name.padEnd(SECTION_NAME, '\0'));
      this.out.u64(start);
      this.out.u64(size);
    }
    const bytes = this.out.finish();
    for (let i = 0; i < MAGIC.length; i += 1) bytes[i] = MAGIC.charCodeAt(i);
    bytes.set(VERSION, 8);
    new DataView(bytes.buffer).setBigUint64(16, BigInt(toc), true);
    return bytes;
  }

  private writeTokens(): void {
    const text = new TextEncoder().encode(`${this.tables.tokens.list.join('\0')}\0`);
    this.out.u64(this.tables.tokens.list.length);
    this.out.u64(text.length);
    this.packed(packBlocks(text));
  }

  private writeFields(): void {
    this.out.u64(this.fields.length);
    this.packed(encodeIntegers(this.fields.map((field) => field.token)));
    const reps = new BigUint64Array(this.fields.map((field) => field.rep));
    this.packed(packBlocks(new Uint8Array(reps.buffer)));
  }

  private packed(bytes: Uint8Array): void {
    this.out.u64(bytes.length);
    this.out.bytes(bytes);
  }

  private addRoot(layer: UsdLayer): void {
    const fields = this.metadataFields(layer.metadata);
    const { subLayers } = layer.metadata;
    if (Array.isArray(subLayers))
      fields.push(['subLayerOffsets', this.values.layerOffsets(subLayers.length)]);
    if (layer.prims.length > 0)
      fields.push(['primChildren', this.values.tokenVector(layer.prims.map((prim) => prim.name))]);
    this.addSpec('/', SPEC.pseudoRoot, fields);
  }

  private addPrim(prim: PrimSpec, path: string): void {
    if (prim.variantSets.size > 0)
      throw new KinkajouError(
        'usd.write',
        'variant sets are not written in binary form',
        {},
        'Write the layer as text.',
      );
    const fields: [string, bigint][] = [
      ['specifier', this.values.enumeration('specifier', SPECIFIER_NUMBER[prim.specifier])],
    ];
    if (prim.typeName !== '') fields.push(['typeName', this.values.token(prim.typeName)]);
    fields.push(...this.metadataFields(prim.metadata));
    const names = [...prim.properties.keys()];
    if (names.length > 0) fields.push(['properties', this.values.tokenVector(names)]);
    if (prim.children.length > 0)
      fields.push(['primChildren', this.values.tokenVector(prim.children.map((child) => child.name))]);
    this.addSpec(path, SPEC.prim, fields);
    for (const property of prim.properties.values()) this.addProperty(property, `${path}.${property.name}`);
    for (const child of prim.children) this.addPrim(child, `${path}/${child.name}`);
  }

  private addProperty(property: PropertySpec, path: string): void {
    const { values } = this;
    const fields: [string, bigint][] = [];
    const relationship = property.kind === 'relationship';
    if (!relationship) fields.push(['typeName', values.token(property.typeName)]);
    if (property.custom) fields.push(['custom', values.bool(true)]);
    if (property.uniform || relationship) fields.push(['variability', values.enumeration('variability', 1)]);
    if (property.value !== undefined)
      fields.push(['default', values.typed(property.typeName, property.value)]);
    if (property.timeSamples)
      fields.push(['timeSamples', values.timeSamples(property.typeName, property.timeSamples)]);
    if (property.targets.length > 0)
      fields.push([
        relationship ? 'targetPaths' : 'connectionPaths',
        values.pathListOp(createListOp({ explicit: property.targets })),
      ]);
    fields.push(...this.metadataFields(property.metadata));
    this.addSpec(path, relationship ? SPEC.relationship : SPEC.attribute, fields);
  }

  private metadataFields(metadata: Record<string, UsdValue>): [string, bigint][] {
    return Object.entries(metadata)
      .filter(([, value]) => value !== undefined)
      .map(([name, value]) => this.metadataField(name, value));
  }

  private metadataField(name: string, value: UsdValue): [string, bigint] {
    const { values } = this;
    const plain = Array.isArray(value) ? createListOp({ explicit: value as string[] }) : null;
    const list = isListOp(value) ? value : plain;
    if (list) {
      if (name === 'references' || name === 'payload') return [name, values.referenceListOp(name, list)];
      if (name === 'inherits' || name === 'specializes')
        return [name === 'inherits' ? 'inheritPaths' : name, values.pathListOp(list)];
      if (name === 'subLayers') return [name, values.stringVector(value as string[])];
      return [name, values.tokenListOp(list)];
    }
    if (typeof value === 'string')
      return [name, TOKEN_METADATA.has(name) ? values.token(value) : values.string(value)];
    if (typeof value === 'boolean') return [name, values.bool(value)];
    if (typeof value === 'number') return [name, values.typed(numberType(name, value), value)];
    if (name === 'variants')
      return ['variantSelection', values.variantSelection(value as Record<string, UsdValue>)];
    return [name, values.dictionary(value as Record<string, UsdValue>)];
  }

  private addSpec(path: string, kind: number, fields: [string, bigint][]): void {
    const numbers = fields.map(([name, rep]) => {
      const token = this.tables.tokens.add(name);
      const key = `${token} ${rep}`;
      let number = this.fieldNumbers.get(key);
      if (number === undefined) {
        number = this.fields.push({ token, rep }) - 1;
        this.fieldNumbers.set(key, number);
      }
      return number;
    });
    const key = numbers.join(' ');
    let set = this.setNumbers.get(key);
    if (set === undefined) {
      set = this.fieldSets.length;
      this.fieldSets.push(...numbers, -1);
      this.setNumbers.set(key, set);
    }
    this.specs.push({ path: this.tables.paths.add(path), set, kind });
  }
}

interface Table {
  list: string[];
  add(text: string): number;
}

function numberType(name: string, value: number): string {
  if (DOUBLE_METADATA.has(name)) return 'double';
  return Number.isInteger(value) ? 'int' : 'double';
}

function createTable(): Table {
  const list: string[] = [];
  const numbers = new Map<string, number>();
  return {
    list,
    add(text) {
      let number = numbers.get(text);
      if (number === undefined) {
        number = list.push(text) - 1;
        numbers.set(text, number);
      }
      return number;
    },
  };
}

interface PathNode {
  number: number;
  element: string;
  property: boolean;
  children: PathNode[];
}

/**
 * Paths as the tree that the file keeps, depth first; paths that are only stood on the way get numbers of
 * their own.
 */
function pathTree(
  paths: Table,
  tokenOf: (element: string) => number,
): { numbers: number[]; elements: number[]; jumps: number[] } {
  const root: PathNode = { number: 0, element: '', property: false, children: [] };
  const existing = new Map<string, PathNode>([['/', root]]);
  const ensure = (path: string, number: number): PathNode => {
    const pathNode = existing.get(path);
    if (pathNode) return pathNode;
    const dot = path.indexOf('.', path.lastIndexOf('/'));
    const cut = dot >= 0 ? dot : path.lastIndexOf('/');
    const parentPath = dot >= 0 ? path.slice(0, dot) : path.slice(0, cut) || '/';
    const parent = existing.get(parentPath) ?? ensure(parentPath, paths.add(parentPath));
    const node = { number, element: path.slice(cut + 1), property: dot >= 0, children: [] };
    parent.children.push(node);
    existing.set(path, node);
    return node;
  };
  const given = paths.list.length;
  for (let i = 0; i < given; i += 1) ensure(paths.list[i], i);
  const numbers: number[] = [];
  const elements: number[] = [];
  const jumps: number[] = [];
  const visit = (node: PathNode, hasSibling: boolean): void => {
    const offset = numbers.length;
    const token = tokenOf(node.element === '' ? FIRST_TOKEN : node.element);
    numbers.push(node.number);
    elements.push(node.property ? -token : token);
    jumps.push(0);
    node.children.forEach((child, i) => visit(child, i + 1 < node.children.length));
    const hasChild = node.children.length > 0;
    jumps[offset] = jumpOf(hasChild, hasSibling, numbers, offset);
  };
  visit(root, false);
  return { numbers, elements, jumps };
}

function jumpOf(hasChild: boolean, hasSibling: boolean, numbers: number[], offset: number): number {
  if (hasChild) return hasSibling ? numbers.length - offset : -1;
  return hasSibling ? 0 : -2;
}
