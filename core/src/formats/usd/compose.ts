import { addRemark, addUncarried, type Remark } from '../../scene/document.ts';
import {
  isListOp,
  type ListItems,
  listItems,
  type PrimSpec,
  type PropertySpec,
  type Specifier,
  type UsdLayer,
  type UsdReference,
  type UsdValue,
} from './layer.ts';

/** A layer with its name and the layers it is weaker than none of: itself first, then its sublayers. */
export interface LayerStack {
  /** Path of the root layer in the parcel. */
  path: string;
  layers: { path: string; layer: UsdLayer }[];
}

/** A prim with every opinion about it applied. */
export interface ComposedPrim {
  name: string;
  path: string;
  typeName: string;
  specifier: Specifier;
  metadata: Record<string, UsdValue>;
  properties: Map<string, ComposedProperty>;
  children: ComposedPrim[];
}

/** A property as the strongest layer has it. */
export interface ComposedProperty extends PropertySpec {
  /** Path of the layer that the value stands in; asset paths are relative to it. */
  layer: string;
}

/** One opinion: a spec, the stack that it stands in, and how its paths are called in the stage. */
interface Opinion {
  spec: PrimSpec;
  layer: string;
  stack: LayerStack;
  /** Number of the place that it belongs to: a prim of one stack, as one arc has brought it in. */
  site: number;
  /** Path of the spec in its own layer. */
  at: string;
  maps: PathMap[];
}

/** Where opinions are gathered for, which targets led there, and which variants were chosen on the way. */
interface Way {
  path: string;
  seen: ReadonlySet<string>;
  selection: Map<string, string>;
}

interface PathMap {
  from: string;
  to: string;
}

/** Where composing gets further layers from, and its bounds: prims in each other and prims altogether. */
export interface ComposeHost {
  /** The stack of a layer named from another one; null when it is not there. */
  load(asset: string, from: string): Promise<LayerStack | null>;
  remarks: Remark[];
  maxDepth: number;
  maxPrims: number;
}

const ROOT: PathMap[] = [];

/**
 * Composes the prims of a stack: local opinions, inherits, variants, references, payloads, specializes, in
 * that order.
 */
export async function compose(stack: LayerStack, host: ComposeHost): Promise<ComposedPrim[]> {
  const composer = new Composer(host);
  return composer.children(
    stack.layers.map(({ path, layer }) => ({
      spec: rootOf(layer),
      layer: path,
      stack,
      site: 0,
      at: '/',
      maps: ROOT,
    })),
    '/',
    0,
  );
}

function rootOf(layer: UsdLayer): PrimSpec {
  return {
    name: '',
    specifier: 'def',
    typeName: '',
    metadata: {},
    properties: new Map(),
    children: layer.prims,
    variantSets: new Map(),
  };
}

class Composer {
  private prims = 0;
  private sites = 0;

  constructor(private readonly host: ComposeHost) {}

  async children(parents: Opinion[], path: string, depth: number): Promise<ComposedPrim[]> {
    if (depth > this.host.maxDepth) {
      addRemark(this.host.remarks, {
        code: 'read.composition',
        severity: 'error',
        subject: path,
        message: `prims nest deeper than ${this.host.maxDepth}`,
      });
      return [];
    }
    const names = new Map<string, Opinion[]>();
    for (const parent of parents) {
      for (const spec of parent.spec.children) {
        const list = names.get(spec.name) ?? [];
        names.set(spec.name, list);
        list.push({ ...parent, spec, at: joinPath(parent.at, spec.name) });
      }
    }
    const out: ComposedPrim[] = [];
    for (const [name, local] of names) {
      this.prims += 1;
      if (this.prims > this.host.maxPrims) {
        addRemark(this.host.remarks, {
          code: 'read.composition',
          severity: 'error',
          subject: 'prims',
          message: `there are more than ${this.host.maxPrims} prims; the rest was left out`,
        });
        break;
      }
      const prim = await this.prim(name, local, joinPath(path, name), depth);
      if (prim) out.push(prim);
    }
    return out;
  }

