import { deflateSync } from 'node:zlib';
import { ByteSink } from '../byteSink.ts';
import type { FbxNode, FbxProperty, FbxTree } from './tree.ts';

const MAGIC = 'Kaydara FBX Binary  \0\x1a\0';
const WIDE_VERSION = 7500;
/** Arrays shorter than this many bytes are not worth compressing. */
const COMPRESS_FROM = 128;
/** The fixed bytes that close every binary file. */
const FOOTER_ID = [
  0xfa, 0xbc, 0xab, 0x09, 0xd0, 0xc8, 0xd4, 0x66, 0xb1, 0x76, 0xfb, 0x83, 0x1c, 0xf7, 0x26, 0x7e,
];
const FOOTER_MAGIC = [
  0xf8, 0x5a, 0x8c, 0x6a, 0xde, 0xf5, 0xd9, 0x7e, 0xec, 0xe9, 0x0c, 0xe3, 0x75, 0x8f, 0x29, 0x0b,
];

/** Records that close with an empty record even without children. */
const ALWAYS_CLOSED = new Set(['AnimationStack', 'AnimationLayer', 'References']);

/** Writes a record tree as a binary FBX file; the same tree always gives the same bytes. */
export function writeBinaryFbx(tree: FbxTree): Uint8Array {
  const out = new ByteSink();
  const wide = tree.version >= WIDE_VERSION;
  out.text(MAGIC);
  out.u32(tree.version);
  for (const node of tree.nodes) writeNode(out, node, wide);
  out.zeros(wide ? 25 : 13);
  out.bytes(Uint8Array.from(FOOTER_ID));
  out.zeros(4);
  out.zeros((16 - (out.length % 16)) % 16 || 16);
  out.u32(tree.version);
  out.zeros(120);
  out.bytes(Uint8Array.from(FOOTER_MAGIC));
  return out.finish();
}

function writeNode(out: ByteSink, node: FbxNode, wide: boolean): void {
  const start = out.length;
  const name = new TextEncoder().encode(node.name);
  out.zeros(wide ? 24 : 12);
  out.u8(name.length);
  out.bytes(name);
  const listStart = out.length;
  for (const property of node.properties) writeProperty(out, property);
  const listLength = out.length - listStart;
  for (const child of node.children) writeNode(out, child, wide);
  if (node.children.length > 0 || node.properties.length === 0 || ALWAYS_CLOSED.has(node.name))
    out.zeros(wide ? 25 : 13);
  [out.length, node.properties.length, listLength].forEach((value, i) => {
    if (wide) out.patchU64(start + i * 8, value);
    else out.patchU32(start + i * 4, value);
  });
}

function writeProperty(out: ByteSink, property: FbxProperty): void {
  out.text(property.type);
  switch (property.type) {
    case 'Y':
      return out.number(2, (view, offset) => view.setInt16(offset, property.value, true));
    case 'C':
      return out.u8(property.value);
    case 'I':
      return out.number(4, (view, position) => view.setInt32(position, property.value, true));
    case 'F':
      return out.number(4, (view, index) => view.setFloat32(index, property.value, true));
    case 'D':
      return out.number(8, (view, index) => view.setFloat64(index, property.value, true));
    case 'L':
      return out.number(8, (view, index) => view.setBigInt64(index, property.value, true));
    case 'S': {
      const bytes = new TextEncoder().encode(property.value);
      out.u32(bytes.length);
      return out.bytes(bytes);
    }
    case 'R':
      out.u32(property.value.length);
      return out.bytes(property.value);
    default: {
      const { value } = property;
      const raw = new Uint8Array(value.buffer, value.byteOffset, value.byteLength);
      const packed = raw.length >= COMPRESS_FROM ? deflateSync(raw) : null;
      out.u32(value.length);
      out.u32(packed ? 1 : 0);
      out.u32((packed ?? raw).length);
      return out.bytes(packed ?? raw);
    }
  }
}
