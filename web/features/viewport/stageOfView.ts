import type { Vec3 } from '@kinkajou/core/scene/document';
import type { StageChoice } from '@kinkajou/core/scene/stage';
import { DirectionalLight, Vector3 } from 'three';
import { useChoices } from '@/ui/choices';
import { useStage } from './stage.ts';

/** Camera and lamps as the view has them now; null where nothing is wanted, or the view is folded away. */
export function stageOfView(along: ReturnType<typeof useChoices.getState>['stageAlong']): StageChoice | null {
  const { stage } = useStage.getState();
  if (along === 'none' || !stage) return null;
  const { camera, scene } = stage;
  const lamps: StageChoice['lamps'] = [];
  scene.traverse((object) => {
    if (along !== 'all' || !(object instanceof DirectionalLight)) return;
    const { color, intensity, target } = object;
    lamps.push({
      name: object.name || `lamp_${lamps.length + 1}`,
      position: placeOf(object),
      target: placeOf(target),
      colour: [color.r, color.g, color.b],
      strength: intensity,
    });
  });
  return { camera: { position: placeOf(camera), target: rounded(stage.target()), focal: useChoices.getState().view.focal }, lamps };
}

function placeOf(object: { getWorldPosition(target: Vector3): Vector3 }): Vec3 {
  return rounded(object.getWorldPosition(new Vector3()));
}

/** A tenth of a millimetre is enough, and keeps requests the same while nothing moves. */
function rounded({ x, y, z }: Vector3): Vec3 {
  return [x, y, z].map((value) => Math.round(value * 1e4) / 1e4) as Vec3;
}
