import { BufferGeometry, Float32BufferAttribute, Mesh } from 'three';
import { beforeAll, describe, expect, it } from 'vitest';
import { stormLantern } from '../../../../demo/src/stormLantern.ts';
import type { ModelSide } from '../../compare/compareModels.ts';
import { findDestination } from '../../destinations/destinations.ts';
import type { Destination } from '../../destinations/profile.ts';
import { writeModel } from '../../formats/writeModel.ts';
import { encodePng } from '../../images/encode.ts';
import { listModels, mendAsset, openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { createDocument, createMesh, createNode, type PolygonMesh, Z_UP } from '../../scene/document.ts';
import { createMapUse, createMaterial } from '../../scene/material.ts';
import { smallParcel } from '../../test/harbour.ts';
import { handOff } from '../handoff.ts';
import type { PackageFiles } from '../write/writeGltf.ts';
import { sideOf } from './proof.ts';
import { secondOpinion } from './secondOpinion.ts';
import { onPretendedPage, seenOf, threeSees } from './secondReader.ts';

const PACKAGES = [
  ['web-gltf', 'glb', 'glb'],
  ['web-gltf', 'gltf', 'gltf'],
  ['modelling', 'fbx', 'fbx'],
  ['compositor-classic', 'obj', 'obj'],
  ['compositor-usd', 'usdz', 'usdz'],
  ['compositor-usd', 'usda', 'usda'],
] as const;

interface Written {
  files: PackageFiles;
  model: string;
}

const packages = new Map<string, Written>();

beforeAll(async () => {
  const source = memorySource('lantern', (await smallParcel(stormLantern, 32)).files);
  const asset = await openAsset(source, listModels(source)[0]);
  const { document, images, read } = asset;
  const { edits, state, findings } = mendAsset(asset.source, images, 'all');
  for (const [id, variant, extension] of PACKAGES) {
    const destination = findDestination(id) as Destination;
    const { files } = await handOff({
      document,
      source: asset.source,
      state,
      edits,
      findings,
      images,
      destination,
      choices: { variant },
      read,
    });
    packages.set(variant, {
      files,
      model: [...files.keys()].find((path) => path.endsWith(`.${extension}`)) as string,
    });
  }
});

/** The checks that fail where we read the package otherwise than it is. */
async function wrong(variant: string, change: (side: ModelSide) => ModelSide): Promise<string[]> {
  const { files, model } = packages.get(variant) as Written;
  const side = change(await sideOf(memorySource('package', Object.fromEntries(files)), model));
  return (await secondOpinion(files, model, side)).flatMap(({ check, ok, found }) =>
    ok ? [] : [`${check}: ${found}`],
  );
}

const withMeshes = (side: ModelSide, change: (mesh: PolygonMesh) => PolygonMesh): ModelSide => ({
  ...side,
  document: { ...side.document, meshes: side.document.meshes.map(change) },
});

describe.each(PACKAGES)('%s as %s, seen by another reader', (_, variant) => {
  it('is what we read', async () => {
    expect(await wrong(variant, (side) => side)).toEqual([]);
  });

  it('is told where we take v the other way', async () => {
    const found = await wrong(variant, (side) =>
      withMeshes(side, (mesh) => ({
        ...mesh,
        uvSets: mesh.uvSets.map((layer) => ({
          ...layer,
          values: layer.values.map((value, i) => (i % 2 === 1 ? 0.9 - value : value)),
        })),
      })),
    );
    expect(found.join('\n')).toMatch(/^second reader: UVs: .* UVs are not there, \d+ are there besides/);
  });

  it('is told where faces have each other’s materials', async () => {
    const found = await wrong(variant, ({ document, ...side }) => {
      const used = document.nodes.flatMap(({ mesh, materials }) => (mesh >= 0 ? materials : []));
      const [one, two] = [...new Set(used)];
      const swap = (index: number) => {
        if (index === one) return two;
        return index === two ? one : index;
      };
      return {
        ...side,
        document: {
          ...document,
          nodes: document.nodes.map((node) => ({ ...node, materials: node.materials.map(swap) })),
        },
      };
    });
    expect(found.join('\n')).toMatch(/second reader: faces of materials: .* has \d+ triangles, not \d+/);
  });

  it('is told where an image lies in another slot, or is another', async () => {
    const moved = await wrong(variant, (side) => {
      const materials = structuredClone(side.materials) as ModelSide['materials'];
      for (const { channels } of materials)
        if (channels.normal?.map && channels.baseColor?.map)
          [channels.normal.map, channels.baseColor.map] = [channels.baseColor.map, channels.normal.map];
      return { ...side, materials };
    });
    expect(moved.join('\n')).toMatch(/second reader: /);
    const other = await wrong(variant, (side) => ({
      ...side,
      images: side.images.map((image) => ({
        ...image,
        resolved: side.images.find(({ key }) => key !== image.key)?.resolved ?? null,
      })),
    }));
    expect(other.join('\n')).toMatch(
      /second reader: images in slots: .*(another image lies in|is not there)/,
    );
  });

  it('is told where a part is not there', async () => {
    const found = await wrong(variant, ({ document, ...side }) => {
      const last = document.nodes.findLastIndex(({ mesh }) => mesh >= 0);
      return {
        ...side,
        document: {
          ...document,
          nodes: document.nodes.map((node, i) => (i === last ? { ...node, mesh: -1 } : node)),
        },
      };
    });
    expect(found[0]).toMatch(/^second reader \(three\): \d+ triangles/);
  });
});

/** A source whose materials have the names that go out. */
const asOriginal = (bytes: Uint8Array) => ({ bytes, names: new Map<string, string>() });

describe('what another reader cannot open', () => {
  it('fails, unless it could not open the source either', async () => {
    const { files, model } = packages.get('fbx') as Written;
    const side = await sideOf(memorySource('package', Object.fromEntries(files)), model);
    const broken = new Map(files).set(model, new TextEncoder().encode('no model at all'));
    expect((await secondOpinion(broken, model, side)).map(({ ok }) => ok)).toEqual([false]);
    expect(
      (await secondOpinion(broken, model, side, asOriginal(files.get(model) as Uint8Array))).map(
        ({ ok }) => ok,
      ),
    ).toEqual([false]);
    expect(
      (await secondOpinion(broken, model, side, asOriginal(new Uint8Array(20)))).map(({ ok, found }) => [
        ok,
        found,
      ]),
    ).toEqual([[true, 'cannot open the source either']]);
  });
});

describe('a source file that was changed itself', () => {
  it('is told where an image lies in another slot, whatever the source says of images beside it', async () => {
    const { files, model } = packages.get('fbx') as Written;
    const source = files.get(model) as Uint8Array;
    const side = await sideOf(memorySource('package', Object.fromEntries(files)), model);
    const failed = async (one: ModelSide) =>
      (await secondOpinion(files, model, one, asOriginal(source)))
        .filter(({ ok }) => !ok)
        .map(({ check }) => check);
    expect(await failed(side)).toEqual([]);
    const exchanged = {
      ...side,
      images: side.images.map((image, i, all) => ({
        ...image,
        resolved: all[(i + 1) % all.length].resolved,
      })),
    };
    expect(await failed(exchanged)).toEqual(['second reader: images in slots']);
  });
});

it('a polygon that goes round the same corners again and again may be cut in other ways', async () => {
  const document = createDocument('fbx', 'test');
  const round = Array.from({ length: 60 }, (_, k) => k % 4);
  document.meshes.push(
    createMesh('plate', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0),
      faceCounts: Uint32Array.of(round.length, 4),
      faceCorners: Uint32Array.from([...round, 0, 1, 2, 3]),
    }),
  );
  document.nodes.push(createNode('plate', 'mesh', -1, { mesh: 0, materials: [-1] }));
  const bytes = writeModel(document, 'plate.fbx').files.get('plate.fbx') as Uint8Array;
  const side = await sideOf(memorySource('plate', { 'plate.fbx': bytes }), 'plate.fbx');
  const checks = await secondOpinion(new Map([['plate.fbx', bytes]]), 'plate.fbx', side);
  expect(checks.filter(({ ok }) => !ok)).toEqual([]);
});

