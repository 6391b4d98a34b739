import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { readObj } from './readObj.ts';
import { ObjScanner } from './scanObj.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const read = (obj: string, mtl = '') => {
  const files = { 'm/a.obj': bytes(obj), 'm/a.mtl': bytes(mtl) };
  return readObj(files['m/a.obj'], 'm/a.obj', memorySource('test', files));
};
const QUAD = 'v 0 0 0\nv 2 0 0\nv 2 3 0\nv 0 3 0\n';

describe('OBJ', () => {
  it('keeps polygons and counts negative indices back from the end', async () => {
    const document = await read(`${QUAD}f -4 -3 -2 -1\n`);
    expect([...document.meshes[0].faceCounts]).toEqual([4]);
    expect([...document.meshes[0].faceCorners]).toEqual([0, 1, 2, 3]);
  });

  it('reads exponents, signs, continuations and CRLF', async () => {
    const document = await read('v +1e-2 -2.5E1 \\\r\n 3.\r\nv 0 1 0\r\nv 1 1 0\r\nf 1 2 \\\r\n3\r\n');
    expect([...document.meshes[0].points.slice(0, 3)]).toEqual([0.01, -25, 3]);
    expect([...document.meshes[0].faceCounts]).toEqual([3]);
  });

  it('leaves out faces that point at nothing and keeps the rest', async () => {
    const document = await read(`${QUAD}f 1 2 3\nf 1 2 99\nf 0 1 2\n`);
    expect(document.meshes[0].faceCounts.length).toBe(1);
    expect(document.remarks.find((remark) => remark.code === 'read.indexRange')?.count).toBe(2);
  });

  it('refuses a file without a usable face', async () => {
    await expect(read('v 0 0 0\nf 1 2 3\n')).rejects.toMatchObject({
      code: 'obj.empty',
      place: { file: 'm/a.obj' },
    });
  });

  it('assigns materials per face, with spaces in their names', async () => {
    const document = await read(
      `mtllib a.mtl\n${QUAD}usemtl Old Paint\nf 1 2 3\nusemtl Steel\nf 1 3 4\n`,
      'newmtl Old Paint\nKd 1 0 0\nnewmtl Steel\nPm 1\n',
    );
    expect(document.materials.map((material) => [material.name, material.workflow])).toEqual([
      ['Old Paint', 'legacy'],
      ['Steel', 'metalRough'],
    ]);
    expect([...(document.meshes[0].faceMaterial ?? [])]).toEqual([0, 1]);
  });

  it('takes d over Tr and remarks on the contradiction', async () => {
    const document = await read(`mtllib a.mtl\n${QUAD}usemtl G\nf 1 2 3\n`, 'newmtl G\nd 0.2\nTr 0.2\n');
    expect(document.materials[0].channels.opacity?.value).toBe(0.2);
    expect(document.remarks.map((remark) => remark.code)).toContain('read.opacityContradiction');
  });

  it('reads UTF-16, in pieces too, and UTF-8 with a mark before it', async () => {
    const text = `\ufeffo Möwe\n${QUAD}f 1 2 3\n`;
    const wide = new Uint8Array(Buffer.from(text, 'utf16le'));
    async function* pieces(content: Uint8Array) {
      for (let i = 0; i < content.length; i += 7) yield content.subarray(i, i + 7);
    }
    const source = memorySource('test', {});
    for (const content of [wide, pieces(wide), bytes(text)]) {
      const document = await readObj(content, 'a.obj', source);
      expect(document.nodes.map(({ name }) => name)).toEqual(['Möwe']);
      expect(document.remarks).toEqual([]);
    }
  });

  it('takes the library beside the model before others of its name', async () => {
    const files = {
      'a/hull.mtl': bytes('newmtl Far\n'),
      'm/hull.mtl': bytes('newmtl Near\n'),
      'm/tex/deck.mtl': bytes('newmtl Deck\n'),
      'z/MAST.MTL': bytes('newmtl Mast\n'),
    };
    const model = bytes(`mtllib hull.mtl\nmtllib tex\\deck.mtl\nmtllib mast.mtl\n${QUAD}f 1 2 3\n`);
    const document = await readObj(model, 'm/a.obj', memorySource('test', files));
    expect(document.materials.map(({ name }) => name)).toEqual(['Near', 'Deck', 'Mast']);
  });

  it('reads map options and paths with spaces', async () => {
    const document = await read(
      `mtllib a.mtl\n${QUAD}usemtl G\nf 1 2 3\n`,
      'newmtl G\nmap_Bump -bm 0.4 -s 2 3 C:\\my maps\\a b.png\n',
    );
    expect(document.images[0].written).toBe('C:\\my maps\\a b.png');
    expect(document.materials[0].channels.bump).toMatchObject({
      value: 0.4,
      map: { transform: { scale: [2, 3] } },
    });
  });

  it('gives the same result whatever pieces the bytes come in', () => {
    const text = bytes(`${QUAD}vt 0 0\nvt 1 0\nvt 1 1\ng hull\nf 1/1 2/2 \\\n3/3\nf 1/1/ 3/3 4/1\n`);
    const scan = (size: number) => {
      const scanner = new ObjScanner();
      for (let i = 0; i < text.length; i += size) scanner.feed(text.subarray(i, i + size));
      const out = scanner.finish();
      return [[...out.points.finish()], [...out.corners.finish()], [...out.faceCounts.finish()]];
    };
    for (const size of [1, 3, 7, 1000]) expect(scan(size)).toEqual(scan(text.length));
  });
});

