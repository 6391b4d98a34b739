import { type EnvironmentKey, isEnvironmentKey, meanRadiance } from '@kinkajou/core/maps/environments';
import {
  DataTexture,
  DataUtils,
  EquirectangularReflectionMapping,
  HalfFloatType,
  LinearFilter,
  RepeatWrapping,
  RGBAFormat,
  type Texture,
  type WebGLRenderer,
} from 'three';
import { EXRLoader } from 'three/addons/loaders/EXRLoader.js';
import { HDRLoader } from 'three/addons/loaders/HDRLoader.js';
import { blobUrl } from '@/ui/api';
import type { DrawnEnvironment } from './environment.worker.ts';
import { prefilterOf } from './prefilter.ts';

/** A light source around the object. */
export interface Environment {
  /** Filtered for lighting. */
  lighting: Texture;
  /** As it was drawn or read, sharp, with its numbers at hand. */
  sharp: Texture;
  /** Mean radiance of what is around. */
  mean: number;
  dispose(): void;
}

/** The environment of a choice: a computed one, or `file:SHA256.hdr`. Throws when a file cannot be read. */
export async function loadEnvironment(renderer: WebGLRenderer, choice: string): Promise<Environment> {
  if (choice.startsWith('file:')) return loadFile(renderer, choice.slice(5));
  return computed(renderer, isEnvironmentKey(choice) ? choice : 'studio');
}

async function loadFile(renderer: WebGLRenderer, name: string): Promise<Environment> {
  const [hash, type] = name.split('.');
  const loader = type === 'exr' ? new EXRLoader() : new HDRLoader();
  const texture = await loader.loadAsync(blobUrl(hash));
  const { width, height, data } = texture.image as { width: number; height: number; data: Uint16Array };
  return filtered(
    renderer,
    texture,
    meanRadiance(width, height, 4, (index) => DataUtils.fromHalfFloat(data[index])),
  );
}

async function computed(renderer: WebGLRenderer, key: EnvironmentKey): Promise<Environment> {
  const { texels, width, height, mean } = await draw(key);
  const texture = new DataTexture(texels, width, height, RGBAFormat, HalfFloatType);
  texture.minFilter = LinearFilter;
  texture.magFilter = LinearFilter;
  texture.wrapS = RepeatWrapping;
  texture.needsUpdate = true;
  return filtered(renderer, texture, mean);
}

/** What was drawn already: benches are opened one after the other. */
const drawn = new Map<EnvironmentKey, Promise<DrawnEnvironment>>();

function draw(key: EnvironmentKey): Promise<DrawnEnvironment> {
  const existing = drawn.get(key);
  if (existing) return existing;
  const worker = new Worker(new URL('./environment.worker.ts', import.meta.url), { type: 'module' });
  const made = new Promise<DrawnEnvironment>((resolve, reject) => {
    worker.onmessage = ({ data }: MessageEvent<DrawnEnvironment>) => resolve(data);
    worker.onerror = ({ message }) =>
      reject(new Error(message || 'the part of the page that draws it did not come'));
    worker.postMessage(key);
  }).finally(() => worker.terminate());
  drawn.set(key, made);
  made.catch(() => drawn.delete(key));
  return made;
}

/** Filtered for lighting; the graphics card gives the picture itself back. */
function filtered(renderer: WebGLRenderer, texture: Texture, mean: number): Environment {
  texture.mapping = EquirectangularReflectionMapping;
  const generator = prefilterOf(renderer);
  const target = generator.fromEquirectangular(texture);
  generator.dispose();
  texture.dispose();
  return { lighting: target.texture, sharp: texture, mean, dispose: () => target.dispose() };
}
