import type { Camera, Light, SceneDocument, SceneNode } from '../../scene/document.ts';
import { multiply, toYUpMetres, transformPoint, worldMatrices } from '../../scene/matrix.ts';
import { normalised } from '../../scene/vectors.ts';
import { carriesLight } from '../write/skies.ts';
import type { PackageFiles } from '../write/writeGltf.ts';
import type { HandoffCheck } from './readBack.ts';

/** Single floats, and angles that went through degrees. */
const TOLERANCE = 1e-4;

/** A camera or a light as it stands: what must be equal as words, and numbers that must be near. */
interface View {
  name: string;
  words: string;
  /** In metres; none where it does not matter. */
  place: number[];
  numbers: number[];
}

/** Cameras and lights stand, look and shine as they should; what a dome shows lies where the model says. */
export function checkViews(
  expected: SceneDocument,
  actual: SceneDocument,
  files: PackageFiles,
): HandoffCheck {
  const wantedViews = viewsOf(expected, actual.format);
  const there = viewsOf(actual, actual.format);
  // A jewel's lamps stand nearer to each other than a crane's.
  const reach = Math.max(...wantedViews.flatMap(({ place }) => place.map(Math.abs))) || 1;
  const wrong: string[] = [];
  for (const view of wantedViews) {
    const match = there.findIndex((eachView) => isSame(eachView, view, reach));
    if (match < 0) wrong.push(`${view.name} is not as it was`);
    else there.splice(match, 1);
  }
  wrong.push(...there.map(({ name }) => `${name} was not there`), ...missingSkies(actual, files));
  return {
    check: 'cameras and lights',
    ok: wrong.length === 0,
    expected: String(wantedViews.length),
    found: wrong.join('; ') || String(wantedViews.length),
  };
}

function isSame(expected: View, view: View, reach: number): boolean {
  const isThere = expected.place.every((value, i) => Math.abs(value - view.place[i]) <= TOLERANCE * reach);
  return (
    expected.words === view.words &&
    isThere &&
    expected.numbers.every((value, i) => isNear(value, view.numbers[i]))
  );
}

function isNear(a: number, b: number): boolean {
  return Math.abs(a - b) <= TOLERANCE * Math.max(1, Math.abs(b));
}

/** What a format can say of a document's cameras and lights. */
function viewsOf(document: SceneDocument, format: SceneDocument['format']): View[] {
  const worlds = worldMatrices(document.nodes);
  const toMetres = toYUpMetres(document.axes, document.metresPerUnit);
  return document.nodes.flatMap((node, i) => {
    const [camera, light] = [document.cameras[node.camera], document.lights[node.light]];
    if (format === 'obj' || !(camera || (light && carriesLight(format, light.kind)))) return [];
    const world = multiply(toMetres, worlds[i]);
    const place = transformPoint(world, 0, 0, 0);
    const axes = [0, 4, 8].map((start) =>
      normalised(world.subarray(start, start + 3) as unknown as number[]),
    );
    const scale = document.metresPerUnit;
    if (camera) return [cameraView(node, camera, { place, axes, scale, sized: true })];
    return [lightView(node, light, { place, axes, scale, sized: format === 'usd' })];
  });
}

function cameraView(
  { name }: SceneNode,
  { projection, focalLength, aperture, width }: Camera,
  { place, axes, scale }: Placing,
): View {
  const wide = projection === 'orthographic' ? width * scale : aperture[1] / focalLength;
  return { name, words: projection, place, numbers: [...axes[2], ...axes[1], wide] };
}

interface Placing {
  place: number[];
  axes: number[][];
  scale: number;
  /** Whether the format says how large area lights are; FBX does not. */
  sized: boolean;
}

function lightView({ name }: SceneNode, light: Light, { place, axes, scale, sized }: Placing): View {
  const { kind, colour, intensity, outerAngle, size, sky } = light;
  const numbers = [...colour, intensity];
  const stands = kind !== 'directional' && kind !== 'dome';
  if (kind !== 'point' && kind !== 'dome') numbers.push(...axes[2]);
  if (kind === 'spot') numbers.push(outerAngle);
  if (kind === 'area') numbers.push(...axes[1], ...(sized ? [size[0] * scale, size[1] * scale] : []));
  if (sky) numbers.push(...axes.flat());
  return { name, words: sky ? `${kind} ${sky.layout}` : kind, place: stands ? place : [], numbers };
}

/** Pictures of domes that are not where the model says. */
function missingSkies(document: SceneDocument, files: PackageFiles): string[] {
  const images = new Map(document.images.map((image) => [image.key, image]));
  return document.lights.flatMap(({ name, sky }) => {
    const image = sky && images.get(sky.image);
    if (!image || image.embedded || files.has(image.relative ?? image.written)) return [];
    return [`${name} shows ${image.written}, which is not in the package`];
  });
}
