interface SegmentsProps<T> {
  label: string;
  /** What can be chosen, each with its word. */
  options: readonly (readonly [T, string])[];
  value: T;
  disabled?: (option: T) => boolean;
  /** Called with what was chosen, unless it holds already. */
  pick: (option: T) => void;
}

/** A few words in a row of which one holds. */
export function Segments<T extends string | number | boolean>({
  label,
  options,
  value,
  disabled,
  pick,
}: SegmentsProps<T>) {
  return (
    <fieldset className="join shrink-0" aria-label={label}>
      {options.map(([option, word]) => (
        <button
          key={String(option)}
          type="button"
          className={`btn btn-xs join-item border-[var(--line)] px-1.5 font-mono text-[11.5px] ${option === value ? 'btn-primary' : 'bg-base-100'}`}
          aria-pressed={option === value}
          disabled={disabled?.(option)}
          onClick={() => option !== value && pick(option)}
        >
          {word}
        </button>
      ))}
    </fieldset>
  );
}
