import { carriesLight } from '../scene/carriesLight.ts';
import type { Camera, Light, SceneDocument, SceneNode } from '../scene/document.ts';
import { multiply, toYUpMetres, transformPoint, worldMatrices } from '../scene/matrix.ts';
import { cross, normalised } from '../scene/vectors.ts';
import { type Difference, difference } from './difference.ts';
import { plainName } from './worldParts.ts';

/** Single floats, and angles that went through degrees. */
const TOLERANCE = 1e-4;

/** A camera or a light as it stands: what must be equal as words, and numbers that must be near. */
export interface View {
  name: string;
  words: string;
  /** In metres; none where it does not matter. */
  place: number[];
  numbers: number[];
  /** How many of the numbers come first and say where it looks. */
  aims: number;
}

/**
 * Compares cameras and lights: where they stand, where they look, and how. What the format of the other
 * cannot say is not looked for there.
 */
export function compareViews(a: SceneDocument, b: SceneDocument): Difference[] {
  const { lost, added } = differingViews(a, b);
  const out: Difference[] = [];
  for (const view of lost) {
    const index = added.findIndex((other) => isNamesake(view, other));
    if (index < 0) out.push(viewDifference('part.missing', `${view.name} is not there`, view));
    else out.push(changeOf(view, added.splice(index, 1)[0]));
  }
  return [
    ...out,
    ...added.map((view) => viewDifference('part.added', `${view.name} is there besides`, view)),
  ];
}

/** What of the one is nowhere in the other just so, and what of the other was nowhere in the one. */
export function differingViews(
  a: SceneDocument,
  b: SceneDocument,
): { lost: View[]; added: View[]; count: number } {
  const expected = viewsOf(a, b.format);
  const added = viewsOf(b, b.format);
  // A jewel's lamps stand nearer to each other than a crane's.
  const reach = Math.max(...expected.flatMap(({ place }) => place.map(Math.abs))) || 1;
  const lost = expected.filter((view) => {
    const match = added.findIndex((other) => isSame(other, view, reach));
    if (match >= 0) added.splice(match, 1);
    return match < 0;
  });
  return { lost, added, count: expected.length };
}

function isNamesake(view: View, other: View): boolean {
  return plainName(view.name) === plainName(other.name);
}

function changeOf(view: View, other: View): Difference {
  const apart = Math.hypot(...view.place.map((value, i) => value - (other.place[i] ?? 0)));
  if (view.words !== other.words)
    return viewDifference('part.missing', `${view.name} is ${other.words}, not ${view.words}`, view);
  const aside = view.numbers.some((value, i) => i < view.aims && !isNear(other.numbers[i], value));
  const moved = apart > TOLERANCE * Math.max(1, ...view.place.map(Math.abs));
  const where = moved ? `stands ${apart.toPrecision(3)} m elsewhere` : 'looks elsewhere';
  if (moved || aside)
    return viewDifference('part.moved', `${view.name} ${where}`, view, moved ? apart : null);
  return viewDifference('channel.differs', `${view.name} sees or shines otherwise`, view);
}

function viewDifference(
  code: 'part.missing' | 'part.added' | 'part.moved' | 'channel.differs',
  message: string,
  { name }: View,
  measured: number | null = null,
): Difference {
  return difference(code, message, { part: name, measured, allowed: measured === null ? null : TOLERANCE });
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
    // What is up is upright for where it looks, however it is sheared.
    axes[1] = normalised(cross(axes[2], cross(axes[1], axes[2])), axes[1]);
    const scale = document.metresPerUnit;
    if (camera) return [cameraView(node, camera, { place, axes, scale, format })];
    return [lightView(node, light, { place, axes, scale, format })];
  });
}

function cameraView(
  { name }: SceneNode,
  { projection, focalLength, aperture, width, near, far }: Camera,
  { place, axes, scale }: Placing,
): View {
  // Seen in parallel, a picture is so wide; else it is so wide for its lens.
  const unit = projection === 'orthographic' ? aperture[0] / (width * scale) : focalLength;
  const wide = aperture.map((side) => side / unit);
  // What sees without an end sees some hundred kilometres far where a format wants a number.
  return {
    name,
    words: projection,
    place,
    numbers: [...axes[2], ...axes[1], ...wide, near * scale, far > 0 ? 1 / (far * scale) : 0],
    aims: 6,
  };
}

interface Placing {
  place: number[];
  axes: number[][];
  scale: number;
  /** That of the other side: USD alone says how large lamps are, and glTF not whether they cast shadows. */
  format: SceneDocument['format'];
}

function lightView({ name }: SceneNode, light: Light, { place, axes, scale, format }: Placing): View {
  const { kind, colour, intensity, innerAngle, outerAngle, size, shape, sky, castsShadow, fading } = light;
  const stands = kind !== 'directional' && kind !== 'dome';
  const aim = kind === 'point' || kind === 'dome' ? [] : [...axes[2]];
  if (kind === 'area') aim.push(...axes[1]);
  if (sky) aim.push(...axes.flat());
  // A colour beyond 1 is strength; which of both says it is a matter of writing.
  const numbers = [...aim, ...colour.map((component) => component * intensity)];
  if (kind === 'spot') numbers.push(innerAngle, outerAngle);
  const isSized = format === 'usd' && stands;
  if (isSized) numbers.push(size[0] * scale, size[1] * scale);
  const words = [
    kind,
    sky?.layout,
    isSized && shape,
    format !== 'gltf' && !castsShadow && 'without a shadow',
    format === 'fbx' && fading,
  ].filter(Boolean);
  return { name, words: words.join(' '), place: stands ? place : [], numbers, aims: aim.length };
}
