import type { EditDefinition } from './editKind.ts';

/** Gives materials numbers, which go out as their order; a number that another had makes room for it. */
export const numberMaterials: EditDefinition<'numberMaterials'> = {
  apply(draft, { numbers }, _images, skip) {
    for (const { material: key, number } of numbers) {
      if (!draft.materials.some((other) => other.key === key)) {
        skip(`material ${key}`);
        continue;
      }
      const others = Object.entries(draft.numbers ?? {}).filter(
        ([other, value]) => other !== key && value !== number,
      );
      draft.numbers = { ...Object.fromEntries(others), [key]: number };
    }
    // Those with a number come by it; the others after them, as they were.
    const place = (key: string) => draft.numbers?.[key] ?? Number.POSITIVE_INFINITY;
    const listed = draft.materials.map((material, i) => ({ material, i }));
    draft.materials = listed
      .sort((a, b) => place(a.material.key) - place(b.material.key) || a.i - b.i)
      .map(({ material }) => material);
  },
  describe: ({ numbers }) =>
    numbers.length === 1
      ? `Numbered the material ${numbers[0].material} ${numbers[0].number}`
      : `Numbered ${numbers.length} materials`,
};
