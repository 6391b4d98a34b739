import type { Vec3 } from '@kinkajou/core/scene/document';
import type { StageChoice } from '@kinkajou/core/scene/stage';
import type { DirectionalLight, Object3D } from 'three';
import { useChoices } from '@/ui/choices';
import { useStage } from './stage.ts';

/**
 * Camera, lamps and environment as the view has them now; null where nothing is wanted, or the view is folded
 * away.
 */
export function stageOfView(along: ReturnType<typeof useChoices.getState>['stageAlong']): StageChoice | null {
  const { stage } = useStage.getState();
  if (along === 'none' || !stage) return null;
  const { camera, scene } = stage;
  const lamps: StageChoice['lamps'] = [];
  scene.traverse((object) => {
    if (along !== 'all' || !isLamp(object)) return;
    const { color, intensity, target } = object;
    lamps.push({
      name: object.name || `lamp_${lamps.length + 1}`,
      position: placeOf(object),
      target: placeOf(target),
      colour: [color.r, color.g, color.b],
      strength: intensity,
    });
  });
  const { environment, environmentName, environmentOn, turn, strength, focal } = useChoices.getState().view;
  const light =
    along === 'all' && environmentOn
      ? { image: environment, ...(environmentName ? { name: environmentName } : {}), turn, strength }
      : null;
  return {
    camera: { position: placeOf(camera), target: rounded(stage.target()), focal },
    lamps,
    environment: light,
  };
}

function isLamp(object: Object3D): object is DirectionalLight {
  return (object as Partial<DirectionalLight>).isDirectionalLight === true;
}

function placeOf(object: Object3D): Vec3 {
  object.updateWorldMatrix(true, false);
  const { elements } = object.matrixWorld;
  return rounded({ x: elements[12], y: elements[13], z: elements[14] });
}

/** A tenth of a millimetre is enough, and keeps requests the same while nothing moves. */
function rounded({ x, y, z }: { x: number; y: number; z: number }): Vec3 {
  return [x, y, z].map((value) => Math.round(value * 1e4) / 1e4) as Vec3;
}
