import { type Document, Format, type GLTF } from '@gltf-transform/core';
import { BINARY_CHUNK, GLB_MAGIC, JSON_CHUNK } from './glb.ts';
import { gltfIo } from './io.ts';

const VERSION = 2;

/** A document as the bytes of a GLB. */
export async function writeGlb(gltf: Document): Promise<Uint8Array> {
  const { json, resources } = await (await gltfIo()).writeJSON(gltf, { format: Format.GLB });
  placeExactly(json, gltf);
  const chunks = [chunk(JSON_CHUNK, new TextEncoder().encode(JSON.stringify(json)), 0x20)];
  const [binary] = Object.values(resources);
  if (binary?.byteLength) chunks.push(chunk(BINARY_CHUNK, binary, 0));
  const length = 12 + chunks.reduce((sum, { length }) => sum + length, 0);
  const out = new Uint8Array(length);
  out.set(words(GLB_MAGIC, VERSION, length));
  let offset = 12;
  for (const bytes of chunks) {
    out.set(bytes, offset);
    offset += bytes.length;
  }
  return out;
}

/** A document as JSON with the files that it refers to, by their path beside it. */
export async function writeGltfFiles(gltf: Document, name: string): Promise<Map<string, Uint8Array>> {
  gltf.getRoot().listBuffers()[0].setURI(`${name}.bin`);
  const { json, resources } = await (await gltfIo()).writeJSON(gltf, { basename: name });
  placeExactly(json, gltf);
  const files = new Map([[`${name}.gltf`, new TextEncoder().encode(JSON.stringify(json, null, 1))]]);
  for (const [path, bytes] of Object.entries(resources)) files.set(decodeURIComponent(path), bytes);
  return files;
}

/**
 * Places of nodes to the last digit: the library leaves out what is within a hundred-thousandth of nothing,
 * which is much for a jewel, or far out on a crane.
 */
function placeExactly({ nodes }: GLTF.IGLTF, gltf: Document): void {
  gltf
    .getRoot()
    .listNodes()
    .forEach((node, i) => {
      const written = nodes?.[i];
      if (!written) return;
      const [translation, rotation, scale] = [node.getTranslation(), node.getRotation(), node.getScale()];
      if (translation.some((part) => part !== 0)) written.translation = translation;
      if (rotation.some((part, k) => part !== (k === 3 ? 1 : 0))) written.rotation = rotation;
      if (scale.some((part) => part !== 1)) written.scale = scale;
    });
}

function chunk(kind: number, content: Uint8Array, padding: number): Uint8Array {
  const length = Math.ceil(content.length / 4) * 4;
  const out = new Uint8Array(8 + length).fill(padding);
  out.set(words(length, kind));
  out.set(content, 8);
  return out;
}

function words(...values: number[]): Uint8Array {
  const view = new DataView(new ArrayBuffer(values.length * 4));
  values.forEach((value, i) => view.setUint32(i * 4, value, true));
  return new Uint8Array(view.buffer);
}
