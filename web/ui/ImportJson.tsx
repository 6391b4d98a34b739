import { FileUp } from 'lucide-react';
import { useRef } from 'react';
import { toast } from 'sonner';
import { Button } from './Button.tsx';

/** A button that reads a JSON file of the person's own disk; `what` names what one may hold. */
export function ImportJson({
  label,
  what,
  take,
}: {
  label: string;
  what: string;
  take(value: unknown): void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const read = async (file: File | undefined) => {
    if (!file) return;
    let value: unknown;
    try {
      value = JSON.parse(await file.text());
    } catch {
      toast.error(`${file.name}: this is no JSON. Export a ${what} to see how one looks.`);
      return;
    }
    take(value);
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        className="hidden"
        aria-label={label}
        onChange={(event) =>
          void read(event.target.files?.[0]).then(() => {
            event.target.value = '';
          })
        }
      />
      <Button onClick={() => input.current?.click()}>
        <FileUp size={13} /> Import JSON
      </Button>
    </>
  );
}
