import { unzipSync } from 'fflate';
import { describeCut, KinkajouError } from '../../errors.ts';
import { extensionOf, type FileSource, folderOf } from '../../parcel/fileSource.ts';
import { addRemark, type Remark } from '../../scene/document.ts';
import { type ComposedPrim, compose, type LayerStack } from './compose.ts';
import { MOST_NESTED, type UsdLayer, type UsdValue } from './layer.ts';
import { isUsda, type ParsedLayer, parseUsda } from './parseUsda.ts';
import { isUsdc, parseUsdc } from './parseUsdc.ts';

/** A composed scene with what its root layer says of it. */
export interface Stage {
  metadata: Record<string, UsdValue>;
  prims: ComposedPrim[];
  byPath: Map<string, ComposedPrim>;
  /** `text`, `binary` or `package`. */
  form: string;
  /** Bytes of a file named by a layer, from inside a package only; null for files of the parcel. */
  carried(asset: string, layer: string): Uint8Array | null;
  /**
   * An image's path as a path in the parcel, or null when no file stands exactly there: nothing is guessed.
   */
  resolve(asset: string, layer: string): string | null;
}

const MAX_PRIMS = 2_000_000;
const PACKAGE_RATIO_LIMIT = 64;

interface StageOptions {
  /** Takes what is wrong with layers below the root. */
  remarks: Remark[];
  /** How deep dictionaries and prims may nest. */
  maxDepth?: number;
}

/**
 * Opens a USD file with every layer of the parcel that it takes in. Throws `usd.broken` when its root layer
 * cannot be read; layers below it that cannot be are remarked on.
 */
export async function openStage(
  bytes: Uint8Array,
  path: string,
  source: FileSource,
  { remarks, maxDepth = MOST_NESTED }: StageOptions,
): Promise<Stage> {
  const inside = isZip(bytes) ? unpack(bytes, path) : null;
  const rootName = inside ? rootOfPackage(inside, path) : path;
  const files = createFiles(source, inside);
  const cache = new Map<string, LayerStack | null>();
  const readStack = async (name: string, content: Uint8Array, chain: string[]): Promise<LayerStack> => {
    const { layer, fault } = parseLayer(content, name, maxDepth);
    if (fault && layer.prims.length === 0 && name === rootName) throw fault;
    if (fault)
      addRemark(remarks, {
        code: 'read.cut',
        severity: 'error',
        subject: name,
        message: describeCut(fault, content),
      });
    const stack: LayerStack = { path: name, layers: [{ path: name, layer }] };
    for (const asset of subLayersOf(layer)) {
      const sub = await load(asset, name, [...chain, name]);
      if (sub) stack.layers.push(...sub.layers);
      else
        addRemark(remarks, {
          code: 'read.composition',
          severity: 'error',
          subject: asset,
          message: `the sublayer ${asset} of ${name} is not in the parcel or cannot be read`,
        });
    }
    return stack;
  };
  const load = async (asset: string, from: string, chain: string[] = []): Promise<LayerStack | null> => {
    const name = files.resolve(asset, from);
    if (!name || chain.includes(name)) return null;
    const existing = cache.get(name);
    if (existing !== undefined) return existing;
    cache.set(name, null);
    try {
      const content = await files.read(name);
      const stack = isZip(content) ? null : await readStack(name, content, chain);
      cache.set(name, stack);
      return stack;
    } catch (error) {
      if (!(error instanceof KinkajouError)) throw error;
      addRemark(remarks, {
        code: 'read.composition',
        severity: 'error',
        subject: name,
        message: error.toText(),
      });
      return null;
    }
  };
  const rootBytes = inside ? (inside.get(rootName) as Uint8Array) : bytes;
  const stack = await readStack(rootName, rootBytes, []);
  cache.set(rootName, stack);
  const prims = await compose(stack, {
    load: (asset, from) => load(asset, from),
    remarks,
    maxDepth,
    maxPrims: MAX_PRIMS,
  });
  const byPath = new Map<string, ComposedPrim>();
  const index = (list: ComposedPrim[]) => {
    for (const prim of list) {
      byPath.set(prim.path, prim);
      index(prim.children);
    }
  };
  index(prims);
  const metadata: Record<string, UsdValue> = {};
  for (const { layer } of [...stack.layers].reverse()) Object.assign(metadata, layer.metadata);
  Object.assign(metadata, stack.layers[0].layer.metadata);
  return {
    metadata,
    prims,
    byPath,
    form: formOf(inside, rootBytes),
    carried: (asset, layer) => (inside ? (inside.get(files.resolve(asset, layer) ?? '') ?? null) : null),
    resolve: files.resolveExactly,
  };
}

