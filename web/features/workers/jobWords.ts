import type { JobName } from '@/server/jobs/kinds';

/** Kinds of jobs as people call them. */
export const JOB_WORDS: Readonly<Record<JobName, string>> = {
  'read-parcel': 'reading parcels',
  'read-delivery': 'reading newer deliveries',
  'join-assets': 'joining assets',
  'look-at-images': 'looking at images',
  'draw-thumbnail': 'drawing pictures',
  'index-root': 'listing search folders',
  'hand-off': 'handoffs',
  'make-maps': 'making images',
  'convert-image': 'converting images',
  'repair-tags': 'mending tags',
  'replace-materials': 'replacing materials',
  'apply-rules': 'runs',
  'draw-trial': 'drawing what rules would do',
  'write-packages': 'writing packages to folders',
};

/** A time in seconds, as short as it stays exact enough: 0.3 s, 12 s, 4 min, 2 h. */
export function lasting(seconds: number | null): string {
  if (seconds === null) return '';
  if (seconds < 10) return `${seconds.toFixed(1)} s`;
  if (seconds < 120) return `${Math.round(seconds)} s`;
  return seconds < 7200 ? `${Math.round(seconds / 60)} min` : `${Math.round(seconds / 3600)} h`;
}
