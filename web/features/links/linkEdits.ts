import type { Edit } from '@kinkajou/core/asset/asset';
import type { Candidate } from '@kinkajou/core/links/rank';

export function linkEdit(image: string, candidate: Candidate): Edit {
  const reason = candidate.reasons.join(', ');
  return { kind: 'linkImages', links: [{ image, path: candidate.path, reason }], origin: { from: 'hand', detail: reason } };
}

export function unlinkEdit(images: string[]): Edit {
  return { kind: 'unlinkImages', images, origin: { from: 'hand', detail: 'links' } };
}
