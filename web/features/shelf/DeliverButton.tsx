'use client';

import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { Button } from '@/ui/Button';
import { FileInput } from '@/ui/FileInput';
import { plural } from '@/ui/format';
import { sendAsDelivery } from '../intake/uploads.ts';

/** Sends newer files for the selected assets: each takes what is called as a file of its own. */
export function DeliverButton({
  disabled,
  begin,
}: {
  disabled: boolean;
  begin(parcel: string, name: string): void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const send = async (files: File[]) => {
    if (files.length === 0) return;
    setBusy(true);
    const note = toast.loading(`Sending ${plural(files.length, 'file')} ...`);
    try {
      const { id, name } = await sendAsDelivery(
        files.map((file) => ({ path: file.name, file })),
        note,
      );
      begin(id, name);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      toast.dismiss(note);
      setBusy(false);
    }
  };
  return (
    <>
      <Button
        disabled={disabled || busy}
        title="A zip, models or images: each asset takes what is called as a file of its own, and its edits are made again on it"
        onClick={() => input.current?.click()}
      >
        Deliver newer files ...
      </Button>
      <FileInput ref={input} data-testid="deliver-to-selected" pick={(files) => void send(files)} />
    </>
  );
}