it('corners that the other reader puts nowhere are none', () => {
  const geometry = new BufferGeometry();
  const nowhere = Number.NaN;
  const points = [0, 0, 0, 2, 0, 0, 0, 3, 0, nowhere, 0, 0, 0, nowhere, 0, 0, 0, Number.POSITIVE_INFINITY];
  geometry.setAttribute('position', new Float32BufferAttribute(points, 3));
  expect(seenOf(new Mesh(geometry))).toEqual({ triangles: 1, min: [0, 0, 0], max: [2, 3, 0] });
  geometry.setIndex([0, 1, 2, 0, 2, 1, 3, 4, 5]);
  expect(seenOf(new Mesh(geometry)).triangles).toBe(2);
  // Nor is a point that no corner names.
  geometry.setAttribute('position', new Float32BufferAttribute([0, 0, 0, 2, 0, 0, 0, 3, 0, 9, 9, 9], 3));
  geometry.setIndex([0, 1, 2]);
  expect(seenOf(new Mesh(geometry))).toEqual({ triangles: 1, min: [0, 0, 0], max: [2, 3, 0] });
});

describe('the page that the other reader looks for', () => {
  it('is there until the last of several readings is done', async () => {
    const hasPage = () => 'document' in globalThis;
    let release = () => {};
    const long = onPretendedPage(() => new Promise<void>((resolve) => (release = resolve)));
    expect(await onPretendedPage(hasPage)).toBe(true);
    expect(hasPage()).toBe(true);
    release();
    await long;
    expect(hasPage()).toBe(false);
    await expect(onPretendedPage(() => Promise.reject(new Error('torn')))).rejects.toThrow('torn');
    expect(hasPage()).toBe(false);
  });
});

