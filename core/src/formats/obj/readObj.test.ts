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
    await expect(read('v 0 0 0\nf 1 2 3\n')).rejects.toMatchObject({ code: 'obj.empty', place: { file: 'm/a.obj' } });
  });

  it('assigns materials per face, with spaces in their names', async () => {
    const document = await read(`mtllib a.mtl\n${QUAD}usemtl Old Paint\nf 1 2 3\nusemtl Steel\nf 1 3 4\n`, 'newmtl Old Paint\nKd 1 0 0\nnewmtl Steel\nPm 1\n');
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

  it('reads map options and paths with spaces', async () => {
    const document = await read(`mtllib a.mtl\n${QUAD}usemtl G\nf 1 2 3\n`, 'newmtl G\nmap_Bump -bm 0.4 -s 2 3 C:\\my maps\\a b.png\n');
    expect(document.images[0].written).toBe('C:\\my maps\\a b.png');
    expect(document.materials[0].channels.bump).toMatchObject({ value: 0.4, map: { transform: { scale: [2, 3] } } });
  });

  it('gives the same result whatever pieces the bytes come in', () => {
    const text = bytes(`${QUAD}vt 0 0\nvt 1 0\nvt 1 1\ng hull\nf 1/1 2/2 \\\n3/3\nf 1/1/ 3/3 4/1\n`);
    const scan = (size: number) => {
      const scanner = new ObjScanner();
      for (let i = 0; i < text.length; i += size) scanner.feed(text.subarray(i, i + size));
      const out = scanner.finish();
      return [[...out.points.finish()], [...out.cornerPoints.finish()], [...out.cornerUvs.finish()], [...out.faceCounts.finish()]];
    };
    for (const size of [1, 3, 7, 1000]) expect(scan(size)).toEqual(scan(text.length));
  });
});
