import { KinkajouError } from '../../errors.ts';
import { decodeText } from '../text.ts';
import {
  createListOp,
  createPrim,
  createProperty,
  type ListItems,
  type ListOp,
  MOST_NESTED,
  type NumberArray,
  type PrimSpec,
  type PropertySpec,
  type Specifier,
  shapeOfType,
  type TypeShape,
  type UsdDictionary,
  type UsdLayer,
  UsdPath,
  type UsdReference,
  type UsdValue,
} from './layer.ts';
import { UsdaWords } from './usdaWords.ts';

/** A layer, as far as it could be read. */
export interface ParsedLayer {
  layer: UsdLayer;
  /** The fault that ended reading early; what came before it is in the layer. */
  fault: KinkajouError | null;
}

/** Whether the bytes start with the header of a text layer; a byte order mark may stand before it. */
export function isUsda(bytes: Uint8Array): boolean {
  return /^\uFEFF?\s*#usda\s/.test(decodeText(bytes.subarray(0, 64)));
}

/** Reads a text layer. A fault ends reading; what stands before it is kept. */
export function parseUsda(bytes: Uint8Array, file = '', maxDepth = MOST_NESTED): ParsedLayer {
  const reader = new TextReader(decodeText(bytes), file, maxDepth);
  const layer: UsdLayer = { metadata: {}, prims: [] };
  try {
    reader.readLayer(layer);
    return { layer, fault: null };
  } catch (error) {
    if (!(error instanceof KinkajouError)) throw error;
    return { layer, fault: error };
  }
}

const LIST_WORDS = new Set(['prepend', 'append', 'delete', 'add', 'reorder']);
const SPECIFIERS = new Set(['def', 'over', 'class']);

class TextReader extends UsdaWords {
  constructor(
    text: string,
    file: string,
    private readonly maxDepth: number,
  ) {
    super(text, file);
  }

  readLayer(layer: UsdLayer): void {
    const header = /^\uFEFF?\s*#usda\s+[\d.]+/.exec(this.text);
    if (!header) throw this.fault('this file does not begin with #usda');
    this.at = header[0].length;
    if (this.peek() === '(') layer.metadata = this.metadata();
    while (this.peek() !== '') {
      const word = this.word();
      if (SPECIFIERS.has(word)) this.prim(word as Specifier, layer.prims, 0);
      else if (word === 'reorder') this.skipStatement();
      else throw this.fault(`"${word || this.peek()}" is no definition`);
    }
  }

  private prim(specifier: Specifier, into: PrimSpec[], depth: number): void {
    if (depth > this.maxDepth) throw this.fault(`prims nest deeper than ${this.maxDepth}`);
    const typeName = this.peek() === '"' || this.peek() === "'" ? '' : this.word();
    const prim = createPrim(this.quoted(), typeName, specifier);
    into.push(prim);
    if (this.peek() === '(') prim.metadata = this.metadata();
    this.expect('{');
    this.body(prim, depth);
  }

  private body(prim: PrimSpec, depth: number): void {
    for (;;) {
      const next = this.peek();
      if (next === '') throw this.fault('the file ends inside a prim');
      if (next === '}') {
        this.at += 1;
        return;
      }
      if (next === ';') {
        this.at += 1;
        continue;
      }
      const start = this.at;
      const word = this.word();
      if (SPECIFIERS.has(word)) this.prim(word as Specifier, prim.children, depth + 1);
      else if (word === 'variantSet') this.variantSet(prim, depth);
      else if (word === 'reorder') this.skipStatement();
      else {
        this.at = start;
        this.property(prim);
      }
    }
  }

  private variantSet(prim: PrimSpec, depth: number): void {
    const variants = new Map<string, PrimSpec>();
    prim.variantSets.set(this.quoted(), variants);
    this.expect('=');
    this.expect('{');
    while (this.peek() !== '}') {
      const variant = createPrim(this.quoted(), '', 'over');
      variants.set(variant.name, variant);
      if (this.peek() === '(') variant.metadata = this.metadata();
      this.expect('{');
      this.body(variant, depth + 1);
    }
    this.at += 1;
  }

  private property(prim: PrimSpec): void {
    let custom = false;
    let uniform = false;
    let operation = '';
    let word = this.word();
    for (;;) {
      if (word === 'custom') custom = true;
      else if (word === 'uniform') uniform = true;
      else if (word === 'varying' || word === 'config') uniform = false;
      else if (LIST_WORDS.has(word)) operation = word;
      else break;
      word = this.word();
    }
    if (word === '') throw this.fault(`"${this.peek()}" is not expected here`);
    if (word === 'rel') return this.relationship(prim, custom, operation);
    let typeName = word;
    if (this.peek() === '[') {
      this.at += 1;
      this.expect(']');
      typeName += '[]';
    }
    const name = this.word();
    if (name === '') throw this.fault('a property name is expected');
    const [bare, suffix] = splitSuffix(name);
    const property = this.ensure(prim, bare, typeName, 'attribute');
    property.custom ||= custom;
    property.uniform ||= uniform;
    if (this.peek() !== '=') {
      if (this.peek() === '(') Object.assign(property.metadata, this.metadata());
      return;
    }
    this.at += 1;
    if (suffix === 'timeSamples') property.timeSamples = this.timeSamples(shapeOfType(typeName));
    else if (suffix === 'connect') property.targets = this.paths(operation, property.targets);
    else if (suffix === '') property.value = this.typed(shapeOfType(typeName));
    else this.skipStatement();
    if (this.peek() === '(') Object.assign(property.metadata, this.metadata());
  }

