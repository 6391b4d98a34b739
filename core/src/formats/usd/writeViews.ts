import type { Camera, Light, LightKind } from '../../scene/document.ts';
import type { Losses } from '../written.ts';
import {
  AssetPath,
  createListOp,
  createPrim,
  createProperty,
  type PrimSpec,
  type UsdValue,
} from './layer.ts';

const TYPES: Record<LightKind, string> = {
  point: 'SphereLight',
  directional: 'DistantLight',
  spot: 'SphereLight',
  area: 'RectLight',
  dome: 'DomeLight',
};
const FAR_LIMIT = 1e9;

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

/** `images` has paths in the package by the keys of images. */
export function lightPrim(light: Light, images: ReadonlyMap<string, string>, losses: Losses): PrimSpec {
  const prim = createPrim('', TYPES[light.kind]);
  set(prim, 'inputs:color', 'color3f', Float64Array.from(light.colour));
  set(prim, 'inputs:intensity', 'float', light.intensity);
  if (light.kind === 'point' || light.kind === 'spot') set(prim, 'inputs:radius', 'float', light.size[0] / 2);
  if (light.kind === 'area') {
    set(prim, 'inputs:width', 'float', light.size[0]);
    set(prim, 'inputs:height', 'float', light.size[1]);
  }
  if (light.kind === 'spot') {
    prim.metadata.apiSchemas = createListOp({ prepended: ['ShapingAPI'] });
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
  if (!light.castsShadow) losses.add({ code: 'usd.shadow' });
  return prim;
}