describe('runs of faces', () => {
  it('have their smoothing group, and none where it is off from beginning to end', async () => {
    const grouped = await read(`${QUAD}s 2\nf 1 2 3\ns off\nf 1 3 4\ns 7\nf 2 3 4\n`);
    expect([...(grouped.meshes[0].faceSmoothing ?? [])]).toEqual([2, 0, 7]);
    expect((await read(`${QUAD}s off\nf 1 2 3\ns 0\nf 1 3 4\n`)).meshes[0].faceSmoothing).toBeNull();
    expect((await read(`${QUAD}f 1 2 3\n`)).meshes[0].faceSmoothing).toBeNull();
  });

  it('of several objects each have their own faces, corners and materials', async () => {
    const document = await read(
      `mtllib a.mtl\n${QUAD}o hull\nusemtl Paint\nf 1 2 3 4\nf 1 2 3\no deck\nusemtl Wood\nf 2 3 4\nusemtl Paint\nf 4 3 2 1\n`,
      'newmtl Paint\nnewmtl Wood\n',
    );
    expect(
      document.meshes.map(({ name, faceCounts, faceCorners, points }) => [
        name,
        [...faceCounts],
        [...faceCorners],
        [...points],
      ]),
    ).toEqual([
      ['hull', [4, 3], [0, 1, 2, 3, 0, 1, 2], [0, 0, 0, 2, 0, 0, 2, 3, 0, 0, 3, 0]],
      ['deck', [3, 4], [0, 1, 2, 2, 1, 0, 3], [2, 0, 0, 2, 3, 0, 0, 3, 0, 0, 0, 0]],
    ]);
    const materialsOf = (part: number) => {
      const { materials, mesh } = document.nodes[part];
      const { faceMaterial, faceCounts } = document.meshes[mesh];
      return Array.from(
        faceCounts,
        (_, face) => document.materials[materials[faceMaterial ? faceMaterial[face] : 0]].name,
      );
    };
    expect([materialsOf(0), materialsOf(1)]).toEqual([
      ['Paint', 'Paint'],
      ['Wood', 'Paint'],
    ]);
    // An image that two materials name is one.
    const shared = await read(
      `mtllib a.mtl\n${QUAD}usemtl A\nf 1 2 3\nusemtl B\nf 1 3 4\n`,
      'newmtl A\nmap_Kd wood.png\nnewmtl B\nmap_Kd wood.png\n',
    );
    expect(shared.images.map(({ written }) => written)).toEqual(['wood.png']);
  });

  it('go on behind a line that ends in a backslash, wherever a piece of the file ends', () => {
    const text = bytes('v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 \\\n2 \\\r\n3\n');
    for (let cut = 1; cut < text.length; cut += 1) {
      const scanner = new ObjScanner();
      scanner.feed(text.subarray(0, cut));
      scanner.feed(text.subarray(cut));
      const { faceCounts, corners, lines } = scanner.finish();
      expect([[...faceCounts.finish()], [...corners.finish()], lines], `cut at ${cut}`).toEqual([
        [3],
        [0, -1, -1, 1, -1, -1, 2, -1, -1],
        6,
      ]);
    }
  });

  it('may be taken apart by backslashes anywhere between words, and have them in names', () => {
    const scanner = new ObjScanner();
    scanner.feed(
      bytes(
        '# made \\\nby hand\nv\\\n1.5 -2 \\\r\n3e1\nvn 0 \\\n0 1\nvt .5\\\n.25\ng left \\\nhull\nmtllib tex\\quay.mtl\nv 1 x 3\n',
      ),
    );
    const out = scanner.finish();
    expect({
      points: [...out.points.finish()],
      normals: [...out.normals.finish()],
      uvs: [...out.uvs.finish()],
      groups: out.runs.map(({ group }) => group.split(/ +/)),
      libraries: out.libraries,
      bad: [...out.badPoints],
      header: out.header.split(/ +/),
      lines: out.lines,
    }).toEqual({
      points: [1.5, -2, 30, 1, 0, 3],
      normals: [0, 0, 1],
      uvs: [0.5, 0.25],
      groups: [['left', 'hull']],
      libraries: ['tex\\quay.mtl'],
      bad: [[1, 13]],
      header: ['made', 'by', 'hand'],
      lines: 13,
    });
  });
});