it('reads an FBX with Y up and one uppermost part as it is turned and mirrored', async () => {
  const document = createDocument('fbx', 'test');
  document.meshes.push(
    createMesh('beam', {
      points: Float64Array.of(0, 0, 0, 4, 0, 0, 4, 1, 2),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    }),
  );
  const mirrored = createNode('quay', 'group', -1);
  Object.assign(mirrored.transform, { rotation: [0, 0, 90], scale: [1, -1, 1] });
  const beam = createNode('beam', 'mesh', 0, { mesh: 0 });
  beam.transform.rotation = [0, 45, 0];
  document.nodes.push(mirrored, beam);
  const bytes = writeModel(document, 'beam.fbx', {}).files.get('beam.fbx') as Uint8Array;
  const { min, max } = await threeSees('fbx', bytes);
  // About y by 45° the corners are (0,0,0), 4 (r,0,-r), (4r+2r,1,2r-4r) with r = sqrt(0.5); then y is mirrored, and
  // x goes to y, y to -x.
  const r = Math.SQRT1_2;
  [0, 0, -4 * r].forEach((side, k) => expect(min[k]).toBeCloseTo(side, 5));
  [1, 6 * r, 0].forEach((side, k) => expect(max[k]).toBeCloseTo(side, 5));
});

it('reads an FBX with Z up and one uppermost part as it is turned', async () => {
  const document = createDocument('fbx', 'test');
  document.axes = Z_UP;
  const [long, wide, high] = [4, 1, 2];
  document.meshes.push(
    createMesh('beam', {
      points: Float64Array.of(0, 0, 0, long, 0, 0, long, wide, high),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    }),
  );
  const turned = (name: string, parent: number, mesh: number) => {
    const node = createNode(name, mesh >= 0 ? 'mesh' : 'group', parent, { mesh });
    node.transform.rotation = [0, 0, 45];
    document.nodes.push(node);
  };
  // Two turns of 45° about the upright axis: what was long is wide.
  turned('quay', -1, -1);
  turned('beam', 0, 0);
  const bytes = writeModel(document, 'beam.fbx', {}).files.get('beam.fbx') as Uint8Array;
  const { min, max } = await threeSees('fbx', bytes);
  const sides = max.map((value, k) => value - min[k]).sort((a, b) => a - b);
  [wide, high, long].forEach((side, k) => expect(sides[k]).toBeCloseTo(side, 5));
});

