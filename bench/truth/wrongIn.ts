import { findDestination } from '@kinkajou/core/destinations/destinations';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { gltfIo } from '@kinkajou/core/formats/gltf/io';
import { handedOff } from '../fuzz/failures.ts';
import { type KnownPlaces, placesWrong } from './places.ts';
import { type Known, soupWrong } from './soup.ts';
import { type KnownViews, viewsWrong } from './views.ts';

/** What differs between a known model and its package for glTF, or why its receipt does not hold. */
export async function wrongIn(known: Known | KnownPlaces | KnownViews): Promise<string[]> {
  const destination = findDestination('web-gltf') as Destination;
  const edits = 'edits' in known ? known.edits : null;
  const { parcel, failures, losses } = await handedOff(known, destination, edits);
  if (failures.length > 0) return failures;
  const gltf = await (await gltfIo()).readBinary(parcel.files[parcel.model]);
  if ('views' in known) return viewsWrong(known, gltf);
  return 'places' in known ? placesWrong(known.places, gltf, losses) : soupWrong(known, gltf);
}
