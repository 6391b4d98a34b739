'use client';

import { useFrame, useThree } from '@react-three/fiber';
import { type ReactNode, useEffect, useRef } from 'react';
import type { Box3, Group } from 'three';
import { angleAfter, useTurning } from './turning.ts';

/**
 * Plays the turn that can go along in a handoff: about the middle of the bottom, over and over, until it is
 * stopped.
 */
export function Turntable({ bounds, children }: { bounds: Box3; children: ReactNode }) {
  const group = useRef<Group>(null);
  const began = useRef<number | null>(null);
  const { seconds } = useTurning();
  const invalidate = useThree((three) => three.invalidate);
  // Another asset, or another place of work, stands still.
  useEffect(() => () => useTurning.setState({ seconds: 0 }), []);
  useEffect(() => {
    began.current = null;
    if (seconds === 0) group.current?.rotation.set(0, 0, 0);
    invalidate();
  }, [seconds, invalidate]);
  useFrame(({ clock }) => {
    if (seconds === 0 || !group.current) return;
    began.current ??= clock.elapsedTime;
    group.current.rotation.y = angleAfter(clock.elapsedTime - began.current, seconds);
    invalidate();
  });
  const [x, y, z] = [(bounds.min.x + bounds.max.x) / 2, bounds.min.y, (bounds.min.z + bounds.max.z) / 2];
  return (
    <group ref={group} position={[x, y, z]}>
      <group position={[-x, -y, -z]}>{children}</group>
    </group>
  );
}
