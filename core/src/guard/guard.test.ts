import { execFile } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { afterAll, afterEach, describe, expect, it } from 'vitest';
import { describeSource } from '../asset/describeSource.ts';
import { editedDocument } from '../asset/editedDocument.ts';
import { replay } from '../edits/log.ts';
import { writeModel } from '../formats/writeModel.ts';
import { decodeImage } from '../images/decode.ts';
import { encodeExr } from '../images/exr.ts';
import { encodeHdr } from '../images/hdr.ts';
import { encodeTga } from '../images/tga.ts';
import { type FileSource, memorySource } from '../parcel/fileSource.ts';
import { DEFAULT_LIMITS, type Limits } from '../parcel/limits.ts';
import { previewGlb } from '../preview/previewGlb.ts';
import { readModel } from '../readModel.ts';
import { createDocument, createMesh, createNode } from '../scene/document.ts';
import { takeOff } from '../shape/takeoff.ts';
import { BOX_QUADS, boxPoints } from '../test/boxes.ts';
import { riggedCrane } from '../test/rigged.ts';
import { buffersOf } from './buffers.ts';
import { installGuard } from './guard.ts';
import { ThreadGuard } from './threads.ts';

const entry = new URL('./thread.mjs', import.meta.url);
const usual = new ThreadGuard(entry, DEFAULT_LIMITS);
const guards = [usual];
function behind(limits?: Partial<Limits>): void {
  const guard = limits ? new ThreadGuard(entry, { ...DEFAULT_LIMITS, ...limits }) : usual;
  if (limits) guards.push(guard);
  installGuard(guard);
}
afterEach(() => installGuard(null));
afterAll(() => Promise.all(guards.map((guard) => guard.close())));

const bytes = (text: string) => new TextEncoder().encode(text);
const ENDLESS = new Uint8Array(readFileSync(new URL('../test/broken/endless.exr', import.meta.url)));

describe('behind the guard', () => {
  it.each(['fbx', 'obj', 'usda', 'usdc'] as const)('%s is read as it is without', async (extension) => {
    const { files } = writeModel(riggedCrane(), `crane.${extension}`);
    const source = memorySource('crane', Object.fromEntries(files));
    const plain = await readModel(`crane.${extension}`, source);
    behind();
    expect(await readModel(`crane.${extension}`, source)).toEqual(plain);
  });

  it('a model has its neighbours, in pieces too', async () => {
    behind();
    const files = {
      'quay/a.obj': bytes('mtllib a.mtl\nusemtl Wood\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'),
      'quay/a.mtl': bytes('newmtl Wood\nKd 0.5 0.25 0\n'),
    };
    const whole = memorySource('quay', files);
    const pieces: FileSource = {
      ...whole,
      async *stream(path) {
        const content = await whole.read(path);
        for (let i = 0; i < content.length; i += 7) yield content.subarray(i, i + 7);
      },
    };
    for (const source of [whole, pieces]) {
      const { materials, meshes } = await readModel('quay/a.obj', source);
      expect(materials[0].channels.baseColor?.value).toEqual([0.5, 0.25, 0]);
      expect([...meshes[0].faceCorners]).toEqual([0, 1, 2]);
    }
  });

  it('areas and volumes are the same, and the document is handed over', async () => {
    const points = new Float64Array(boxPoints(0, 2));
    const crate = createMesh('crate', {
      points,
      faceCounts: new Uint32Array(6).fill(4),
      faceCorners: Uint32Array.from(BOX_QUADS.flat()),
    });
    const document = createDocument('obj', 'text');
    document.meshes.push(crate);
    document.nodes.push(createNode('crate', 'mesh', -1, { mesh: 0 }));
    const plain = takeOff(document);
    expect(plain).toEqual([
      { part: 'crate', material: '', faces: 6, area: 24, volume: expect.closeTo(8, 12) },
    ]);
    expect(await usual.takeOff(document, 'crate.obj')).toEqual(plain);
  });

  it('the geometry that edits leave is the same', async () => {
    const document = () => {
      const made = createDocument('obj', 'text');
      const crate = {
        faceCounts: new Uint32Array(6).fill(4),
        faceCorners: Uint32Array.from(BOX_QUADS.flat()),
      };
      made.meshes.push(createMesh('crate', { points: new Float64Array(boxPoints(0, 2)), ...crate }));
      made.nodes.push(
        createNode('crate', 'mesh', -1, { mesh: 0 }),
        createNode('lid', 'mesh', -1, { mesh: 0 }),
      );
      return made;
    };
    const origin = { from: 'hand' as const, detail: '' };
    const { state } = replay(
      describeSource(document(), 'crate.obj', []),
      [{ kind: 'editParts', change: { do: 'drop', parts: ['lid'] }, origin }],
      [],
    );
    const { document: edited, keys } = editedDocument(document(), state);
    expect(keys).toEqual(['crate']);
    expect(await usual.preview(document(), state, 'crate.obj')).toEqual(await previewGlb(edited, keys));
  });

  it('pixels are the same, and the source keeps its bytes', async () => {
    const picture = {
      width: 300,
      height: 200,
      components: 3,
      data: Uint8Array.from({ length: 180_000 }, (_, i) => (i * 7) % 251),
    };
    const files = {
      'a.tga': encodeTga(picture),
      'a.hdr': encodeHdr(picture),
      'a.exr': await encodeExr(picture),
    };
    for (const [name, content] of Object.entries(files)) {
      installGuard(null);
      const plain = await decodeImage(content, name);
      behind();
      expect(await decodeImage(content, name)).toEqual(plain);
      expect(await decodeImage(content, name, { maxSize: 50 })).toMatchObject({
        width: name === 'a.tga' ? 50 : 300,
      });
    }
  });

  it('errors keep their code, place and remedy', async () => {
    behind();
    const broken = bytes('; FBX 7.4.0 project file\nObjects:  {\n  Model: {\n');
    installGuard(null);
    const plain = await readModel('a.fbx', memorySource('a', { 'a.fbx': broken })).catch((error) => error);
    behind();
    const guarded = await readModel('a.fbx', memorySource('a', { 'a.fbx': broken })).catch((error) => error);
    expect(plain).toMatchObject({ code: expect.stringMatching(/^fbx\./), place: { file: 'a.fbx' } });
    expect(guarded.toJSON()).toEqual(plain.toJSON());
    const gone: FileSource = {
      ...memorySource('quay', { 'a.obj': bytes('v 0 0 0\n') }),
      read: () => Promise.reject(Object.assign(new Error('EIO'), { code: 'EIO' })),
    };
    await expect(readModel('a.obj', gone)).rejects.toMatchObject({
      code: 'disk.fault',
      place: { file: 'a.obj' },
    });
  });

  it('a file that is never read to its end is given up, and the next one is read', async () => {
    behind({ seconds: 0.7 });
    await expect(decodeImage(ENDLESS, 'quay/endless.exr')).rejects.toMatchObject({
      code: 'limit.seconds',
      message: 'it was not read after 1 seconds, so it was given up',
      place: { file: 'quay/endless.exr' },
      hint: expect.stringContaining('KINKAJOU_LIMIT_SECONDS'),
    });
    const dot = encodeTga({ width: 1, height: 1, components: 3, data: Uint8Array.of(1, 2, 3) });
    behind();
    expect([...(await decodeImage(dot, 'a.tga')).data]).toEqual([1, 2, 3]);
  });

  it('a file that takes more memory than it may is given up', async () => {
    const records = '  Model: 1, "Model::post", "Null" {\n  }\n'.repeat(600_000);
    behind({ megabytes: 100 });
    await expect(
      readModel(
        'a.fbx',
        memorySource('a', { 'a.fbx': bytes(`; FBX 7.4.0 project file\nObjects:  {\n${records}}\n`) }),
      ),
    ).rejects.toMatchObject({
      code: 'limit.megabytes',
      place: { file: 'a.fbx' },
      hint: expect.stringContaining('KINKAJOU_LIMIT_MEGABYTES'),
    });
  });
});

