'use client';

import { useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import { DoubleSide, type Group, Mesh, MeshBasicMaterial } from 'three';
import { useFocus } from '../bench/focus.ts';
import { lay } from './shapeOverlays.ts';

/**
 * How long the faces of a material stay tinted: long enough to be found, too short to be taken for its look.
 */
const SHOWN_MS = 1100;
const CHOSEN = new MeshBasicMaterial({
  color: '#d99a1c',
  transparent: true,
  opacity: 0.55,
  side: DoubleSide,
  polygonOffset: true,
  polygonOffsetFactor: -1,
  polygonOffsetUnits: -1,
});

/** Shows for a moment which faces have the material that was just chosen. */
export function useMaterialTint(model: Group | null, wanted: boolean): void {
  const invalidate = useThree((three) => three.invalidate);
  const material = useFocus(({ slot }) => slot?.material ?? null);
  const before = useRef(material);
  useEffect(() => {
    const last = before.current;
    before.current = material;
    // What is focused when a step opens was chosen by nobody.
    if (!model || !wanted || material === null || last === null || last === material) return;
    const tints = meshesOf(model, material).map((mesh) => lay(new Mesh(mesh.geometry, CHOSEN), mesh, model));
    const clear = () => {
      for (const tint of tints) tint.removeFromParent();
      invalidate();
    };
    invalidate();
    const timer = setTimeout(clear, SHOWN_MS);
    return () => {
      clearTimeout(timer);
      clear();
    };
  }, [model, wanted, material, invalidate]);
}

function meshesOf(model: Group, material: string): Mesh[] {
  const found: Mesh[] = [];
  model.traverseVisible((object) => {
    if (object instanceof Mesh && object.userData.shownKey === material) found.push(object);
  });
  return found;
}
