'use client';

import { axesOfSource } from '@kinkajou/core/scene/intake';
import { useEffect, useMemo } from 'react';
import { BufferGeometry, Float32BufferAttribute, LineBasicMaterial, Matrix4 } from 'three';
import type { BenchView } from '../bench/useBench.ts';
import { usePartFocus } from '../parts/partFocus.ts';
import { viewParts } from '../parts/viewParts.ts';

/** More marks than this are a thicket. */
const MOST_MARKS = 60;
/** Length of an arm, as a share of the asset's radius. */
const ARM = 0.06;
const CROSS = [-1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1];
const LINE = new LineBasicMaterial({ color: '#c2410c', depthTest: false, transparent: true });

/** A cross where each selected part turns about, over everything, in the model's own space. */
export function PivotMarks({
  view: { source, state },
  radius,
}: {
  view: Pick<BenchView, 'source' | 'state'>;
  radius: number;
}) {
  const selected = usePartFocus((focus) => focus.selected);
  const parts = useMemo(
    () => new Map(viewParts({ source, state }).map((part) => [part.key, part])),
    [source, state],
  );
  const into = useMemo(() => new Matrix4().fromArray([...axesOfSource(source.upAxis)]), [source.upAxis]);
  const cross = useMemo(() => {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new Float32BufferAttribute(CROSS, 3));
    return geometry;
  }, []);
  useEffect(() => () => cross.dispose(), [cross]);
  const places = selected.slice(0, MOST_MARKS).flatMap((key) => {
    const part = parts.get(key);
    return part?.pivot && !part.dropped ? [{ key, pivot: part.pivot }] : [];
  });
  return (
    <group matrixAutoUpdate={false} matrix={into}>
      {places.map(({ key, pivot }) => (
        <lineSegments
          key={key}
          geometry={cross}
          material={LINE}
          position={pivot}
          scale={radius * ARM}
          renderOrder={9}
          raycast={() => {}}
        />
      ))}
    </group>
  );
}
