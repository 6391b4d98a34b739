'use client';

import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { COLOUR_SPACES, type ColourSpace } from '@kinkajou/core/scene/material';
import { useState } from 'react';
import { Button } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { Field } from '@/ui/Field';

/** One colour tag for all images of a name pattern, as a rule that is applied once. */
export function TagRow({ tag, close }: { tag(title: string, book: Rulebook): void; close(): void }) {
  const [image, setImage] = useState('*_roughness*');
  const [space, setSpace] = useState<ColourSpace>('data');
  return (
    <form
      className="flex basis-full flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        const title = `Tagged ${image.trim()} as ${space}`;
        tag(title, {
          rulebook: 1,
          title,
          // biome-ignore lint/suspicious/noThenProperty: the rulebook's own word
          rules: [{ name: title, when: { image: image.trim() }, then: [{ do: 'tag', space }] }],
        });
      }}
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <label className="flex items-center gap-1.5">
        Images called{' '}
        <Field
          autoFocus
          required
          className="w-44 font-mono"
          value={image}
          onChange={(event) => setImage(event.target.value)}
        />
      </label>
      <label className="flex items-center gap-1.5">
        are tagged
        <ChipSelect value={space} onChange={(event) => setSpace(event.target.value as ColourSpace)}>
          {COLOUR_SPACES.map((one) => (
            <option key={one} value={one}>
              {one}
            </option>
          ))}
        </ChipSelect>
      </label>
      <Button type="submit" main disabled={image.trim() === ''}>
        Tag them
      </Button>
      <span className="text-[var(--soft)]">stars stand for anything</span>
    </form>
  );
}
