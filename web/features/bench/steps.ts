import type { Finding, Step } from '@kinkajou/core/findings/finding';

/** The steps in the order people work; keys 1 to 8. */
export const STEPS: readonly { id: Step; title: string }[] = [
  { id: 'intake', title: 'Intake' },
  { id: 'links', title: 'Links' },
  { id: 'slots', title: 'Slots' },
  { id: 'colour', title: 'Colour' },
  { id: 'surface', title: 'Surface' },
  { id: 'parts', title: 'Parts' },
  { id: 'compare', title: 'Compare' },
  { id: 'handoff', title: 'Handoff' },
];

function isStep(text: string): text is Step {
  return STEPS.some((step) => step.id === text);
}

/** The step that an address of the bench names. */
export function stepOf(path: string): Step {
  const named = path.split('/')[3] ?? '';
  return isStep(named) ? named : 'slots';
}

/** Goes to another step of the same asset, for which nothing need be asked of the server. */
export function goToStep(id: string, step: Step): void {
  const path = `/assets/${id}/${step}`;
  if (window.location.pathname !== path) window.history.pushState(null, '', path);
}

/** Errors and warnings of a step; notes do not count as open work. */
export function openOf(findings: readonly Finding[], step: Step): { errors: number; warnings: number } {
  const mine = findings.filter((finding) => finding.step === step);
  return {
    errors: mine.filter((finding) => finding.severity === 'error').length,
    warnings: mine.filter((finding) => finding.severity === 'warning').length,
  };
}