  private relationship(prim: PrimSpec, custom: boolean, operation: string): void {
    const [name, suffix] = splitSuffix(this.word());
    if (name === '') throw this.fault('a relationship name is expected');
    const property = this.ensure(prim, name, '', 'relationship');
    property.custom ||= custom;
    if (this.peek() === '=') {
      this.at += 1;
      if (suffix === '') property.targets = this.paths(operation, property.targets);
      else this.skipStatement();
    }
    if (this.peek() === '(') Object.assign(property.metadata, this.metadata());
  }

  private ensure(prim: PrimSpec, name: string, typeName: string, kind: PropertySpec['kind']): PropertySpec {
    let property = prim.properties.get(name);
    if (!property) {
      property = createProperty(name, typeName, { kind });
      prim.properties.set(name, property);
    }
    return property;
  }

  private paths(operation: string, before: string[]): string[] {
    const items: string[] = [];
    const read = () => {
      if (this.peek() === '<') items.push(this.path());
      else if (this.word() !== 'None') throw this.fault('a path is expected');
    };
    if (this.peek() === '[') {
      this.at += 1;
      while (this.peek() !== ']') {
        read();
        if (this.peek() === ',') this.at += 1;
      }
      this.at += 1;
    } else read();
    if (operation === 'delete') return before.filter((path) => !items.includes(path));
    if (operation === '') return items;
    return operation === 'prepend' ? [...items, ...before] : [...before, ...items];
  }

  private timeSamples(shape: TypeShape): Map<number, UsdValue> {
    const samples = new Map<number, UsdValue>();
    this.expect('{');
    while (this.peek() !== '}') {
      const time = this.number();
      this.expect(':');
      samples.set(time, this.typed(shape) ?? null);
      if (this.peek() === ',') this.at += 1;
    }
    this.at += 1;
    return samples;
  }

  /** A value of a known type. */
  private typed(shape: TypeShape): UsdValue {
    const next = this.peek();
    if (next === 'N' && this.text.startsWith('None', this.at)) {
      this.at += 4;
      return null;
    }
    const { scalar, width, array } = shape;
    if (scalar === 'other') return this.value();
    if (scalar === 'string' || scalar === 'token')
      return array ? this.list(() => this.quoted()) : this.quoted();
    if (scalar === 'asset') return array ? this.list(() => this.asset()) : this.asset();
    if (!array && width === 1) return scalar === 'bool' ? this.bool() : this.number();
    const numbers = this.numbers();
    return toNumberArray(numbers, scalar);
  }

  /** All numbers of a nested list of brackets and parentheses, one after the other. */
  private numbers(): number[] {
    const out: number[] = [];
    let depth = 0;
    const { text } = this;
    for (;;) {
      this.skip();
      const code = text.charCodeAt(this.at);
      if (code === 91 || code === 40) depth += 1;
      else if (code === 93 || code === 41) depth -= 1;
      else if (code !== 44) {
        out.push(this.looseNumber());
        if (depth === 0) return out;
        continue;
      }
      this.at += 1;
      if (depth === 0) return out;
      if (Number.isNaN(code)) throw this.fault('the file ends inside a list');
    }
  }

  private looseNumber(): number {
    if (this.text.startsWith('true', this.at) || this.text.startsWith('false', this.at))
      return this.bool() ? 1 : 0;
    return this.number();
  }

  private list<T>(read: () => T): T[] {
    const out: T[] = [];
    this.expect('[');
    while (this.peek() !== ']') {
      out.push(read());
      if (this.peek() === ',') this.at += 1;
    }
    this.at += 1;
    return out;
  }

  /** A value whose type only its own look tells: metadata and unknown types. */
  private value(): UsdValue {
    const next = this.peek();
    switch (next) {
      case '"':
      case "'":
        return this.quoted();
      case '@':
        return this.referenceOrAsset();
      case '<':
        return new UsdPath(this.path());
      case '{':
        return this.dictionary();
      case '(':
        return Float64Array.from(this.numbers());
      case '[':
        return this.untypedList();
      default: {
        if (
          /[-+.\d]/.test(next) ||
          this.text.startsWith('inf', this.at) ||
          this.text.startsWith('nan', this.at)
        )
          return this.number();
        const word = this.word();
        if (word === 'true' || word === 'false') return word === 'true';
        if (word === 'None') return null;
        if (word === '') throw this.fault(`"${next}" is no value`);
        return word;
      }
    }
  }

  private untypedList(): UsdValue {
    const start = this.at;
    this.at += 1;
    const first = this.peek();
    this.at = start;
    if (first === '"' || first === "'") return this.list(() => this.quoted());
    if (first === '@' || first === '<') {
      return this.list(() => (this.peek() === '<' ? { asset: '', prim: this.path() } : this.reference()));
    }
    return Float64Array.from(this.numbers());
  }

