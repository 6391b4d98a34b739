import { readArrival } from '../services/arrivals.ts';
import { convertImage } from '../services/conversions.ts';
import { readDelivery } from '../services/deliveries.ts';
import { runDerivedMap } from '../services/derivedMaps.ts';
import { runHandoff } from '../services/handoffJob.ts';
import { joinAssets } from '../services/joining.ts';
import { lookAtImages } from '../services/lookAtImages.ts';
import { replaceMaterials } from '../services/materials.ts';
import { parcelEnded } from '../services/parcels.ts';
import { applyRulebook } from '../services/runs.ts';
import { indexRoot, rootEnded } from '../services/searchRoots.ts';
import { repairTags } from '../services/tags.ts';
import { redrawThumbnail } from '../services/thumbnails.ts';
import { drawTrial } from '../services/trialPictures.ts';
import { writePackages } from '../services/writePackages.ts';
import type { JobHandlers } from './runJob.ts';

/** What each kind of job does. */
export const HANDLERS: JobHandlers = {
  'read-parcel': { work: readArrival, ended: parcelEnded },
  'read-delivery': { work: readDelivery, ended: parcelEnded },
  'join-assets': { work: joinAssets, ended: parcelEnded },
  'look-at-images': { work: lookAtImages },
  'draw-thumbnail': { work: redrawThumbnail },
  'index-root': { work: indexRoot, ended: rootEnded },
  'hand-off': { work: runHandoff },
  'make-maps': { work: runDerivedMap },
  'convert-image': { work: convertImage },
  'repair-tags': { work: repairTags },
  'replace-materials': { work: replaceMaterials },
  'apply-rules': { work: applyRulebook },
  'write-packages': { work: writePackages },
  'draw-trial': { work: drawTrial },
};
