import { buildingParts } from './buildingParts.ts';
import { compositorClassic } from './compositorClassic.ts';
import { compositorUsd } from './compositorUsd.ts';
import { engineGlossAlpha } from './engineGlossAlpha.ts';
import { enginePacked } from './enginePacked.ts';
import { garmentFigure } from './garmentFigure.ts';
import { modelling } from './modelling.ts';
import type { Destination } from './profile.ts';
import { renderFilm } from './renderFilm.ts';
import { renderSpecGloss } from './renderSpecGloss.ts';
import { webGltf } from './webGltf.ts';

/** Every built-in destination. A new one is one file and one line here. */
export const DESTINATIONS: readonly Destination[] = [
  webGltf,
  enginePacked,
  engineGlossAlpha,
  renderSpecGloss,
  renderFilm,
  compositorClassic,
  compositorUsd,
  garmentFigure,
  modelling,
  buildingParts,
];

/** The destination with this id. */
export function findDestination(id: string): Destination | undefined {
  return DESTINATIONS.find((destination) => destination.id === id);
}
