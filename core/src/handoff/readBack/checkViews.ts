import { differingViews } from '../../compare/compareViews.ts';
import type { SceneDocument } from '../../scene/document.ts';
import type { PackageFiles } from '../write/writeGltf.ts';
import type { HandoffCheck } from './readBack.ts';

/** Cameras and lights stand, look and shine as they should; what a dome shows lies where the model says. */
export function checkViews(
  expected: SceneDocument,
  actual: SceneDocument,
  files: PackageFiles,
): HandoffCheck {
  const { lost, added, count } = differingViews(expected, actual);
  const wrong = [
    ...lost.map(({ name }) => `${name} is not as it was`),
    ...added.map(({ name }) => `${name} was not there`),
    ...missingSkies(actual, files),
  ];
  return {
    check: 'cameras and lights',
    ok: wrong.length === 0,
    expected: String(count),
    found: wrong.join('; ') || String(count),
  };
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
