import { compareForms, type Form } from '../shape/form.ts';
import type { Part } from './parts.ts';

/**
 * Keys of all parts that have the form of one of these, themselves included; apart, those that are mirror
 * images.
 */
export function alikeParts(
  parts: readonly Part[],
  keys: readonly string[],
): { same: string[]; mirrored: string[] } {
  const chosen = new Set(keys);
  const equals = { same: [] as string[], mirrored: [] as string[] };
  // By what is counted, each form once: thousands of bolts are compared with one of them.
  const forms = new Map<string, Form[]>();
  const likeOf = ({ faces, corners }: Form) => forms.get(`${faces} ${corners}`) ?? [];
  for (const { key, form } of parts) {
    if (!form || !chosen.has(key)) continue;
    const like = likeOf(form);
    if (!like.some((other) => compareForms(form, other) === 'same'))
      forms.set(`${form.faces} ${form.corners}`, [...like, form]);
  }
  for (const { key, form, dropped } of parts) {
    if (!form || dropped) continue;
    const how = new Set(likeOf(form).map((other) => compareForms(form, other)));
    if (chosen.has(key) || how.has('same')) equals.same.push(key);
    else if (how.has('mirrored')) equals.mirrored.push(key);
  }
  return equals;
}