describe('under the watchdog', () => {
  const watched = (body: string) =>
    new Promise<{ code: number | null; signal: string | null; out: string; err: string }>((resolve) => {
      const script = `import { Watchdog } from '${new URL('./watchdog.ts', import.meta.url).href}'; const dog = new Watchdog(0.8); ${body}`;
      const child = execFile(
        process.execPath,
        ['--import', 'tsx', '--input-type=module', '-e', script],
        (_error, out, err) => resolve({ code: child.exitCode, signal: child.signalCode, out, err }),
      );
    });

  it('work that ends gives what it gives, and the process ends by itself', async () => {
    const ended = await watched(
      "const wait = () => new Promise((resolve) => setTimeout(resolve, 1500)); console.log(await dog.during('a.obj', async () => { await wait(); return 7; }));",
    );
    expect(ended).toMatchObject({ code: 0, out: '7\n', err: '' });
  });

  it('work that never ends takes the process with it, in words', async () => {
    const ended = await watched("await dog.during('quay/endless.obj', async () => { for (;;); });");
    expect(ended).toMatchObject({
      signal: 'SIGTERM',
      err: expect.stringMatching(/^quay\/endless\.obj: it was not read after 1 seconds/),
    });
  });

  it('small models are read where they are asked for', async () => {
    const guard = new ThreadGuard(new URL('file:///nowhere.mjs'), DEFAULT_LIMITS, 1000);
    installGuard(guard);
    const { meshes } = await readModel(
      'a.obj',
      memorySource('a', { 'a.obj': bytes('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n') }),
    );
    expect(meshes.length).toBe(1);
  });
});

describe('what is handed over', () => {
  it('are large buffers, each once, wherever they hang', () => {
    const [large, other] = [new Float64Array(20_000), new Uint8Array(100_000)];
    const small = new Uint8Array(100);
    const value = {
      a: [large, small],
      b: new Map([['x', { y: large.subarray(5), z: other }]]),
      self: null as unknown,
    };
    value.self = value;
    expect(buffersOf(value)).toEqual([large.buffer, other.buffer]);
    expect(buffersOf('text')).toEqual([]);
  });
});
