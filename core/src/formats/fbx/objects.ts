import { childOf, childrenOf, type FbxNode, type FbxTree, NAME_SEPARATOR, textAt } from './tree.ts';

/** An entry of the Objects section. */
export interface FbxObject {
  id: string;
  /** Record name: Model, Geometry, Material, Texture, Video, ... */
  kind: string;
  name: string;
  /** Third property: Mesh, Null, LimbNode, Camera, ... */
  subclass: string;
  node: FbxNode;
  properties: PropertyTable;
}

/** What an object is connected to, by the file's Connections section. */
export interface FbxLink {
  object: FbxObject;
  /** Name of the property linked to, or '' for a plain link. */
  property: string;
}

/** The objects of a file and how they are linked, the same for the 6.x and 7.x ways of writing them. */
export interface ObjectTable {
  objects: Map<string, FbxObject>;
  /** Objects that feed the given one, in file order. */
  childrenOf(id: string): readonly FbxLink[];
  parentsOf(id: string): readonly FbxLink[];
  /** Objects that the given one feeds, with the property that it feeds. */
  targetsOf(id: string): readonly FbxLink[];
  settings: PropertyTable;
}

/**
 * Named values of a Properties60 or Properties70 record, falling back to the template of the object's kind.
 */
export class PropertyTable {
  private readonly entries = new Map<string, FbxNode>();
  private readonly skip: number;

  constructor(
    node: FbxNode | undefined,
    private readonly template: PropertyTable | null = null,
  ) {
    const block = childOf(node, 'Properties70') ?? childOf(node, 'Properties60');
    this.skip = block?.name === 'Properties60' ? 3 : 4;
    for (const entry of block?.children ?? []) this.entries.set(textAt(entry, 0), entry);
  }

  /** Names written on the object itself. */
  names(): string[] {
    return [...this.entries.keys()];
  }

  /** Type word and flags of a property written on the object itself. */
  describe(name: string): { type: string; flags: string } {
    const entry = this.entries.get(name);
    return { type: textAt(entry, 1), flags: textAt(entry, this.skip - 1) };
  }

  has(name: string): boolean {
    return this.entries.has(name);
  }

  /** The value's numbers; undefined when neither object nor template has any. */
  numbers(name: string): number[] | undefined {
    const entry = this.entries.get(name);
    if (!entry) return this.template?.numbers(name);
    const out: number[] = [];
    for (const property of entry.properties.slice(this.skip)) {
      if (typeof property.value === 'number') out.push(property.value);
      else if (typeof property.value === 'bigint') out.push(Number(property.value));
      else if (ArrayBuffer.isView(property.value))
        out.push(...Array.from(property.value as Float64Array, Number));
    }
    return out;
  }

  number(name: string): number | undefined {
    return this.numbers(name)?.[0];
  }

  vector(name: string): [number, number, number] | undefined {
    const numbers = this.numbers(name);
    return numbers && numbers.length >= 3 ? [numbers[0], numbers[1], numbers[2]] : undefined;
  }

  text(name: string): string | undefined {
    const entry = this.entries.get(name);
    return entry ? textAt(entry, this.skip) : this.template?.text(name);
  }
}

/** Builds the table. Links that name objects which do not exist are passed over. */
export function readObjects(tree: FbxTree): ObjectTable {
  const top = (name: string) => tree.nodes.find((node) => node.name === name);
  const section = top('Objects');
  const templates = readTemplates(top('Definitions'));
  const objects = new Map<string, FbxObject>();
  for (const node of section?.children ?? []) {
    const object = readObject(node, templates);
    if (object) objects.set(object.id, object);
  }
  const children = new Map<string, FbxLink[]>();
  const parents = new Map<string, FbxLink[]>();
  const push = (map: Map<string, FbxLink[]>, key: string, link: FbxLink) => {
    const list = map.get(key);
    if (list) list.push(link);
    else map.set(key, [link]);
  };
  for (const link of top('Connections')?.children ?? []) {
    const [from, to, property] = [textAt(link, 1), textAt(link, 2), textAt(link, 3)];
    const child = objects.get(from);
    const parent = objects.get(to);
    if (child) push(children, to, { object: child, property });
    if (child && parent) push(parents, from, { object: parent, property });
  }
  return {
    objects,
    childrenOf: (id) => children.get(id) ?? [],
    parentsOf: (id) => parents.get(id) ?? [],
    targetsOf: (id) => parents.get(id) ?? [],
    settings: new PropertyTable(top('GlobalSettings') ?? childOf(section, 'GlobalSettings')),
  };
}

function readObject(node: FbxNode, templates: Map<string, PropertyTable>): FbxObject | null {
  const first = node.properties[0];
  if (!first) return null;
  const numbered = typeof first.value === 'bigint' || typeof first.value === 'number';
  const fullName = textAt(node, numbered ? 1 : 0);
  return {
    id: textAt(node, 0),
    kind: node.name,
    name: fullName.split(NAME_SEPARATOR)[0],
    subclass: textAt(node, numbered ? 2 : 1),
    node,
    properties: new PropertyTable(node, templates.get(node.name) ?? null),
  };
}

function readTemplates(definitions: FbxNode | undefined): Map<string, PropertyTable> {
  const out = new Map<string, PropertyTable>();
  for (const type of childrenOf(definitions, 'ObjectType')) {
    const template = childOf(type, 'PropertyTemplate');
    if (template) out.set(textAt(type, 0), new PropertyTable(template));
  }
  return out;
}