describe('polygons that cross themselves', () => {
  // Another face beside it, which reaches farther, so that what is left out makes nothing smaller.
  const beside = [
    [-9, -9, -9],
    [2000, 9, 9],
    [2000, 9, -9],
  ];
  const sheet = (corners: number[][]) => {
    const document = createDocument('fbx', 'test');
    const all = [...corners, ...beside];
    document.meshes.push(
      createMesh('sail', {
        points: Float64Array.from(all.flat()),
        faceCounts: Uint32Array.of(corners.length, beside.length),
        faceCorners: Uint32Array.from(all, (_, i) => i),
      }),
    );
    document.nodes.push(createNode('sail', 'mesh', -1, { mesh: 0 }));
    return document;
  };
  const opinion = async (corners: number[][], read: number[][]) => {
    const { files } = writeModel(sheet(corners), 'sail.fbx', {});
    const side = await sideOf(
      memorySource('sail', Object.fromEntries(writeModel(sheet(read), 'sail.fbx', {}).files)),
      'sail.fbx',
    );
    return (await secondOpinion(files, 'sail.fbx', side)).filter(({ ok }) => !ok).map(({ check }) => check);
  };
  // The last corner but one comes first: the outline crosses itself.
  const crossed = [
    [0, 0, 0],
    [2, 0, 0],
    [0, 2, 0],
    [2, 2, 0],
    [1, 3, 0],
  ];
  const plain = [
    [0, 0, 0],
    [2, 0, 0],
    [2, 2, 0],
    [1, 3, 0],
    [0, 2, 0],
  ];

  it('are bent and cross themselves as seen from their front, and may lose what cannot be clipped off', async () => {
    const bent = [
      [-0.0555, 0.3806, 0.4017],
      [-0.022, 0.3828, 0.3863],
      [-0.0272, 0.3828, 0.3878],
      [-0.0478, 0.3772, 0.4167],
    ];
    expect(await opinion(bent, bent)).toEqual([]);
  });

  it('may lose a corner that single floats lay upon the next', async () => {
    const far = 1000;
    const close = [
      [far, 0, 0],
      [far + 2, 0, 0],
      [far + 2, 2, 0],
      [far + 1, 3, 0],
      [far + 1 - 1e-5, 3, 0],
      [far, 2, 0],
    ];
    expect(await opinion(close, close)).toEqual([]);
  });

  it('may be cut into fewer triangles, plain ones may not', async () => {
    expect(await opinion(crossed, crossed)).toEqual([]);
    expect(await opinion(plain, plain)).toEqual([]);
    // Two triangles where we read three of a plain outline.
    expect(await opinion(plain.slice(0, 4), plain)).toContain('second reader (three)');
  });
});

describe('what the other reader cannot read of a source file', () => {
  /** A beam whose image lies inside under a name without a type, and that the other reader so does not take. */
  async function beam(width: number, wood = 'Oak'): Promise<Uint8Array> {
    const document = createDocument('fbx', 'test');
    const image = await encodePng({ width: 2, height: 2, components: 3, data: new Uint8Array(12).fill(90) });
    document.images.push({ key: 'oak.png', written: 'oak.png', relative: 'oak.png', embedded: null });
    const material = createMaterial(wood, 'metalRough');
    const map = createMapUse('oak.png', 'baseColor');
    material.channels.baseColor = { value: [1, 1, 1], map, source: { from: 'file', detail: '' } };
    document.materials.push(material);
    document.meshes.push(
      createMesh('beam', {
        points: Float64Array.of(0, 0, 0, 4, 0, 0, 4, width, 0),
        faceCounts: Uint32Array.of(3),
        faceCorners: Uint32Array.of(0, 1, 2),
      }),
    );
    document.nodes.push(createNode('beam', 'mesh', -1, { mesh: 0, materials: [0] }));
    const targetOf = () => ({ path: 'oak.odd', embed: image });
    return writeModel(document, 'beam.fbx', { targetOf }).files.get('beam.fbx') as Uint8Array;
  }
  const failed = async (
    bytes: Uint8Array,
    original: Uint8Array | undefined,
    change = (side: ModelSide) => side,
    names: ReadonlyMap<string, string> = new Map(),
  ) => {
    const side = await sideOf(memorySource('beam', { 'beam.fbx': bytes }), 'beam.fbx');
    const checks = await secondOpinion(
      new Map([['beam.fbx', bytes]]),
      'beam.fbx',
      change(side),
      original && { bytes: original, names },
    );
    return checks.filter(({ ok }) => !ok).map(({ check }) => check);
  };

  it('is not held against the one that was changed itself', async () => {
    const bytes = await beam(1);
    expect(await failed(bytes, undefined)).toEqual(['second reader: images in slots']);
    expect(await failed(bytes, bytes)).toEqual([]);
    // Under another name it is the same material of the source.
    const renamed = await beam(1, 'Teak');
    const same = (side: ModelSide) => side;
    expect(await failed(renamed, bytes, same, new Map([['Teak', 'Oak']]))).toEqual([]);
    expect(await failed(renamed, bytes)).toEqual(['second reader: images in slots']);
  });

  it('is, where it reads the changed one otherwise', async () => {
    const halved = (side: ModelSide) => {
      side.document.meshes[0].points[7] /= 2;
      return side;
    };
    expect(await failed(await beam(1), await beam(1), halved)).toEqual([]);
    expect(await failed(await beam(1), await beam(2), halved)).toEqual(['second reader (three)']);
  });
});
