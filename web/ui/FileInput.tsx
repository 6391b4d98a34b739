import type { Ref } from 'react';

interface FileInputProps {
  ref: Ref<HTMLInputElement>;
  accept?: string;
  'data-testid'?: string;
  /** Told what was picked; the same files may be picked again. */
  pick(files: File[]): void;
}

/** The hidden input behind a button that asks for files. */
export function FileInput({ pick, ...rest }: FileInputProps) {
  return (
    <input
      {...rest}
      type="file"
      multiple
      hidden
      onChange={(event) => {
        pick([...(event.target.files ?? [])]);
        event.target.value = '';
      }}
    />
  );
}
