import type { Material, Rgb, Workflow } from './material.ts';

/** Under which name the highlight of other shading models is kept. */
const KEPT = 'classic highlight';

/**
 * Gives a material another shading model. In metal/rough a specular colour tints what reflects; the highlight
 * that is one in the other models is put aside there, and taken out again where the material leaves it.
 */
export function changeWorkflow(material: Material, workflow: Workflow): void {
  const from = material.workflow;
  material.workflow = workflow;
  if (from === workflow) return;
  if (workflow === 'metalRough') putHighlightAside(material);
  else if (from === 'metalRough') takeHighlightOut(material);
}

/** Of a material that is metal/rough by its file and has a highlight for readers who know no other. */
export function putHighlightAside({ channels, extras }: Material): void {
  const { specularColor } = channels;
  if (!specularColor || specularColor.map) return;
  extras[KEPT] = [specularColor.value].flat().join(' ');
  delete channels.specularColor;
}

function takeHighlightOut({ channels, extras }: Material): void {
  if (channels.specularColor || extras[KEPT] === undefined) return;
  const [r, g = r, b = r] = extras[KEPT].split(' ').map(Number);
  channels.specularColor = { value: [r, g, b] as Rgb, map: null, source: { from: 'file', detail: KEPT } };
  delete extras[KEPT];
}
