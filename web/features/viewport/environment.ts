import {
  BackSide,
  BoxGeometry,
  Color,
  Mesh,
  MeshBasicMaterial,
  PMREMGenerator,
  Scene,
  ShaderMaterial,
  SphereGeometry,
  type Texture,
  type WebGLRenderer,
} from 'three';

/** A lamp surface of the studio: where it stands, how large it is, how bright (1 is white paper). */
const SOFT_BOXES: readonly { at: [number, number, number]; size: [number, number, number]; light: number; tint: string }[] = [
  { at: [0, 9.2, 0], size: [9, 0.1, 6], light: 5, tint: '#fff6e6' },
  { at: [-8.6, 3.6, 3], size: [0.1, 5, 4], light: 7, tint: '#fff1da' },
  { at: [8.8, 2.6, 1.5], size: [0.1, 6, 2], light: 4.5, tint: '#eaf3ff' },
  { at: [2, 2.8, -9], size: [7, 1.6, 0.1], light: 4, tint: '#ffffff' },
  { at: [-2, 1.4, 9.4], size: [3, 1.2, 0.1], light: 2.2, tint: '#fff6e6' },
];

const ROOM = `
varying vec3 vPlace;
void main() {
  vec3 d = normalize(vPlace);
  float up = d.y * 0.5 + 0.5;
  vec3 floor_ = vec3(0.20, 0.19, 0.17);
  vec3 wall = vec3(0.46, 0.45, 0.42);
  vec3 ceiling = vec3(0.78, 0.78, 0.76);
  vec3 light = mix(mix(floor_, wall, smoothstep(0.38, 0.54, up)), ceiling, smoothstep(0.5, 0.95, up));
  gl_FragColor = vec4(light, 1.0);
}`;

/** A soft, neutral studio made of a shaded room and five lamps, filtered for lighting. */
export function softStudio(renderer: WebGLRenderer): Texture {
  const scene = new Scene();
  const room = new Mesh(
    new SphereGeometry(12, 48, 32),
    new ShaderMaterial({
      side: BackSide,
      vertexShader: 'varying vec3 vPlace; void main() { vPlace = position; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
      fragmentShader: ROOM,
    }),
  );
  scene.add(room);
  for (const { at, size, light, tint } of SOFT_BOXES) {
    const lamp = new Mesh(new BoxGeometry(...size), new MeshBasicMaterial({ color: new Color(tint).multiplyScalar(light) }));
    lamp.position.set(...at);
    lamp.lookAt(0, 0, 0);
    if (size[0] < 0.2 || size[1] < 0.2) lamp.rotation.set(0, 0, 0);
    scene.add(lamp);
  }
  const generator = new PMREMGenerator(renderer);
  const { texture } = generator.fromScene(scene, 0.02);
  generator.dispose();
  scene.traverse((object) => {
    if (!(object instanceof Mesh)) return;
    object.geometry.dispose();
    object.material.dispose();
  });
  return texture;
}
