import type { SceneDocument } from './document.ts';
import { decompose, invertAffine, multiply, worldMatrices } from './matrix.ts';

/**
 * Names of the nodes whose place plain parts cannot say: those with a sheared transform, and all that hang on
 * one.
 */
export function shearedNodes({ nodes }: Pick<SceneDocument, 'nodes'>): string[] {
  const sheared = new Uint8Array(nodes.length);
  return nodes.flatMap(({ name, parent, transform }, i) => {
    if (transform.matrix || (parent >= 0 && sheared[parent] === 1)) sheared[i] = 1;
    return sheared[i] === 1 ? [name] : [];
  });
}

/** Names of the nodes that place, turn and size below their parents cannot say, however it is written down. */
export function shearedBelow({ nodes }: Pick<SceneDocument, 'nodes'>): string[] {
  const worlds = worldMatrices(nodes);
  return nodes.flatMap(({ name, parent }, i) => {
    const below = parent < 0 ? worlds[i] : multiply(invertAffine(worlds[parent]), worlds[i]);
    return decompose(below).exact ? [] : [name];
  });
}
