import Joi from 'joi';
import { KinkajouError } from '../errors.ts';
import { createNode, type Light, type SceneDocument, type Vec3 } from './document.ts';
import {
  determinant3,
  eulerOf,
  identity,
  invertAffine,
  type Matrix4,
  multiply,
  rotation,
  toYUpMetres,
  transformPoint,
} from './matrix.ts';
import { cross, normalised } from './vectors.ts';

/** What stands around an asset, in metres, Y up, as the view has it. */
export interface StageChoice {
  /** `focal` is in millimetres for a picture 24 mm high. */
  camera: { position: Vec3; target: Vec3; focal: number } | null;
  /** Lamps that shine from far away, with linear colours. */
  lamps: { name: string; position: Vec3; target: Vec3; colour: Vec3; strength: number }[];
  /**
   * Light from all around: a computed environment by its key, or a picture in latitude and longitude by its
   * path, which people may know by another name; turned by so many degrees about what is up.
   */
  environment: { image: string; name?: string; turn: number; strength: number } | null;
}

/** The key of a stage's picture in a document: no file is called so. */
export const STAGE_ENVIRONMENT = 'stage:environment';

const place = Joi.array().items(Joi.number().min(-1e9).max(1e9)).length(3);

/**
 * Shape of a {@link Stage} as it comes from a request or file, with what holds where it leaves something
 * open.
 */
export const STAGE_SCHEMA = Joi.object({
  camera: Joi.object({
    position: place.required(),
    target: place.required(),
    focal: Joi.number().min(1).max(2000).default(42),
  })
    .allow(null)
    .default(null),
  lamps: Joi.array()
    .items(
      Joi.object({
        name: Joi.string().max(60).required(),
        position: place.required(),
        target: place.default([0, 0, 0]),
        colour: Joi.array().items(Joi.number().min(0).max(1)).length(3).default([1, 1, 1]),
        strength: Joi.number().min(0).max(1e9).default(1),
      }),
    )
    .max(64)
    .default([]),
  environment: Joi.object({
    image: Joi.string().max(1000).required(),
    name: Joi.string().max(200),
    turn: Joi.number().min(-360).max(360).default(0),
    strength: Joi.number().min(0).max(1e9).default(1),
  })
    .allow(null)
    .default(null),
});

/** Reads a stage. Throws `handoff.stage` naming the field. */
export function parseStage(value: unknown, file = ''): StageChoice {
  const { value: stage, error } = STAGE_SCHEMA.validate(value, { convert: false });
  if (error)
    throw new KinkajouError(
      'handoff.stage',
      error.message,
      { file },
      'A stage has a camera with position and target, lamps with position and name, and an environment with an image.',
    );
  return stage as StageChoice;
}

/** Width and height of the camera's picture area, in millimetres. */
const PICTURE: [number, number] = [36, 24];

/**
 * The document with the camera, the lamps and the environment of a stage beside everything else: in its own
 * axes and unit.
 */
export function withStage(
  document: SceneDocument,
  { camera, lamps, environment }: StageChoice,
): SceneDocument {
  const home = invertAffine(toYUpMetres(document.axes, document.metresPerUnit));
  const cameras = [...document.cameras];
  const lights = [...document.lights];
  const nodes = [...document.nodes];
  const stand = (name: string, from: Vec3, to: Vec3, parts: { camera: number } | { light: number }) => {
    const node = createNode(name, 'camera' in parts ? 'camera' : 'light', -1, parts);
    node.transform.translation = transformPoint(home, ...from);
    node.transform.rotation = eulerOf(turnedTo(document, from, to));
    nodes.push(node);
  };
  if (camera) {
    const { position, target, focal } = camera;
    const away = Math.hypot(...position.map((value, k) => value - target[k])) / document.metresPerUnit;
    const lens = {
      name: 'view',
      projection: 'perspective' as const,
      focalLength: focal,
      aperture: PICTURE,
      width: away,
      near: away / 200,
      far: away * 20,
    };
    stand('view', position, target, { camera: cameras.push(lens) - 1 });
  }
  for (const { name, position, target, colour, strength } of lamps) {
    stand(name, position, target, {
      light: lights.push(lamp(name, 'directional', { colour, intensity: strength })) - 1,
    });
  }
  if (environment) {
    const { turn, strength } = environment;
    const sky = { image: STAGE_ENVIRONMENT, layout: 'latlong' };
    const node = createNode('environment', 'light', -1, {
      light: lights.push(lamp('environment', 'dome', { intensity: strength, sky })) - 1,
    });
    node.transform.rotation = eulerOf(standing(document, rotation([0, turn + HALFWAY, 0])));
    nodes.push(node);
  }
  return { ...document, cameras, lights, nodes };
}

/**
 * The middle of a picture is +X for the view (as three.js has it) and +Z for a dome (as OpenEXR and OpenUSD
 * have it).
 */
const HALFWAY = 90;

function lamp(name: string, kind: Light['kind'], properties: Partial<Light>): Light {
  return {
    name,
    kind,
    colour: [1, 1, 1],
    intensity: 1,
    innerAngle: 0,
    outerAngle: 0,
    size: [0, 0],
    castsShadow: true,
    ...properties,
  };
}

/** The turn of what looks along its own -Z from one place to another, upright, in the document's axes. */
function turnedTo(document: SceneDocument, from: Vec3, to: Vec3): Matrix4 {
  const back = normalised(from.map((value, k) => value - to[k]) as Vec3, [0, 0, 1]);
  // Straight up and down nothing is upright; what lies ahead of the object is then.
  const right = normalised(
    cross(Math.abs(back[1]) > 0.9999 ? [0, 0, -Math.sign(back[1])] : [0, 1, 0], back),
    [1, 0, 0],
  );
  const up = cross(back, right);
  const look = identity();
  look.set(right, 0);
  look.set(up, 4);
  look.set(back, 8);
  return standing(document, look);
}

/** A turn given with Y up, in the document's axes. */
function standing({ axes }: SceneDocument, turn: Matrix4): Matrix4 {
  const turned = multiply(invertAffine(toYUpMetres(axes, 1)), turn);
  // Left-handed axes mirror; what is symmetric about its own upright plane looks the same.
  if (determinant3(turned) < 0) for (let k = 0; k < 3; k += 1) turned[k] = -turned[k];
  return turned;
}
