import { deflateSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { parseBinaryFbx } from './parseBinary.ts';

/** A file of one record `Tide`, put down byte by byte with the significant bytes of its numbers first. */
function bigEndian(properties: readonly Buffer[]): Uint8Array {
  const number = (value: number) => {
    const bytes = Buffer.alloc(4);
    bytes.writeUInt32BE(value);
    return bytes;
  };
  const head = Buffer.concat([Buffer.from('Kaydara FBX Binary  \0\x1a\x01', 'latin1'), number(7400)]);
  const list = Buffer.concat(properties);
  const record = [number(head.length + 17 + list.length), number(properties.length), number(list.length)];
  return Uint8Array.from(Buffer.concat([head, ...record, Buffer.from('\x04Tide'), list, Buffer.alloc(13)]));
}

const hex = (text: string) => Buffer.from(text.replaceAll(' ', ''), 'hex');
const letter = (type: string, bytes: string) => Buffer.concat([Buffer.from(type), hex(bytes)]);

describe('binary FBX with the significant bytes first', () => {
  it('has numbers of every width, texts, and lists packed and not', () => {
    const packed = deflateSync(hex('00000001 ffffffff'));
    const size = packed.length.toString(16).padStart(8, '0');
    const { version, nodes, fault } = parseBinaryFbx(
      bigEndian([
        letter('Y', '0102'),
        letter('I', '00010000'),
        letter('L', '0000000100000000'),
        letter('F', '3fc00000'),
        letter('D', '4004000000000000'),
        Buffer.concat([letter('S', '00000004'), Buffer.from('quay')]),
        Buffer.concat([letter('i', `00000002 00000001 ${size}`), packed]),
        letter('d', '00000001 00000000 00000008 c000000000000000'),
        letter('f', '00000001 00000000 00000004 bf800000'),
        letter('l', '00000001 00000000 00000008 0000000000000003'),
        letter('c', '00000002 00000000 00000002 0100'),
      ]),
    );
    expect([version, fault, nodes.length, nodes[0].name]).toEqual([7400, null, 1, 'Tide']);
    expect(nodes[0].properties.map(({ value }) => value)).toEqual([
      258,
      65_536,
      2n ** 32n,
      1.5,
      2.5,
      'quay',
      Int32Array.of(1, -1),
      Float64Array.of(-2),
      Float32Array.of(-1),
      BigInt64Array.of(3n),
      Uint8Array.of(1, 0),
    ]);
  });

  it('leaves the bytes of the file as they are', () => {
    const bytes = bigEndian([letter('d', '00000001 00000000 00000008 c000000000000000')]);
    const copy = bytes.slice();
    parseBinaryFbx(bytes);
    expect(bytes).toEqual(copy);
  });
});

describe('bytes of binary FBX', () => {
  it.each(['B', 'C', 'Z'])('of type %s are numbers', (type) => {
    const [{ properties }] = parseBinaryFbx(bigEndian([letter(type, '54')])).nodes;
    expect(properties).toEqual([{ type: 'C', value: 0x54 }]);
  });
});
