'use client';

import { DIALECTS, tagWord } from '@kinkajou/core/colour/dialects';
import { COLOUR_SPACES, type ColourSpace } from '@kinkajou/core/scene/material';
import { ChipSelect } from '@/ui/Chip';
import { useChoices } from '@/ui/choices';
import { spaceLabel } from '@/ui/format';

interface TagSelectProps {
  value: ColourSpace;
  change: (space: ColourSpace) => void;
  label?: string;
}

/** All colour tags in the words of the chosen dialect; a space without a word there keeps its own name. */
export function TagSelect({ value, change, label = 'Colour tag' }: TagSelectProps) {
  const dialect = useChoices((choices) => choices.dialect);
  return (
    <ChipSelect
      className="max-w-44"
      aria-label={label}
      title={`${value}; words of ${DIALECTS[dialect].title}`}
      value={value}
      onChange={(event) => {
        change(event.target.value as ColourSpace);
        // The keys of the bench work again at once.
        event.currentTarget.blur();
      }}
    >
      {COLOUR_SPACES.map((space) => (
        <option key={space} value={space}>
          {tagWord(space, dialect) ?? `${spaceLabel(space)} (no word)`}
        </option>
      ))}
    </ChipSelect>
  );
}
