import type { ComposedPrim } from './compose.ts';
import { get, textOf } from './values.ts';

/** A material that a prim says is worn; a strong one by all below it, too, whatever they say. */
interface Binding {
  target: string;
  strong: boolean;
}

/** A binding for what a collection holds. */
interface CollectionBinding extends Binding {
  holds(path: string): boolean;
}

/** What one prim says of materials, for itself and for all below it. */
interface Level {
  direct: Binding | null;
  collections: CollectionBinding[];
}

/** What the prims from the root down to one say of materials. */
export type Bindings = readonly Level[];

type FindPrim = (path: string) => ComposedPrim | undefined;

const DIRECT = ['material:binding', 'material:binding:full', 'material:binding:preview'];
const OF_COLLECTION = /^material:binding:collection:(?:(?:full|preview):)?[^:]+$/;

/** What is said down to a prim, with its own words. */
export function withBindings(above: Bindings, prim: ComposedPrim, find: FindPrim): Bindings {
  const direct = directBinding(prim);
  const collections = collectionBindings(prim, find);
  return direct || collections.length > 0 ? [...above, { direct, collections }] : above;
}

/**
 * Path of the material that a prim wears; '' where nothing is said. The nearest prim's word holds, and before its
 * direct one those about collections.
 */
export function boundMaterial(bindings: Bindings, path: string): string {
  let worn = '';
  for (const { direct, collections } of bindings) {
    const own = collections.find(({ holds }) => holds(path)) ?? direct;
    if (!own) continue;
    worn = own.target;
    if (own.strong) return worn;
  }
  return worn;
}

/** The direct binding, for all purposes first. */
function directBinding(prim: ComposedPrim): Binding | null {
  for (const name of DIRECT) {
    const property = prim.properties.get(name);
    const target = property?.targets[0];
    if (property && target) return { target, strong: isStrong(property.metadata) };
  }
  return null;
}

function isStrong(metadata: ComposedPrim['metadata']): boolean {
  return textOf(metadata.bindMaterialAs) === 'strongerThanDescendants';
}

/** Collection and material are the two targets of one relationship. */
function collectionBindings(prim: ComposedPrim, find: FindPrim): CollectionBinding[] {
  const out: CollectionBinding[] = [];
  for (const { name, targets, metadata } of prim.properties.values()) {
    if (!OF_COLLECTION.test(name) || targets.length !== 2) continue;
    const [collection, target] = targets;
    const holds = membership(collection, find, new Set());
    out.push({ target, strong: isStrong(metadata), holds });
  }
  return out;
}

/** Whether a collection holds a path: what it includes, and what is below that unless it is told by itself alone. */
function membership(collection: string, find: FindPrim, seen: Set<string>): (path: string) => boolean {
  const [path, name] = collection.split('.collection:');
  const prim = find(path);
  if (!prim || !name || seen.has(collection)) return () => false;
  seen.add(collection);
  const targets = (word: string) => prim.properties.get(`collection:${name}:${word}`)?.targets ?? [];
  const alone = textOf(get(prim, `collection:${name}:expansionRule`)) === 'explicitOnly';
  const isAt = (place: string, target: string) =>
    place === target || (!alone && place.startsWith(`${target}/`));
  const [nested, included] = [true, false].map((isNested) =>
    targets('includes').filter((target) => target.includes('.collection:') === isNested),
  );
  const root = get(prim, `collection:${name}:includeRoot`) === true ? [path] : [];
  const others = nested.map((target) => membership(target, find, seen));
  const excluded = targets('excludes');
  return (place) =>
    !excluded.some((target) => place === target || place.startsWith(`${target}/`)) &&
    ([...included, ...root].some((target) => isAt(place, target)) || others.some((holds) => holds(place)));
}
