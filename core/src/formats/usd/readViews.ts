import { own } from '../../own.ts';
import type { Camera, Light, LightKind, Vec3 } from '../../scene/document.ts';
import { lightOfTemperature } from '../../scene/temperature.ts';
import type { ComposedPrim } from './compose.ts';
import { get, numberOf, numbersOf, propertyValue, textOf, vectorOf } from './values.ts';

const LIGHTS: Record<string, LightKind> = {
  DistantLight: 'directional',
  SphereLight: 'point',
  RectLight: 'area',
  DiskLight: 'area',
  CylinderLight: 'area',
  DomeLight: 'dome',
  DomeLight_1: 'dome',
  PortalLight: 'area',
};

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

/**
 * A light prim; a cone from the shaping attributes makes a spot of it. Intensity is in USD's own unit.
 * `addImage` tells the key of what a dome shows.
 */
export function readUsdLight(
  prim: ComposedPrim,
  name: string,
  addImage: (written: string, layer: string) => string,
): Light {
  const number = (attribute: string, fallback: number) =>
    numberOf(get(prim, `inputs:${attribute}`, attribute)) ?? fallback;
  const cone = numberOf(get(prim, 'inputs:shaping:cone:angle', 'shaping:cone:angle'));
  const soft = numberOf(get(prim, 'inputs:shaping:cone:softness', 'shaping:cone:softness')) ?? 0;
  const kind = cone !== undefined && cone < 90 ? 'spot' : (own(LIGHTS, prim.typeName) ?? 'point');
  const radius = number('radius', 0.5);
  const colour = glowing(prim, vectorOf(get(prim, 'inputs:color', 'color')) ?? [1, 1, 1]);
  const outerAngle = kind === 'spot' ? (cone as number) * 2 : 45;
  return {
    name,
    kind,
    colour,
    intensity: number('intensity', 1) * 2 ** number('exposure', 0),
    innerAngle: outerAngle * (1 - soft),
    outerAngle,
    size:
      prim.typeName === 'RectLight' ? [number('width', 1), number('height', 1)] : [radius * 2, radius * 2],
    castsShadow: numberOf(get(prim, 'inputs:shadow:enable', 'shadow:enable')) !== 0,
    ...(kind === 'dome' ? skyOf(prim, addImage) : {}),
  };
}

/** A colour times that of its temperature, which counts where it is switched on. */
function glowing(prim: ComposedPrim, colour: Vec3): Vec3 {
  const value = (name: string) => numberOf(get(prim, `inputs:${name}`, name));
  if (value('enableColorTemperature') !== 1) return colour;
  const glow = lightOfTemperature(value('colorTemperature') ?? 6500);
  return colour.map((part, k) => part * glow[k]) as Vec3;
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