  private async prim(
    name: string,
    local: Opinion[],
    path: string,
    depth: number,
  ): Promise<ComposedPrim | null> {
    const opinions = await this.expand(local, { path, seen: new Set(), selection: new Map() });
    if (opinions.every(({ spec }) => spec.specifier === 'over')) return null;
    const active = opinions.map(({ spec }) => spec.metadata.active).find((value) => value !== undefined);
    if (active === false) return null;
    const metadata: Record<string, UsdValue> = {};
    for (const { spec } of [...opinions].reverse()) Object.assign(metadata, spec.metadata);
    return {
      name,
      path,
      typeName: opinions.map(({ spec }) => spec.typeName).find((type) => type !== '') ?? '',
      specifier: opinions.find(({ spec }) => spec.specifier !== 'over')?.spec.specifier ?? 'def',
      metadata,
      properties: mergeProperties(opinions),
      children: await this.children(opinions, path, depth + 1),
    };
  }

  /**
   * The local opinions with all that they bring in, strongest first: those of one site with its arcs before those of
   * the next, and what is specialized behind all.
   */
  private async expand(local: Opinion[], way: Way): Promise<Opinion[]> {
    addSelections(local, way.selection);
    const out: Opinion[] = [];
    const specialized: Opinion[] = [];
    for (const site of bySite(local)) {
      out.push(...site, ...(await this.arcs(site, 'inherits', way)), ...(await this.variants(site, way)));
      out.push(...(await this.arcs(site, 'references', way)), ...(await this.arcs(site, 'payload', way)));
      specialized.push(...(await this.arcs(site, 'specializes', way)));
    }
    return [...out, ...specialized];
  }

  private async arcs(
    site: readonly Opinion[],
    kind: 'inherits' | 'specializes' | 'references' | 'payload',
    way: Way,
  ): Promise<Opinion[]> {
    const out: Opinion[] = [];
    const isOfPaths = kind === 'inherits' || kind === 'specializes';
    for (const { item, opinion } of editedList(site, kind)) {
      const target = isOfPaths ? { asset: '', prim: String(item) } : (item as UsdReference);
      out.push(...(await this.follow(target, opinion, way)));
    }
    return out;
  }

  private async variants(site: readonly Opinion[], way: Way): Promise<Opinion[]> {
    const out: Opinion[] = [];
    for (const opinion of site)
      for (const [set, variants] of opinion.spec.variantSets) {
        const selected = way.selection.get(set);
        const chosen = variants.get(selected ?? '');
        this.sites += 1;
        if (chosen) out.push(...(await this.expand([{ ...opinion, spec: chosen, site: this.sites }], way)));
        else if (variants.size > 0 && selected)
          addUncarried(
            this.host.remarks,
            'variants chosen but not there',
            `${way.path} {${set}=${selected}}`,
            {
              why: 'nothing stands in for them',
              severity: 'warning',
            },
          );
      }
    return out;
  }

  private async follow(
    reference: UsdReference,
    opinion: Opinion,
    { path, seen, selection }: Way,
  ): Promise<Opinion[]> {
    if (typeof reference !== 'object') return [];
    const stack =
      reference.asset === '' ? opinion.stack : await this.host.load(reference.asset, opinion.layer);
    if (!stack) {
      addRemark(this.host.remarks, {
        code: 'read.composition',
        severity: 'error',
        subject: reference.asset,
        message: `${path} takes in ${reference.asset}, which is not in the parcel or cannot be read`,
      });
      return [];
    }
    const target = reference.prim || defaultPrimOf(stack);
    const key = `${stack.path} ${target}`;
    if (target === '' || seen.has(key)) {
      if (target === '')
        addRemark(this.host.remarks, {
          code: 'read.composition',
          severity: 'error',
          subject: reference.asset,
          message: `${reference.asset} names no default prim`,
        });
      return [];
    }
    const maps = [...(reference.asset === '' ? opinion.maps : []), { from: target, to: path }];
    this.sites += 1;
    const site = this.sites;
    const opinions = stack.layers.flatMap(({ path: layerPath, layer }) => {
      const spec = findSpec(layer, target);
      return spec ? [{ spec, layer: layerPath, stack, site, at: target, maps }] : [];
    });
    return this.expand(opinions, { path, seen: new Set([...seen, key]), selection });
  }
}

/** Opinions of one site stand together. */
function bySite(opinions: readonly Opinion[]): Opinion[][] {
  const sites: Opinion[][] = [];
  for (const opinion of opinions) {
    const last = sites[sites.length - 1];
    if (last?.[0].site === opinion.site) last.push(opinion);
    else sites.push([opinion]);
  }
  return sites;
}