  private dictionary(): UsdDictionary {
    const out: Record<string, UsdValue> = {};
    this.expect('{');
    while (this.peek() !== '}') {
      let type = this.word();
      if (this.peek() === '[') {
        this.at += 1;
        this.expect(']');
        type += '[]';
      }
      const name = this.peek() === '"' || this.peek() === "'" ? this.quoted() : this.word();
      this.expect('=');
      out[name] = type === 'dictionary' ? this.dictionary() : this.typed(shapeOfType(type));
      if (this.peek() === ',' || this.peek() === ';') this.at += 1;
    }
    this.at += 1;
    return out as UsdDictionary;
  }

  private metadata(): Record<string, UsdValue> {
    const out: Record<string, UsdValue> = {};
    this.expect('(');
    for (;;) {
      const next = this.peek();
      if (next === '') throw this.fault('the file ends inside metadata');
      if (next === ')') break;
      if (next === ';' || next === ',') {
        this.at += 1;
        continue;
      }
      if (next === '"' || next === "'") {
        out.comment = this.quoted();
        continue;
      }
      let word = this.word();
      let operation = '';
      if (LIST_WORDS.has(word)) {
        operation = word;
        word = this.word();
      }
      if (word === '') throw this.fault(`"${next}" is not expected in metadata`);
      this.expect('=');
      const value = this.metadataValue(word);
      out[word] = operation === '' ? value : mergeList(out[word], operation, asItems(value));
    }
    this.at += 1;
    return out;
  }

  private metadataValue(word: string): UsdValue {
    if (word === 'references' || word === 'payload') {
      if (this.peek() === '[') return this.list(() => this.reference());
      if (this.text.startsWith('None', this.at)) {
        this.at += 4;
        return [];
      }
      return [this.reference()];
    }
    if (word === 'inherits' || word === 'specializes') {
      if (this.peek() === '[') return this.list(() => this.path());
      if (this.peek() === '<') return [this.path()];
      this.value();
      return [];
    }
    if (word === 'subLayers') {
      return this.list(() => {
        const { asset } = this.reference();
        return asset;
      });
    }
    if (word === 'variants' || word === 'customData' || word === 'customLayerData' || word === 'assetInfo')
      return this.dictionary();
    return this.value();
  }

  private referenceOrAsset(): UsdValue {
    return this.asset();
  }

  /** `@file@</Prim> (offset = 1)` in any of its parts. */
  private reference(): UsdReference {
    const asset = this.peek() === '@' ? this.asset().path : '';
    const prim = this.peek() === '<' ? this.path() : '';
    if (asset === '' && prim === '') {
      if (this.word() !== 'None') throw this.fault('a reference is expected');
    }
    if (this.peek() === '(') this.metadata();
    return { asset, prim };
  }

  /** Passes over the rest of a statement that is not carried: `= value`. */
  private skipStatement(): void {
    if (this.peek() === '=') this.at += 1;
    while (/^[A-Za-z]/.test(this.peek()) && !/^(None|true|false)/.test(this.text.slice(this.at, this.at + 5)))
      this.word();
    if (this.peek() === '=') this.at += 1;
    if (this.peek() === '{') this.skipBlock();
    else if (/["'@<[(\d.+-]/.test(this.peek()) || this.text.startsWith('None', this.at)) this.value();
  }

  /** Passes over what stands between braces, whatever it is, texts and asset paths as a whole. */
  private skipBlock(): void {
    let depth = 0;
    do {
      const next = this.peek();
      if (next === '') throw this.fault('the file ends inside braces');
      if (next === '"' || next === "'") this.quoted();
      else if (next === '@') this.asset();
      else {
        if (next === '{') depth += 1;
        if (next === '}') depth -= 1;
        this.at += 1;
      }
    } while (depth > 0);
  }
}

function splitSuffix(name: string): [string, string] {
  const dot = name.lastIndexOf('.');
  return dot < 0 ? [name, ''] : [name.slice(0, dot), name.slice(dot + 1)];
}

function toNumberArray(numbers: number[], scalar: TypeShape['scalar']): NumberArray {
  if (scalar === 'int' || scalar === 'bool') return Int32Array.from(numbers);
  if (scalar === 'uint' || scalar === 'uchar') return Uint32Array.from(numbers);
  if (scalar === 'float' || scalar === 'half') return Float32Array.from(numbers);
  return Float64Array.from(numbers);
}

function asItems(value: UsdValue): ListItems {
  if (Array.isArray(value)) return value as ListItems;
  return typeof value === 'string' ? [value] : [];
}

function mergeList(before: UsdValue | undefined, operation: string, items: ListItems): ListOp {
  const existing =
    before && typeof before === 'object' && 'listOp' in before ? (before as ListOp) : createListOp();
  if (operation === 'prepend') return { ...existing, prepended: [...existing.prepended, ...items] };
  if (operation === 'delete') return { ...existing, deleted: [...existing.deleted, ...items] };
  return { ...existing, appended: [...existing.appended, ...items] };
}
