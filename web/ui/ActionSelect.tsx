import { ChipSelect } from './Chip.tsx';

interface ActionSelectProps<T extends string> {
  label: string;
  options: readonly (readonly [T, string])[];
  disabled?: boolean;
  pick(value: T): void;
}

/** Does at once what is chosen, and is ready to be asked again. */
export function ActionSelect<T extends string>({ label, options, disabled, pick }: ActionSelectProps<T>) {
  return (
    <ChipSelect
      aria-label={label}
      value="ask"
      disabled={disabled}
      onChange={(event) => {
        pick(event.target.value as T);
        event.currentTarget.blur();
      }}
    >
      <option value="ask" disabled>
        {label} ...
      </option>
      {options.map(([value, title]) => (
        <option key={value} value={value}>
          {title}
        </option>
      ))}
    </ChipSelect>
  );
}
