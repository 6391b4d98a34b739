'use client';

import { useEffect, useRef } from 'react';
import type { DirectionalLight, Vector3 } from 'three';
import { LAMPS, type Lamp, type LampName, useChoices } from '@/ui/choices';
import { LAMP_STANDS } from './lampStands.ts';

/** Key, fill and rim light around the object, each with a soft shadow. They turn with the surroundings. */
export function Lamps({ centre, size }: { centre: Vector3; size: number }) {
  const { lamps, turn } = useChoices((choices) => choices.view);
  return LAMPS.filter((name) => lamps[name].on).map((name) => (
    <LampLight key={name} name={name} lamp={lamps[name]} turn={turn - 40} centre={centre} size={size} />
  ));
}

function LampLight({
  name,
  lamp,
  turn,
  centre,
  size,
}: {
  name: LampName;
  lamp: Lamp;
  turn: number;
  centre: Vector3;
  size: number;
}) {
  const light = useRef<DirectionalLight>(null);
  const { height, light: full, tint } = LAMP_STANDS[name];
  const [around, up] = [((lamp.angle + turn) * Math.PI) / 180, (height * Math.PI) / 180];
  const far = size * 5;
  const position: [number, number, number] = [
    centre.x + Math.sin(around) * Math.cos(up) * far,
    centre.y + Math.sin(up) * far,
    centre.z + Math.cos(around) * Math.cos(up) * far,
  ];
  useEffect(() => {
    const one = light.current;
    if (!one) return;
    one.target.position.copy(centre);
    one.target.updateMatrixWorld();
    const { camera } = one.shadow;
    Object.assign(camera, {
      left: -size * 2.2,
      right: size * 2.2,
      top: size * 2.2,
      bottom: -size * 2.2,
      near: size * 0.5,
      far: size * 12,
    });
    camera.updateProjectionMatrix();
    one.shadow.normalBias = size * 0.004;
    one.shadow.bias = -0.0006;
    one.shadow.radius = 1 + lamp.softness * 8;
    one.shadow.blurSamples = 10;
    one.shadow.needsUpdate = true;
  }, [centre, size, lamp.softness]);
  return (
    <directionalLight
      ref={light}
      name={name}
      position={position}
      intensity={full * lamp.strength}
      color={tint}
      castShadow
      shadow-mapSize={[1024, 1024]}
    />
  );
}