function formOf(
  inside: Map<string, Uint8Array<ArrayBufferLike>> | null,
  rootBytes: Uint8Array<ArrayBufferLike>,
): string {
  if (inside) return 'package';
  return isUsdc(rootBytes) ? 'binary' : 'text';
}

/** Reads one layer, text or binary by its first bytes. Throws `usd.header` for anything else. */
export function parseLayer(bytes: Uint8Array, name: string, maxDepth: number): ParsedLayer {
  if (isUsdc(bytes)) return parseUsdc(bytes, name);
  if (isUsda(bytes)) return parseUsda(bytes, name, maxDepth);
  throw new KinkajouError(
    'usd.header',
    'this file does not begin like a USD layer',
    { file: name, offset: 0 },
    'Check that it was saved as USD.',
  );
}

function subLayersOf(layer: UsdLayer): string[] {
  const list = layer.metadata.subLayers;
  return Array.isArray(list)
    ? list
        .map((item) => (typeof item === 'string' ? item : ((item as { path?: string }).path ?? '')))
        .filter(Boolean)
    : [];
}

function isZip(bytes: Uint8Array): boolean {
  return bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 3 && bytes[3] === 4;
}

function unpack(bytes: Uint8Array, path: string): Map<string, Uint8Array> {
  try {
    let total = 0;
    const files = unzipSync(bytes, {
      filter: ({ originalSize, name }) => {
        total += originalSize;
        if (total > bytes.length * PACKAGE_RATIO_LIMIT + 65536)
          throw new KinkajouError('usd.package', `the package unpacks to far more than its size at ${name}`, {
            file: path,
          });
        return !name.endsWith('/');
      },
    });
    return new Map(Object.entries(files));
  } catch (error) {
    if (error instanceof KinkajouError) throw error;
    throw new KinkajouError(
      'usd.package',
      `the package cannot be opened (${(error as Error).message})`,
      { file: path },
      'Export or copy the file again.',
    );
  }
}

/** A package's root is its first layer. */
function rootOfPackage(files: Map<string, Uint8Array>, path: string): string {
  const root = [...files.keys()].find((name) => ['usd', 'usda', 'usdc'].includes(extensionOf(name)));
  if (!root)
    throw new KinkajouError(
      'usd.package',
      'there is no layer in this package',
      { file: path },
      'Export the file again.',
    );
  return root;
}

function createFiles(source: FileSource, inside: Map<string, Uint8Array> | null) {
  const existing = inside ? new Set(inside.keys()) : new Set(source.files.map((file) => file.path));
  const byName = new Map<string, string>();
  for (const path of existing) byName.set(path.slice(path.lastIndexOf('/') + 1).toLowerCase(), path);
  const resolveExactly = (asset: string, layer: string): string | null => {
    const slashed = asset.replaceAll('\\', '/');
    const joined = slashed.startsWith('/') ? null : normalise(`${folderOf(layer)}/${slashed}`);
    if (joined !== null && existing.has(joined)) return joined;
    const rooted = slashed.startsWith('/') ? null : normalise(slashed);
    return rooted !== null && existing.has(rooted) ? rooted : null;
  };
  return {
    resolveExactly,
    /** By relative path; else, for layers that were exported elsewhere, by bare name. */
    resolve(asset: string, layer: string): string | null {
      const exact = resolveExactly(asset, layer);
      if (exact) return exact;
      const slashed = asset.replaceAll('\\', '/');
      return byName.get(slashed.slice(slashed.lastIndexOf('/') + 1).toLowerCase()) ?? null;
    },
    async read(path: string): Promise<Uint8Array> {
      return inside?.get(path) ?? source.read(path);
    },
  };
}

/** A relative path without `.` and `..`; null when it leads out. */
function normalise(path: string): string | null {
  const out: string[] = [];
  for (const part of path.split('/')) {
    if (part === '' || part === '.') continue;
    if (part !== '..') out.push(part);
    else if (out.pop() === undefined) return null;
  }
  return out.length > 0 ? out.join('/') : null;
}
