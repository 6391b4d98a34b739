'use client';

import type { Box3, Sphere } from 'three';
import { useChoices } from '@/ui/choices';
import { ContactShadow } from './ContactShadow.tsx';
import { Lamps } from './Lamps.tsx';

/** What stands around the asset while it is lit: its lamps and the ground under it. */
export function Scenery({ bounds, sphere }: { bounds: Box3; sphere: Sphere }) {
  const { mode, ground } = useChoices((choices) => choices.view);
  if (mode !== 'lit') return null;
  const size = sphere.radius;
  return (
    <>
      <Lamps centre={sphere.center} size={size} />
      {ground && (
        <ContactShadow bounds={bounds}>
          <mesh
            rotation-x={-Math.PI / 2}
            position={[sphere.center.x, bounds.min.y - size * 0.002, sphere.center.z]}
            receiveShadow
          >
            <circleGeometry args={[size * 6, 64]} />
            <shadowMaterial opacity={0.32} transparent />
          </mesh>
        </ContactShadow>
      )}
    </>
  );
}
