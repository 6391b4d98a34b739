import { own } from '../../own.ts';
import type { Camera, Light, LightKind, Vec3 } from '../../scene/document.ts';
import { lightOfTemperature } from '../../scene/temperature.ts';
import type { ComposedPrim } from './compose.ts';
import { type LampBody, strengthOf } from './photometry.ts';
import { get, numberOf, numbersOf, propertyValue, textOf, vectorOf } from './values.ts';

const LIGHTS: Record<string, LightKind> = {
  DistantLight: 'directional',
  SphereLight: 'point',
  RectLight: 'area',
  DiskLight: 'area',
  CylinderLight: 'area',
  DomeLight: 'dome',
  DomeLight_1: 'dome',
};

/** Area lights that are no rectangles. */
const SHAPES: Record<string, Light['shape']> = { DiskLight: 'disk', CylinderLight: 'tube' };

/** What UsdLux takes for a distant light of which nothing is said: the sun, of so many degrees and nits. */
const SUN_ANGLE = 0.53;
const SUN_NITS = 50_000;

/** Whether prims of this type are lights of UsdLux. */
export function isLightType(typeName: string): boolean {
  return own(LIGHTS, typeName) !== undefined;
}

/**
 * A Camera prim. Apertures and focal length share one unit, a tenth of a scene unit, which is taken as
 * millimetres.
 */
export function readUsdCamera(prim: ComposedPrim, name: string): Camera {
  const number = (attribute: string, fallback: number) => numberOf(get(prim, attribute)) ?? fallback;
  const clipping = numbersOf(get(prim, 'clippingRange'));
  const aperture: [number, number] = [
    number('horizontalAperture', 20.955),
    number('verticalAperture', 15.2908),
  ];
  return {
    name,
    projection: textOf(get(prim, 'projection')) === 'orthographic' ? 'orthographic' : 'perspective',
    focalLength: number('focalLength', 50),
    aperture,
    width: aperture[0] / 10,
    near: clipping?.[0] ?? 1,
    far: clipping?.[1] ?? 1e6,
  };
}

/** Whether a camera's picture is shifted against its axis, which has no place in a {@link Camera}. */
export function isShifted(prim: ComposedPrim): boolean {
  const offset = (name: string) => numberOf(get(prim, name)) ?? 0;
  return offset('horizontalApertureOffset') !== 0 || offset('verticalApertureOffset') !== 0;
}

/** A light as read, and what its strength goes with: a power of its scale in the world. */
interface ReadLight {
  light: Light;
  growth: number;
}

/**
 * A light prim; a cone from the shaping attributes makes a spot of it. `addImage` tells the key of what a dome
 * shows, `metres` are those of a unit.
 */
export function readUsdLight(
  prim: ComposedPrim,
  name: string,
  { metres, addImage }: { metres: number; addImage(written: string, layer: string): string },
): ReadLight {
  const { typeName } = prim;
  const value = (attribute: string) => numberOf(get(prim, `inputs:${attribute}`, attribute));
  const number = (attribute: string, fallback: number) => value(attribute) ?? fallback;
  const cone = value('shaping:cone:angle');
  const kind = cone !== undefined && cone < 90 ? 'spot' : (own(LIGHTS, typeName) ?? 'point');
  const outerAngle = kind === 'spot' ? (cone as number) * 2 : 45;
  const body = {
    typeName,
    radius: number('radius', 0.5),
    width: number('width', 1),
    height: number('height', 1),
    length: number('length', 1),
    angle: number('angle', SUN_ANGLE),
  };
  const nits = number('intensity', kind === 'directional' ? SUN_NITS : 1) * 2 ** number('exposure', 0);
  const strength = strengthOf(kind, body, { nits, normalized: value('normalize') === 1, metres });
  const isPoint = (kind === 'point' || kind === 'spot') && value('treatAsPoint') === 1;
  const light: Light = {
    name,
    kind,
    colour: glowing(prim, vectorOf(get(prim, 'inputs:color', 'color')) ?? [1, 1, 1]),
    intensity: strength.intensity,
    innerAngle: outerAngle * (1 - number('shaping:cone:softness', 0)),
    outerAngle,
    size: isPoint ? [0, 0] : sizeOf(body),
    castsShadow: value('shadow:enable') !== 0,
    ...(kind === 'area' && own(SHAPES, typeName) ? { shape: SHAPES[typeName] } : {}),
    ...(kind === 'dome' ? skyOf(prim, addImage) : {}),
  };
  return { light, growth: strength.growth };
}

/** What a light has that a {@link Light} has no place for. */
export function uncarriedOfLight(prim: ComposedPrim): string[] {
  const has = (name: string) => get(prim, `inputs:${name}`, name) !== undefined;
  const number = (name: string, fallback: number) => numberOf(get(prim, `inputs:${name}`, name)) ?? fallback;
  return [
    ...(has('shaping:ies:file') ? ['measured profiles of lights'] : []),
    ...(number('shaping:focus', 0) !== 0 ? ['focus of lights'] : []),
    ...(prim.typeName === 'DistantLight' && Math.abs(number('angle', SUN_ANGLE) - SUN_ANGLE) > 1e-3
      ? ['how wide distant lights look']
      : []),
    ...(number('diffuse', 1) !== 1 || number('specular', 1) !== 1
      ? ['lights that are stronger in highlights than in what is matt, or weaker']
      : []),
  ];
}

function sizeOf({ typeName, radius, width, height, length }: LampBody): [number, number] {
  if (typeName === 'RectLight') return [width, height];
  return typeName === 'CylinderLight' ? [length, radius * 2] : [radius * 2, radius * 2];
}

/** A colour times that of its temperature, which counts where it is switched on. */
function glowing(prim: ComposedPrim, colour: Vec3): Vec3 {
  const value = (name: string) => numberOf(get(prim, `inputs:${name}`, name));
  if (value('enableColorTemperature') !== 1) return colour;
  const glow = lightOfTemperature(value('colorTemperature') ?? 6500);
  return colour.map((component, k) => component * glow[k]) as Vec3;
}

/** What a dome shows; a light of one colour shows nothing. */
function skyOf(prim: ComposedPrim, addImage: (written: string, layer: string) => string): Pick<Light, 'sky'> {
  const file = prim.properties.get('inputs:texture:file') ?? prim.properties.get('texture:file');
  const written = textOf(propertyValue(file));
  if (!file || !written) return {};
  return {
    sky: {
      image: addImage(written, file.layer),
      layout: textOf(get(prim, 'inputs:texture:format', 'texture:format')) ?? 'automatic',
    },
  };
}
