/// <reference path="./draco3dgltf.d.ts" />
/// <reference path="./gltf-validator.d.ts" />
import { type Document, GLB_BUFFER, type GLTF } from '@gltf-transform/core';
import { validateBytes } from 'gltf-validator';
import { KinkajouError } from '../../errors.ts';
import { type FileSource, folderOf, safePath } from '../../parcel/fileSource.ts';
import { parseJson } from '../../parcel/json.ts';
import { gltfIo } from './io.ts';

/** First word of a GLB, `glTF`, and the kinds of its chunks: `JSON`, `BIN`. */
const GLB_MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BINARY_CHUNK = 0x004e4942;
/** Of the validator's four severities. */
const ERROR = 0;

/** A glTF file as the library has it, the JSON that it was written as, and whether that stands in a GLB. */
export interface OpenGltf {
  gltf: Document;
  json: GLTF.IGLTF;
  binary: boolean;
}

/**
 * Opens a glTF file with its buffers. Throws `gltf.version` for glTF 1.0, `gltf.broken` for damage and
 * `gltf.missing` for a buffer that is not in the parcel.
 */
export async function openGltf(bytes: Uint8Array, path: string, source: FileSource): Promise<OpenGltf> {
  const binary = isGlb(bytes);
  const json = binary ? readGlbJson(bytes, path) : readJson(bytes, path);
  checkJson(json, path);
  const gltf = await open({ bytes, json, binary }, path, source);
  openFarPlanes(gltf, json);
  return { gltf, json, binary };
}

function isGlb(bytes: Uint8Array): boolean {
  return bytes.length >= 12 && new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true) === GLB_MAGIC;
}

function readGlbJson(bytes: Uint8Array, path: string): GLTF.IGLTF {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const version = view.getUint32(4, true);
  if (version !== 2) throw tooOld(path, `binary glTF ${version}`);
  if (view.getUint32(8, true) > bytes.length)
    throw broken(path, 'the file is cut off: it announces more bytes than it has', 8);
  if (bytes.length < 20 || view.getUint32(16, true) !== JSON_CHUNK)
    throw broken(path, 'its first chunk is not JSON', 12);
  const length = view.getUint32(12, true);
  if (20 + length > bytes.length) throw broken(path, 'its JSON is cut off', 12);
  // Some writers fill the chunk up with zeros, where the standard wants blanks.
  let end = 20 + length;
  while (end > 20 && bytes[end - 1] === 0) end -= 1;
  return readJson(bytes.subarray(20, end), path);
}

function readJson(bytes: Uint8Array, path: string): GLTF.IGLTF {
  return parseJson(decodeUtf8(bytes, path), {
    file: path,
    code: 'gltf.broken',
    hint: 'Export or copy the file again.',
  }) as GLTF.IGLTF;
}

/** The standard wants UTF-8, and its validator ends the whole process over anything else. */
function decodeUtf8(bytes: Uint8Array, path: string): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    const good = new TextDecoder().decode(bytes).indexOf('\uFFFD');
    throw broken(path, `its JSON has a letter that is not UTF-8, behind ${good} others`);
  }
}

/**
 * What the library takes for granted: a version, lists that are lists, no circles of nodes, numbers that
 * point somewhere.
 */
function checkJson(json: GLTF.IGLTF, path: string): void {
  if (typeof json !== 'object' || json === null) throw broken(path, 'its JSON is no object', 0);
  const version = json.asset?.version;
  if (typeof version !== 'string') throw broken(path, 'it states no version', 0);
  if (!version.startsWith('2.')) throw tooOld(path, `glTF ${version}`);
  for (const [name, list] of Object.entries(json)) {
    if (LISTS.has(name) && !Array.isArray(list)) throw broken(path, `"${name}" is no list`, 0);
    if (LISTS.has(name))
      for (const [i, entry] of (list as unknown[]).entries())
        if (typeof entry !== 'object' || entry === null) throw broken(path, `${name}[${i}] is no object`, 0);
  }
  const nodes = json.nodes ?? [];
  const state = new Uint8Array(nodes.length);
  const visit = (start: number): void => {
    const stack: [number, number][] = [[start, 0]];
    while (stack.length > 0) {
      const top = stack[stack.length - 1];
      const [node, next] = top;
      if (next === 0) state[node] = 1;
      const child = nodes[node].children?.[next];
      if (child === undefined) {
        state[node] = 2;
        stack.pop();
        continue;
      }
      top[1] += 1;
      if (!(Number.isInteger(child) && child >= 0 && child < nodes.length))
        throw broken(path, `node ${node} names child ${child}, which is not there`, 0);
      if (state[child] === 1) throw broken(path, `node ${child} is its own ancestor`, 0);
      if (state[child] === 0) stack.push([child, 0]);
    }
  };
  nodes.forEach((node, i) => {
    if (node.children !== undefined && !Array.isArray(node.children))
      throw broken(path, `the children of node ${i} are no list`, 0);
  });
  nodes.forEach((_, i) => {
    if (state[i] === 0) visit(i);
  });
}