/** An item of a list that layers edit, and whose it is. */
interface Listed {
  item: ListItems[number];
  opinion: Opinion;
}

/** What the layers of a site leave of a list, each editing what the weaker ones have. */
function editedList(site: readonly Opinion[], name: string): Listed[] {
  let list: Listed[] = [];
  for (const opinion of [...site].reverse()) {
    const value = opinion.spec.metadata[name];
    if (value === undefined) continue;
    const own = (items: ListItems) => items.map((item): Listed => ({ item, opinion }));
    if (!isListOp(value) || value.explicit) {
      list = own(listItems(value));
      continue;
    }
    const { prepended, appended, deleted } = value;
    const moved = new Set([...prepended, ...appended, ...deleted].map(keyOf));
    list = [...own(prepended), ...list.filter(({ item }) => !moved.has(keyOf(item))), ...own(appended)];
  }
  return list;
}

function keyOf(item: ListItems[number]): string {
  return typeof item === 'object' ? `${item.asset} ${item.prim}` : String(item);
}

/** Opinions are met strongest first, so that what is chosen already stays. */
function addSelections(opinions: readonly Opinion[], selection: Map<string, string>): void {
  for (const { spec } of opinions) {
    const chosen = spec.metadata.variants;
    if (!chosen || typeof chosen !== 'object') continue;
    for (const [set, variant] of Object.entries(chosen))
      if (!selection.has(set) && typeof variant === 'string') selection.set(set, variant);
  }
}

function defaultPrimOf(stack: LayerStack): string {
  for (const { layer } of stack.layers) {
    const name = layer.metadata.defaultPrim;
    if (typeof name === 'string' && name !== '') return name.startsWith('/') ? name : `/${name}`;
  }
  // One root prim can only be meant.
  const [only, second] = stack.layers[0]?.layer.prims ?? [];
  return only && !second ? `/${only.name}` : '';
}

function findSpec(layer: UsdLayer, path: string): PrimSpec | undefined {
  let list = layer.prims;
  let primSpec: PrimSpec | undefined;
  for (const name of path.split('/').filter(Boolean)) {
    primSpec = list.find((spec) => spec.name === name);
    if (!primSpec) return undefined;
    list = primSpec.children;
  }
  return primSpec;
}

/** Each property part comes from the strongest opinion that has it. */
function mergeProperties(opinions: Opinion[]): Map<string, ComposedProperty> {
  const out = new Map<string, ComposedProperty>();
  for (const { spec, layer, maps, at: place } of opinions) {
    for (const property of spec.properties.values()) {
      const targets = property.targets.map((target) => mapPath(absolute(target, place), maps));
      const existing = out.get(property.name);
      if (!existing) {
        out.set(property.name, { ...property, targets, layer });
        continue;
      }
      if (existing.value === undefined && property.value !== undefined)
        Object.assign(existing, { value: property.value, layer });
      existing.timeSamples ??= property.timeSamples;
      if (existing.targets.length === 0) existing.targets = targets;
      if (existing.typeName === '') existing.typeName = property.typeName;
      existing.custom ||= property.custom;
      existing.metadata = { ...property.metadata, ...existing.metadata };
    }
  }
  return out;
}

/** Relative paths are relative to the prim they stand on; `.name` is a property of that prim itself. */
function absolute(path: string, place: string): string {
  if (path.startsWith('/')) return path;
  if (/^\.[^./]/.test(path)) return place + path;
  const parts = place.split('/').filter(Boolean);
  for (const part of path.split('/')) {
    if (part === '..') parts.pop();
    else if (part !== '.' && part !== '') parts.push(part);
  }
  return `/${parts.join('/')}`;
}

/** A path of a referenced layer as the stage calls it. The innermost mapping stands last. */
function mapPath(path: string, maps: PathMap[]): string {
  let out = path;
  for (const { from, to } of [...maps].reverse()) {
    if (out === from || out.startsWith(`${from}/`) || out.startsWith(`${from}.`)) {
      out = to + out.slice(from.length);
      break;
    }
  }
  return out;
}

function joinPath(parent: string, name: string): string {
  return parent === '/' ? `/${name}` : `${parent}/${name}`;
}
