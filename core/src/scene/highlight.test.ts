import { describe, expect, it } from 'vitest';
import { changeWorkflow, putHighlightAside } from './highlight.ts';
import { createMapUse, createMaterial, type Rgb } from './material.ts';

const source = { from: 'file', detail: 'Ks' } as const;

function painted(workflow: 'legacy' | 'metalRough', value: number | Rgb = [0.5, 0.4, 0.3]) {
  const material = createMaterial('Buoy', workflow);
  material.channels.specularColor = { value, map: null, source };
  return material;
}

describe('the highlight of other shading models', () => {
  it('is put aside in metal/rough, and is there again where the material leaves it', () => {
    const material = painted('legacy');
    changeWorkflow(material, 'metalRough');
    expect([material.workflow, material.channels.specularColor]).toEqual(['metalRough', undefined]);
    changeWorkflow(material, 'specGloss');
    expect(material.channels.specularColor).toMatchObject({ value: [0.5, 0.4, 0.3], map: null });
    expect(material.extras).toEqual({});
  });

  it('stays where the model stays', () => {
    const tinted = painted('metalRough');
    changeWorkflow(tinted, 'metalRough');
    expect(tinted.channels.specularColor?.value).toEqual([0.5, 0.4, 0.3]);
    const classic = painted('legacy');
    changeWorkflow(classic, 'specGloss');
    expect(classic.channels.specularColor?.value).toEqual([0.5, 0.4, 0.3]);
  });

  it('gives way to a tint that came after it, and images stay', () => {
    const material = painted('legacy', 0.5);
    changeWorkflow(material, 'metalRough');
    material.channels.specularColor = { value: [1, 1, 0], map: null, source };
    changeWorkflow(material, 'legacy');
    expect(material.channels.specularColor.value).toEqual([1, 1, 0]);
    const mapped = painted('metalRough');
    mapped.channels.specularColor = { value: 1, map: createMapUse('shine.png', 'specularColor'), source };
    putHighlightAside(mapped);
    expect(mapped.channels.specularColor?.map?.image).toBe('shine.png');
  });

  it('is grey where it was one number', () => {
    const material = painted('legacy', 0.5);
    changeWorkflow(material, 'metalRough');
    changeWorkflow(material, 'legacy');
    expect(material.channels.specularColor?.value).toEqual([0.5, 0.5, 0.5]);
  });
});