const LISTS = new Set([
  'nodes',
  'meshes',
  'accessors',
  'bufferViews',
  'buffers',
  'materials',
  'textures',
  'images',
  'samplers',
  'skins',
  'animations',
  'cameras',
  'scenes',
]);

interface Opened {
  bytes: Uint8Array;
  json: GLTF.IGLTF;
  /** Whether the JSON stands in a GLB. */
  binary: boolean;
}

async function open({ bytes, json, binary }: Opened, path: string, source: FileSource): Promise<Document> {
  const io = await gltfIo();
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  for (const buffer of json.buffers ?? []) {
    const { uri } = buffer;
    if (!uri || uri.startsWith('data:') || resources[uri]) continue;
    const file = findFile(uri, path, source);
    if (!file)
      throw new KinkajouError(
        'gltf.missing',
        `its buffer ${uri} is not in the parcel`,
        { file: path },
        'Drop the .bin file beside the model.',
      );
    const content = await source.read(file);
    if (content.length < buffer.byteLength)
      throw broken(
        file,
        `the buffer has ${content.length} bytes, and ${buffer.byteLength} are announced`,
        content.length,
      );
    resources[uri] = new Uint8Array(content);
  }
  try {
    // Images are only referred to: the parcel finds and reads them.
    for (const image of json.images ?? [])
      if (image.uri && !image.uri.startsWith('data:')) resources[image.uri] = new Uint8Array(0);
    const chunk = binary ? binaryChunk(bytes) : null;
    if (chunk) resources[GLB_BUFFER] = chunk;
    return await io.readJSON({ json, resources });
  } catch (error) {
    if (error instanceof KinkajouError) throw error;
    const message = (error as Error).message.split('\n')[0];
    const required = /Missing required extension, "?([\w]+)/.exec(message);
    if (required) {
      throw new KinkajouError(
        'gltf.extension',
        `it cannot be read without the extension ${required[1]}, which is not known here`,
        { file: path },
        'Export the model without it.',
      );
    }
    throw broken(path, await whatIsWrong(bytes));
  }
}

/**
 * The second chunk of a GLB, null where there is none. The library's own reading of GLB refuses files that
 * refer to others.
 */
function binaryChunk(bytes: Uint8Array): Uint8Array<ArrayBuffer> | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const start = 20 + view.getUint32(12, true);
  if (start + 8 > bytes.length || view.getUint32(start + 4, true) !== BINARY_CHUNK) return null;
  return new Uint8Array(bytes.subarray(start + 8, start + 8 + view.getUint32(start, true)));
}

/** Perspective cameras without a far plane see without end; the library puts one at 100. */
function openFarPlanes(gltf: Document, json: GLTF.IGLTF): void {
  const cameras = gltf.getRoot().listCameras();
  json.cameras?.forEach(({ perspective }, i) => {
    if (perspective && perspective.zfar === undefined) cameras[i]?.setZFar(Number.POSITIVE_INFINITY);
  });
}

/** A URI as a file of the parcel: relative to the model, else by bare name. */
function findFile(uri: string, path: string, source: FileSource): string | null {
  let decoded = uri;
  try {
    decoded = decodeURIComponent(uri);
  } catch {
    // A stray percent sign: the name is taken as it stands.
  }
  const folder = folderOf(path);
  const candidates = [
    `${folder}/${decoded}`.replace(/^\//, ''),
    decoded,
    decoded.slice(decoded.lastIndexOf('/') + 1),
  ].map((name) => safePath(name.replace(/(^|\/)\.\//g, '$1')));
  const paths = source.files.map((file) => file.path);
  for (const candidate of candidates) if (candidate && paths.includes(candidate)) return candidate;
  const bare = `/${decoded.slice(decoded.lastIndexOf('/') + 1)}`;
  return paths.find((file) => file.endsWith(bare)) ?? null;
}

/**
 * Which property is at fault, as the standard's own validator tells; the library that stumbled has no words
 * for people.
 */
async function whatIsWrong(bytes: Uint8Array): Promise<string> {
  const { issues } = await validateBytes(bytes, { maxIssues: 100, writeTimestamp: false }).catch(() => ({
    issues: { messages: [] },
  }));
  const first = issues.messages.find(({ severity }) => severity === ERROR);
  if (!first) return 'its accessors and buffers contradict each other';
  return `${first.pointer ? `${first.pointer}: ` : ''}${first.message.replace(/\.$/, '')}`;
}

function broken(file: string, message: string, offset?: number): KinkajouError {
  return new KinkajouError(
    'gltf.broken',
    message,
    { file, ...(offset === undefined ? {} : { offset }) },
    'Export or copy the file again.',
  );
}

function tooOld(file: string, what: string): KinkajouError {
  return new KinkajouError(
    'gltf.version',
    `${what} is an older format that is not read`,
    { file },
    'Export the model as glTF 2.0.',
  );
}
