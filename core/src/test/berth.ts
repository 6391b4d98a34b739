import {
  createDestination,
  type Destination,
  outputMap,
  perChannel,
  SRGB,
  scalar,
  triple,
} from '../destinations/profile.ts';
import { planHandoff } from '../handoff/plan/plan.ts';
import { testImage, testMaterial, testState } from './assets.ts';

/**
 * A destination of the harbour's own: colours, roughness beside occlusion, normals, and what is asked for.
 */
export function berth(more: Partial<Destination> = {}): Destination {
  return createDestination({
    id: 'berth',
    title: 'Berth',
    summary: '',
    format: 'fbx',
    variants: ['fbx'],
    upAxis: 'Y',
    metresPerUnit: 1,
    workflow: 'metalRough',
    maps: [
      outputMap('color', 'col', triple('baseColor'), { ...SRGB, alpha: scalar('opacity') }),
      outputMap('packed', 'orm', [scalar('occlusion'), scalar('roughness'), scalar('metalness')]),
      ...perChannel(['normal']),
    ],
    notes: [],
    ...more,
  });
}

/** The plan of one material whose images have the headers given. */
export function planOf(
  maps: Parameters<typeof testMaterial>[1],
  infos: Record<string, Parameters<typeof testImage>[1]>,
  destination = berth(),
  change: (material: ReturnType<typeof testMaterial>) => void = () => undefined,
) {
  const material = testMaterial('Hull', maps);
  change(material);
  const images = Object.entries(infos).map(([path, info]) => testImage(path, info));
  return planHandoff(testState([material]), images, destination);
}
