import type { FbxNode } from '@kinkajou/core/formats/fbx/tree';
import { NAME_SEPARATOR } from '@kinkajou/core/formats/fbx/tree';
import { writeBinaryFbx } from '@kinkajou/core/formats/fbx/writeBinary';
import { encodePng } from '@kinkajou/core/images/encode';
import { zipSync } from 'fflate';

/** A parcel that is wrong in one way, what must be said about it, and how many assets it must still give. */
export interface BadParcel {
  name: string;
  bytes: Uint8Array;
  says: RegExp;
  assets: number;
}

const text = (value: string) => new TextEncoder().encode(value);
const CRATE = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3 4\n';

/** Sets the "encrypted" flag of the first entry in both places where a zip keeps it. */
function encrypted(zip: Uint8Array): Uint8Array {
  const find = (third: number) =>
    zip.findIndex((_, i) => zip[i] === 0x50 && zip[i + 1] === 0x4b && zip[i + 2] === third);
  zip[find(3) + 6] |= 1;
  zip[find(1) + 8] |= 1;
  return zip;
}

/** A zip of so many empty stored entries, with the wide (zip64) end records that such a count needs. */
function emptyEntries(count: number): Uint8Array {
  const name = (i: number) => Buffer.from(`n/${String(i).padStart(6, '0')}`);
  const local = (i: number) =>
    Buffer.concat([
      Buffer.from('504b03040a0000000000000021000000000000000000000000000800', 'hex'),
      Buffer.alloc(2),
      name(i),
    ]);
  const entries = Array.from({ length: count }, (_, i) => local(i));
  const size = entries[0].length;
  const directory = entries.map((_, i) => {
    const head = Buffer.alloc(46);
    Buffer.from('504b01020a000a0000000000000021000000000000000000000000000800', 'hex').copy(head);
    head.writeUInt32LE(i * size, 42);
    return Buffer.concat([head, name(i)]);
  });
  const [at, length] = [count * size, count * directory[0].length];
  const wide = Buffer.alloc(56 + 20);
  wide.write('PK\x06\x06', 'latin1');
  wide.writeBigUInt64LE(44n, 4);
  wide.writeUInt16LE(45, 12);
  wide.writeUInt16LE(45, 14);
  [count, count, length, at].forEach((value, i) => wide.writeBigUInt64LE(BigInt(value), 24 + i * 8));
  wide.write('PK\x06\x07', 56, 'latin1');
  wide.writeBigUInt64LE(BigInt(at + length), 64);
  wide.writeUInt32LE(1, 72);
  const end = Buffer.alloc(22, 0xff);
  end.write('PK\x05\x06\0\0\0\0', 'latin1');
  end.writeUInt16LE(0, 20);
  return Buffer.concat([...entries, ...directory, wide, end]);
}

/** A quad with points, cut in the middle of its polygon list. */
export function truncatedFbx(): Uint8Array {
  const node = (name: string, properties: FbxNode['properties'], children: FbxNode[] = []): FbxNode => ({
    name,
    properties,
    children,
  });
  const whole = writeBinaryFbx({
    version: 7400,
    binary: true,
    nodes: [
      node(
        'Objects',
        [],
        [
          node(
            'Geometry',
            [
              { type: 'L', value: 1n },
              { type: 'S', value: `Bollard${NAME_SEPARATOR}Geometry` },
              { type: 'S', value: 'Mesh' },
            ],
            [
              node('Vertices', [
                { type: 'd', value: Float64Array.from({ length: 12_000 }, (_, i) => Math.sin(i * i)) },
              ]),
            ],
          ),
        ],
      ),
    ],
  });
  return whole.subarray(0, Math.floor(whole.length / 2));
}

/** One of each kind of trouble that people really drop. */
export async function badParcels(): Promise<BadParcel[]> {
  const png = await encodePng({ width: 2, height: 2, components: 3, data: new Uint8Array(12).fill(90) });
  return [
    {
      name: 'outside.zip',
      bytes: zipSync({
        '../../etc/evil.obj': text(CRATE),
        '/abs/evil.obj': text(CRATE),
        'crate.obj': text(CRATE),
      }),
      says: /leads out of the parcel/,
      assets: 1,
    },
    {
      name: 'locked.zip',
      bytes: encrypted(zipSync({ 'locked.obj': text(CRATE) })),
      says: /encrypted/,
      assets: 0,
    },
    {
      name: 'many.zip',
      bytes: emptyEntries(100_000),
      says: /100,000 files in one parcel, and the limit is 20,000/,
      assets: 0,
    },
    {
      name: 'bomb.zip',
      bytes: zipSync({ 'b.obj': new Uint8Array(96 * 1024 * 1024) }),
      says: /times its packed size, and the limit is 200/,
      assets: 0,
    },
    { name: 'cut.fbx', bytes: truncatedFbx(), says: /cut\.fbx, byte \d+: the file is cut off/, assets: 0 },
    {
      name: 'range.obj',
      bytes: text('v 0 0 0\nf 1 2 3\n'),
      says: /range\.obj: every face names points that do not exist/,
      assets: 0,
    },
    {
      name: 'false-image.zip',
      bytes: zipSync({
        'keg.obj': text(`mtllib keg.mtl\nusemtl Oak\n${CRATE}`),
        'keg.mtl': text('newmtl Oak\nmap_Kd oak.png\n'),
        'oak.png': text('no image'),
        'hoop.png': png,
      }),
      says: /oak\.png/,
      assets: 1,
    },
    { name: 'empty.zip', bytes: zipSync({}), says: /there are no files in it/, assets: 0 },
    {
      name: 'notes.txt',
      bytes: text('nothing here'),
      says: /there is no model in it|models of type \.txt cannot be read/,
      assets: 0,
    },
  ];
}
