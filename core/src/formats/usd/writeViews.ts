import type { Camera, Light, LightKind, SceneDocument } from '../../scene/document.ts';
import {
  AssetPath,
  createListOp,
  createPrim,
  createProperty,
  type PrimSpec,
  type UsdValue,
} from './layer.ts';
import { nitsOfBall } from './photometry.ts';

const TYPES: Record<LightKind, string> = {
  point: 'SphereLight',
  directional: 'DistantLight',
  spot: 'SphereLight',
  area: 'RectLight',
  dome: 'DomeLight',
};
const SHAPES = { disk: 'DiskLight', tube: 'CylinderLight' };
const FAR_LIMIT = 1e9;
/** Metres: a bulb for what is a mere point elsewhere. */
const POINT_RADIUS = 0.01;

/** Sets an attribute of a prim to a default value. */
export function set(prim: PrimSpec, name: string, type: string, value: UsdValue): void {
  prim.properties.set(name, createProperty(name, type, { value }));
}

/** A value that no time can change. */
export function setUniform(prim: PrimSpec, name: string, type: string, value: UsdValue): void {
  prim.properties.set(name, createProperty(name, type, { value, uniform: true }));
}

/**
 * A Camera prim without a name or place. Lens and apertures go in as millimetres: UsdGeom counts tenths of a
 * unit, and takes the unit for a centimetre.
 */
export function cameraPrim(camera: Camera): PrimSpec {
  const prim = createPrim('', 'Camera');
  const orthographic = camera.projection === 'orthographic';
  set(prim, 'projection', 'token', camera.projection);
  set(prim, 'focalLength', 'float', camera.focalLength);
  set(prim, 'horizontalAperture', 'float', orthographic ? camera.width * 10 : camera.aperture[0]);
  set(
    prim,
    'verticalAperture',
    'float',
    orthographic ? (camera.width * 10 * camera.aperture[1]) / camera.aperture[0] : camera.aperture[1],
  );
  set(
    prim,
    'clippingRange',
    'float2',
    Float64Array.of(camera.near, Number.isFinite(camera.far) ? camera.far : FAR_LIMIT),
  );
  return prim;
}

/**
 * `images` has paths in the package by the keys of images. What shines from a point or from far away is normalised:
 * so it has its strength whatever its size and whatever it hangs on.
 */
export function lightPrim(
  light: Light,
  images: ReadonlyMap<string, string>,
  { metresPerUnit }: SceneDocument,
): PrimSpec {
  const prim = createPrim('', light.shape ? SHAPES[light.shape] : TYPES[light.kind]);
  const isBall = light.kind === 'point' || light.kind === 'spot';
  const apis = [
    ...(light.kind === 'spot' ? ['ShapingAPI'] : []),
    ...(light.castsShadow ? [] : ['ShadowAPI']),
  ];
  if (apis.length > 0) prim.metadata.apiSchemas = createListOp({ prepended: apis });
  set(prim, 'inputs:color', 'color3f', Float64Array.from(light.colour));
  const strength = isBall ? nitsOfBall(light.intensity, metresPerUnit) : light.intensity;
  set(prim, 'inputs:intensity', 'float', strength);
  if (isBall || light.kind === 'directional') set(prim, 'inputs:normalize', 'bool', true);
  setBody(prim, light, metresPerUnit);
  if (light.kind === 'spot') {
    set(prim, 'inputs:shaping:cone:angle', 'float', light.outerAngle / 2);
    set(
      prim,
      'inputs:shaping:cone:softness',
      'float',
      light.outerAngle > 0 ? 1 - light.innerAngle / light.outerAngle : 0,
    );
  }
  const shown = light.sky && images.get(light.sky.image);
  if (light.sky && shown !== undefined) {
    set(prim, 'inputs:texture:file', 'asset', new AssetPath(shown));
    set(prim, 'inputs:texture:format', 'token', light.sky.layout);
  }
  if (!light.castsShadow) set(prim, 'inputs:shadow:enable', 'bool', false);
  return prim;
}

/** How large a lamp is. A ball without a size would not shine. */
function setBody(prim: PrimSpec, { kind, size: [width, height], shape }: Light, metres: number): void {
  const number = (name: string, value: number) => set(prim, `inputs:${name}`, 'float', value);
  if (kind === 'point' || kind === 'spot') {
    number('radius', width > 0 ? width / 2 : POINT_RADIUS / metres);
    if (!(width > 0)) set(prim, 'treatAsPoint', 'bool', true);
  }
  if (kind !== 'area') return;
  if (shape === 'disk') number('radius', width / 2);
  else if (shape === 'tube') {
    number('length', width);
    number('radius', height / 2);
  } else {
    number('width', width);
    number('height', height);
  }
}
