import { beforeAll, expect, it } from 'vitest';
import { findDestination } from '../../destinations/destinations.ts';
import type { Destination } from '../../destinations/profile.ts';
import { encodePng } from '../../images/encode.ts';
import { listModels, mendAsset, openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { handOff } from '../handoff.ts';
import type { Receipt } from './receipt.ts';

const MODEL =
  'mtllib crate.mtl\no Crate\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 0 1\nusemtl Oak\nf 1/1/1 2/2/1 3/3/1 4/4/1\n';
const MATERIAL =
  'newmtl Oak\nmap_Kd oak_basecolor.png\nmap_Pr oak_roughness.png\nPm 0\nnorm oak_normal.png\n';
const text = (value: string) => new TextEncoder().encode(value);

let receipt: Receipt;
beforeAll(async () => {
  const image = (components: 1 | 3, width: number) =>
    encodePng({
      width,
      height: 8,
      components,
      data: Uint8Array.from({ length: width * 8 * components }, (_, i) => (i * 37) % 200),
    });
  const files = {
    'crate.obj': text(MODEL),
    'crate.mtl': text(MATERIAL),
    'oak_basecolor.png': await image(3, 16),
    'oak_roughness.png': await image(1, 8),
  };
  const source = memorySource('crate', files);
  const asset = await openAsset(source, listModels(source)[0]);
  const { edits, state, findings } = mendAsset(asset.source, asset.images, 'all');
  const destination = findDestination('engine-packed') as Destination;
  receipt = (await handOff({ ...asset, state, edits, findings, destination, choices: {} })).receipt;
});

it('tells of every image where each component comes from, its size, and whether it was taken as it is', () => {
  const [colour, packed] = ['BC', 'ORM'].map((suffix) =>
    receipt.packed.find(({ file }) => file.includes(`_${suffix}.`)),
  );
  expect(colour).toMatchObject({ width: 16, height: 8, copied: true });
  expect(packed).toMatchObject({ width: 8, height: 8, copied: false });
  expect(Object.keys(packed?.components ?? {})).toEqual(['r', 'g', 'b']);
  expect(packed?.components.g).toMatch(/^roughness from oak_roughness\.png/);
  expect(packed?.components.b).toMatch(/^metalness has no map: 0/);
});

it('tells each finding that is left, and each loss', () => {
  expect(receipt.openFindings).toEqual([
    {
      code: 'link.missing',
      severity: 'error',
      subject: 'oak_normal.png',
      message: expect.stringMatching(/^Oak, normal\./),
    },
  ]);
  expect(receipt.losses).toContain('Oak: the image of normal is missing; its value stands alone');
  expect(receipt.verdict).toBe('with remarks');
});
