import type { SceneDocument } from './document.ts';

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
