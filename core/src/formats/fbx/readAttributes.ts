import type { Camera, Fading, Light, LightKind, Vec3 } from '../../scene/document.ts';
import type { FbxObject } from './objects.ts';

const MILLIMETRES_PER_INCH = 25.4;
/** Of each `DecayType`; 2 is by the square, which light does by itself. */
const FADING: (Fading | undefined)[] = ['none', 'linear', undefined, 'cubic'];
const LIGHT_KINDS: LightKind[] = ['point', 'directional', 'spot', 'area', 'area'];
/** Intensity 100 is what other programs call 1. */
const INTENSITY_UNIT = 100;

/** What says how wide a camera sees (`ApertureMode`); 2 is the vertical angle. */
const BOTH_ANGLES = 0;
const HORIZONTAL = 1;
const BY_FOCAL_LENGTH = 3;

/** The focal length that the written angle of view stands for; undefined where none is written. */
function focalOfAngle(
  properties: FbxObject['properties'],
  mode: number,
  [width, height]: [number, number],
): number | undefined {
  const angle = properties.number(mode === BOTH_ANGLES ? 'FieldOfViewX' : 'FieldOfView');
  if (!(angle !== undefined && angle > 0 && angle < 180)) return undefined;
  return (
    (mode === HORIZONTAL || mode === BOTH_ANGLES ? width : height) / 2 / Math.tan((angle * Math.PI) / 360)
  );
}

/** A camera from its NodeAttribute (7.x) or its Model (6.x). */
export function readCamera({ properties }: FbxObject, name: string): Camera {
  const number = (key: string, fallback: number) => {
    const value = properties.number(key);
    return value !== undefined && Number.isFinite(value) ? value : fallback;
  };
  const aperture: [number, number] = [
    number('FilmWidth', 0.816) * MILLIMETRES_PER_INCH,
    number('FilmHeight', 0.612) * MILLIMETRES_PER_INCH,
  ];
  const mode = properties.number('ApertureMode');
  const written = number('FocalLength', 0);
  const fromAngle = focalOfAngle(properties, mode ?? HORIZONTAL, aperture);
  const isLed = mode === undefined || mode === BY_FOCAL_LENGTH;
  return {
    name,
    projection: number('CameraProjectionType', 0) === 1 ? 'orthographic' : 'perspective',
    focalLength: (isLed && written > 0 ? written : fromAngle) ?? (written > 0 ? written : 35),
    aperture,
    width: number('OrthoZoom', 1),
    near: number('NearPlane', 10),
    far: number('FarPlane', 4000),
  };
}

/** Whether a camera's film lies beside its axis, which has no place in a {@link Camera}. */
export function isShifted({ properties }: FbxObject): boolean {
  return ['FilmOffsetX', 'FilmOffsetY'].some((key) => (properties.number(key) ?? 0) !== 0);
}

/** A light from its NodeAttribute (7.x) or its Model (6.x). */
export function readLight({ properties }: FbxObject, name: string): Light {
  const colour = properties.vector('Color') ?? [1, 1, 1];
  const outerAngle = properties.number('OuterAngle') ?? properties.number('Cone angle') ?? 45;
  const kind = LIGHT_KINDS[properties.number('LightType') ?? 0] ?? 'point';
  const fading = kind === 'directional' ? undefined : FADING[properties.number('DecayType') ?? 0];
  const isOn = properties.number('CastLight') !== 0;
  return {
    name,
    kind,
    colour: colour as Vec3,
    intensity: isOn ? (properties.number('Intensity') ?? INTENSITY_UNIT) / INTENSITY_UNIT : 0,
    innerAngle: properties.number('InnerAngle') ?? properties.number('HotSpot') ?? outerAngle,
    outerAngle,
    size: [1, 1],
    castsShadow: properties.number('CastShadows') !== 0,
    ...(fading ? { fading } : {}),
  };
}
