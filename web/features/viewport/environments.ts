import {
  BackSide,
  BoxGeometry,
  Color,
  EquirectangularReflectionMapping,
  Mesh,
  MeshBasicMaterial,
  Scene,
  ShaderMaterial,
  SphereGeometry,
  type Texture,
  type WebGLRenderer,
} from 'three';
import { EXRLoader } from 'three/addons/loaders/EXRLoader.js';
import { HDRLoader } from 'three/addons/loaders/HDRLoader.js';
import { blobUrl } from '@/ui/api';
import { prefilterOf } from './prefilter.ts';

/** A lamp surface: where it stands, how large it is, how bright (1 is white paper). */
interface SoftBox {
  at: [number, number, number];
  size: [number, number, number];
  light: number;
  tint: string;
}

interface Surround {
  title: string;
  /** GLSL: the light from direction `d`, y upwards. */
  sky: string;
  boxes: readonly SoftBox[];
}

const STUDIO: Surround = {
  title: 'Soft studio',
  sky: `
  vec3 light = mix(mix(vec3(0.20, 0.19, 0.17), vec3(0.46, 0.45, 0.42), smoothstep(0.38, 0.54, up)), vec3(0.78, 0.78, 0.76), smoothstep(0.5, 0.95, up));`,
  boxes: [
    { at: [0, 9.2, 0], size: [9, 0.1, 6], light: 5, tint: '#fff6e6' },
    { at: [-8.6, 3.6, 3], size: [0.1, 5, 4], light: 7, tint: '#fff1da' },
    { at: [8.8, 2.6, 1.5], size: [0.1, 6, 2], light: 4.5, tint: '#eaf3ff' },
    { at: [2, 2.8, -9], size: [7, 1.6, 0.1], light: 4, tint: '#ffffff' },
    { at: [-2, 1.4, 9.4], size: [3, 1.2, 0.1], light: 2.2, tint: '#fff6e6' },
  ],
};

/** Overcast: luminance (1 + 2 sin elevation) / 3 of the zenith's, the CIE standard overcast sky. */
const OVERCAST: Surround = {
  title: 'Overcast',
  sky: `
  float cloud = 0.5 + 0.5 * sin(d.x * 9.0 + 2.0 * sin(d.z * 7.0)) * sin(d.z * 8.0 + d.y * 5.0);
  vec3 light = d.y > 0.0
    ? vec3(0.86, 0.93, 1.0) * 2.4 * (1.0 + 2.0 * d.y) / 3.0 * (0.92 + 0.08 * cloud)
    : mix(vec3(0.26, 0.28, 0.27), vec3(0.13, 0.14, 0.13), min(1.0, -d.y * 2.0));
  light = mix(light, vec3(0.62, 0.68, 0.72), smoothstep(0.03, 0.0, abs(d.y)));`,
  boxes: [],
};

const LOW_SUN: Surround = {
  title: 'Low sun',
  sky: `
  vec3 sun = normalize(vec3(0.55, 0.2, 0.81));
  float towards = max(dot(d, sun), 0.0);
  vec3 light = d.y > 0.0
    ? mix(mix(vec3(0.62, 0.62, 0.72), vec3(1.2, 0.66, 0.34), pow(dot(d, sun) * 0.5 + 0.5, 3.0)), vec3(0.2, 0.36, 0.66), pow(min(1.0, d.y * 1.4), 0.7))
    : mix(vec3(0.36, 0.3, 0.25), vec3(0.16, 0.14, 0.12), min(1.0, -d.y * 3.0));
  light += vec3(1.0, 0.55, 0.22) * (1.2 * pow(towards, 8.0) + 4.0 * pow(towards, 120.0)) * step(-0.02, d.y);
  light += vec3(1.0, 0.74, 0.45) * 260.0 * smoothstep(0.9984, 0.9994, towards);`,
  boxes: [],
};

const WORKSHOP: Surround = {
  title: 'Workshop',
  sky: `
  float beam = step(0.93, fract(atan(d.x, d.z) * 3.8));
  vec3 wall = mix(vec3(0.22, 0.16, 0.11), vec3(0.12, 0.085, 0.06), beam);
  vec3 light = mix(mix(vec3(0.09, 0.075, 0.06), wall, smoothstep(0.36, 0.5, up)), vec3(0.14, 0.11, 0.085), smoothstep(0.72, 0.9, up));`,
  boxes: [
    { at: [-9.6, 3.2, -1.6], size: [0.1, 3.2, 2.2], light: 9, tint: '#dcecff' },
    { at: [-9.6, 3.2, 1.6], size: [0.1, 3.2, 2.2], light: 9, tint: '#dcecff' },
    { at: [3.2, 6.4, 0.6], size: [0.6, 0.1, 0.6], light: 42, tint: '#ffc98a' },
    { at: [-2.4, 6.4, 3.8], size: [0.6, 0.1, 0.6], light: 34, tint: '#ffc98a' },
    { at: [8.4, 1.8, -5.2], size: [1.6, 2.6, 0.1], light: 1.6, tint: '#ffe2bb' },
  ],
};

/** Environments that are computed, by key. */
export const SURROUNDS = { studio: STUDIO, overcast: OVERCAST, lowSun: LOW_SUN, workshop: WORKSHOP } as const;

/** A light source around the object, filtered for lighting; uploaded ones also sharp for the backdrop. */
export interface Environment {
  lighting: Texture;
  dispose(): void;
}

/** The environment of a choice: a computed one, or `file:SHA256.hdr`. Throws when a file cannot be read. */
export async function loadEnvironment(renderer: WebGLRenderer, choice: string): Promise<Environment> {
  if (choice.startsWith('file:')) return loadFile(renderer, choice.slice(5));
  return computed(renderer, SURROUNDS[choice as keyof typeof SURROUNDS] ?? STUDIO);
}

async function loadFile(renderer: WebGLRenderer, name: string): Promise<Environment> {
  const [hash, type] = name.split('.');
  const loader = type === 'exr' ? new EXRLoader() : new HDRLoader();
  const texture = await loader.loadAsync(blobUrl(hash));
  texture.mapping = EquirectangularReflectionMapping;
  const generator = prefilterOf(renderer);
  const target = generator.fromEquirectangular(texture);
  generator.dispose();
  texture.dispose();
  return { lighting: target.texture, dispose: () => target.dispose() };
}

function computed(renderer: WebGLRenderer, { sky, boxes }: Surround): Environment {
  const scene = new Scene();
  const room = new Mesh(
    new SphereGeometry(12, 96, 64),
    new ShaderMaterial({
      side: BackSide,
      vertexShader: 'varying vec3 vPlace; void main() { vPlace = position; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
      fragmentShader: `varying vec3 vPlace;
void main() {
  vec3 d = normalize(vPlace);
  float up = d.y * 0.5 + 0.5;${sky}
  gl_FragColor = vec4(light, 1.0);
}`,
    }),
  );
  scene.add(room);
  for (const { at: place, size, light, tint } of boxes) {
    const lamp = new Mesh(new BoxGeometry(...size), new MeshBasicMaterial({ color: new Color(tint).multiplyScalar(light) }));
    lamp.position.set(...place);
    lamp.lookAt(0, 0, 0);
    if (size[0] < 0.2 || size[1] < 0.2) lamp.rotation.set(0, 0, 0);
    scene.add(lamp);
  }
  const generator = prefilterOf(renderer);
  const target = generator.fromScene(scene, 0);
  generator.dispose();
  scene.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    object.geometry.dispose();
    object.material.dispose();
  });
  return { lighting: target.texture, dispose: () => target.dispose() };
}
