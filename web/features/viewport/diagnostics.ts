import { Color, DoubleSide, type Material, MeshBasicMaterial, ShaderMaterial, Vector2 } from 'three';

const UV_NAMES = ['uv', 'uv1', 'uv2', 'uv3'] as const;

/** Squares by eighths of the UV plane, tiles of it in turning tones; v grows upwards, the origin is dark. */
export function uvGridMaterial(set: number, wireframe: boolean): Material {
  return new ShaderMaterial({
    side: DoubleSide,
    wireframe,
    vertexShader: `${uvDeclaration(set)}
varying vec2 vAt;
void main() { vAt = vec2(${uvName(set)}.x, 1.0 - ${uvName(set)}.y); gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }`,
    fragmentShader: `varying vec2 vAt;
void main() {
  vec2 tile = floor(vAt);
  vec2 inside = fract(vAt);
  vec2 cell = floor(inside * 8.0);
  float check = mod(cell.x + cell.y, 2.0);
  vec3 warm = mix(vec3(0.93, 0.86, 0.7), vec3(0.85, 0.58, 0.16), inside.x);
  vec3 cool = mix(vec3(0.8, 0.88, 0.84), vec3(0.12, 0.3, 0.25), inside.y);
  vec3 colour = mix(warm, cool, check);
  if (mod(tile.x + tile.y, 2.0) > 0.5) colour = colour.bgr;
  vec2 width = fwidth(vAt * 8.0);
  vec2 near = abs(fract(vAt * 8.0 - 0.5) - 0.5) / max(width, vec2(1e-6));
  vec2 border = abs(fract(vAt - 0.5) - 0.5) / max(fwidth(vAt), vec2(1e-6));
  colour = mix(vec3(0.13, 0.19, 0.16), colour, clamp(min(near.x, near.y), 0.35, 1.0));
  colour = mix(vec3(0.66, 0.25, 0.18), colour, clamp(min(border.x, border.y) * 0.5, 0.0, 1.0));
  gl_FragColor = vec4(colour, 1.0);
}`,
  });
}

/** Which way faces look: sea from the front, brick from behind. */
export function facingMaterial(wireframe: boolean): Material {
  return new ShaderMaterial({
    side: DoubleSide,
    wireframe,
    vertexShader:
      'varying vec3 vNormal_; void main() { vNormal_ = normalMatrix * normal; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
    fragmentShader: `varying vec3 vNormal_;
void main() {
  float light = 0.55 + 0.45 * abs(normalize(vNormal_).z);
  gl_FragColor = vec4((gl_FrontFacing ? vec3(0.2, 0.44, 0.54) : vec3(0.76, 0.25, 0.18)) * light, 1.0);
}`,
  });
}

/**
 * A colour of its own for each material, by its number; neighbours in the list lie far apart on the colour
 * circle.
 */
export function numberMaterial(number: number, wireframe: boolean): Material {
  const material = new MeshBasicMaterial({ side: DoubleSide, wireframe, toneMapped: false });
  material.color.copy(numberColour(number));
  return material;
}

export function numberColour(number: number): Color {
  return number < 0
    ? new Color(0.3, 0.3, 0.3)
    : new Color().setHSL((number * 0.381966) % 1, 0.55, stripeShade(number));
}

function stripeShade(number: number): number {
  if (number % 3 === 0) return 0.42;
  return number % 3 === 1 ? 0.56 : 0.68;
}

/**
 * Texels per metre by colour: paper at the middle, sea at a quarter of it and below, brick at four times and
 * above.
 */
export function densityMaterial(
  set: number,
  size: [number, number] | null,
  middle: number,
  wireframe: boolean,
): Material {
  return new ShaderMaterial({
    side: DoubleSide,
    wireframe,
    uniforms: { size: { value: new Vector2(...(size ?? [0, 0])) }, middle: { value: middle } },
    vertexShader: `${uvDeclaration(set)}
varying vec2 vAt; varying vec3 vPlace;
void main() { vAt = ${uvName(set)}; vPlace = (modelMatrix * vec4(position, 1.0)).xyz; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }`,
    fragmentShader: `uniform vec2 size; uniform float middle; varying vec2 vAt; varying vec3 vPlace;
void main() {
  vec2 du = dFdx(vAt) * size;
  vec2 dv = dFdy(vAt) * size;
  float texels = abs(du.x * dv.y - du.y * dv.x);
  float area = length(cross(dFdx(vPlace), dFdy(vPlace)));
  vec3 n = normalize(cross(dFdx(vPlace), dFdy(vPlace)));
  float light = 0.8 + 0.2 * abs(n.y);
  if (size.x == 0.0) { gl_FragColor = vec4(vec3(0.5) * light, 1.0); return; }
  float stops = clamp(0.5 * log2(max(texels, 1e-12) / max(area, 1e-20)) - log2(middle), -2.0, 2.0) / 2.0;
  vec3 paper = vec3(0.96, 0.94, 0.88);
  vec3 colour = stops < 0.0 ? mix(paper, vec3(0.2, 0.44, 0.54), -stops) : mix(paper, vec3(0.66, 0.25, 0.18), stops);
  gl_FragColor = vec4(colour * light, 1.0);
}`,
  });
}

function uvName(set: number): string {
  return UV_NAMES[set] ?? 'uv';
}

/** Three declares the first set itself. */
function uvDeclaration(set: number): string {
  return set > 0 && set < UV_NAMES.length ? `attribute vec2 ${UV_NAMES[set]};` : '';
}
