import type { AssetSource, AssetState, ParcelImage } from '../asset/asset.ts';
import { findFindings } from '../findings/checks.ts';
import type { Knowledge } from '../findings/knowledge.ts';
import { mendAsset } from '../inspect.ts';
import { lookAtPixels, type PixelFacts } from '../maps/pixelFacts.ts';
import type { Material } from '../scene/material.ts';
import { testImage, testMaterial, testSource, testState } from './assets.ts';

export const SIZE = 64;
export type Paint = (x: number, y: number) => number[];

/** Files by path; those without a painter were not looked at. */
export function parcel(
  paths: readonly string[],
  paints: Record<string, Paint> = {},
): { files: ParcelImage[]; facts: Map<string, PixelFacts> } {
  const facts = new Map<string, PixelFacts>();
  const files = paths.map((path) => {
    const paint = paints[path];
    if (!paint) return testImage(path);
    const values: number[] = [];
    for (let y = 0; y < SIZE; y += 1) for (let x = 0; x < SIZE; x += 1) values.push(...paint(x, y));
    const components = values.length / (SIZE * SIZE);
    const file = testImage(path, { width: SIZE, height: SIZE, components });
    facts.set(
      file.sha256,
      lookAtPixels({ width: SIZE, height: SIZE, components, data: Uint8Array.from(values) }),
    );
    return file;
  });
  return { files, facts };
}

export interface Case {
  materials: Material[];
  paths: readonly string[];
  missing?: readonly string[];
  source?: Partial<AssetSource>;
  paints?: Record<string, Paint>;
  knowledge?: Partial<Knowledge>;
}

export function look({ materials, paths, missing = [], source = {}, paints = {}, knowledge = {} }: Case) {
  const state = testState(materials, missing);
  const faces = Object.fromEntries(materials.map(({ key }) => [key, 10]));
  const full = { ...testSource(state), facesPerMaterial: faces, ...source };
  const { files, facts } = parcel(paths, paints);
  const existing = { facts, ...knowledge };
  return {
    source: full,
    state,
    files,
    known: existing,
    findings: findFindings(full, state, files, existing),
  };
}

/** Which file each slot reads once what is safe is mended: `Hull baseColor: hull_color.png`. */
export function mended(of: Case): string[] {
  const { source, files, known: existing } = look(of);
  return readings(mendAsset(source, files, 'safe', existing).state);
}

export function readings({ materials, images }: AssetState): string[] {
  const paths = new Map(images.map(({ key, resolved }) => [key, resolved]));
  return materials.flatMap(({ key, channels }) =>
    Object.entries(channels).flatMap(([channel, content]) =>
      content.map ? [`${key} ${channel}: ${paths.get(content.map.image) ?? 'missing'}`] : [],
    ),
  );
}

export const bare = (...names: string[]) => names.map((name) => testMaterial(name));
export const files = (...sets: string[]) => sets.flatMap((set) => [`${set}_color.png`, `${set}_normal.png`]);
