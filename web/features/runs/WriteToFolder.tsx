'use client';

import { FolderDown } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { WrittenPackages } from '@/server/services/writePackages';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { useChoices } from '@/ui/choices';
import { Field } from '@/ui/Field';
import { plural } from '@/ui/format';
import { followJob } from '@/ui/jobs';

/** Writes the packages of a run into a folder on the server's disk, which is remembered for the next time. */
export function WriteToFolder({ run }: { run: string }) {
  const [open, setOpen] = useState(false);
  const [busy, setBusy] = useState(false);
  const { exportFolder: folder, set } = useChoices();
  const write = async () => {
    setBusy(true);
    try {
      const { job } = await api<{ job: string }>(`/api/runs/${run}/packages`, {
        method: 'POST',
        body: { folder },
      });
      const result = await followJob<WrittenPackages>(job, 'Writing packages');
      if (!result) return;
      const { written, lost } = result;
      toast.success(
        `${plural(written.length, 'package')} written to ${result.folder}${lost.length > 0 ? `; not made: ${lost.join('; ')}` : ''}`,
      );
      setOpen(false);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  if (!open)
    return (
      <Button onClick={() => setOpen(true)}>
        <FolderDown size={12} /> To a folder ...
      </Button>
    );
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        void write();
      }}
      onKeyDown={(event) => event.key === 'Escape' && setOpen(false)}
    >
      <label className="flex items-center gap-1.5">
        Folder on the server
        <Field
          autoFocus
          required
          className="w-64 font-mono"
          placeholder="/projects/quay/out"
          value={folder}
          onChange={(event) => set({ exportFolder: event.target.value })}
        />
      </label>
      <Button type="submit" main disabled={busy || folder.trim() === ''}>
        Write
      </Button>
      <Chip onClick={() => setOpen(false)}>not now</Chip>
    </form>
  );
}
