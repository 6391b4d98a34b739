'use client';

import { PackageOpen } from 'lucide-react';
import { usePathname, useRouter } from 'next/navigation';
import { type ReactNode, useEffect, useRef } from 'react';
import { useDropzone } from 'react-dropzone';
import { toast } from 'sonner';
import { droppedPath, useUploads } from './uploads.ts';

/**
 * Takes files dropped or pasted anywhere on a view; on the bench, drops belong to the asset and are handled
 * there.
 */
export function UploadDropZone({ children }: { children: ReactNode }) {
  const path = usePathname();
  const router = useRouter();
  const start = useUploads((uploads) => uploads.start);
  const onBench = path.startsWith('/assets/');
  const take = (files: File[]) => {
    void start(files.map((file) => ({ path: droppedPath(file), file })));
    if (path !== '/intake') router.push('/intake');
  };
  const paste = useRef(take);
  paste.current = take;
  useEffect(() => {
    if (onBench) return;
    const takePasted = ({ clipboardData, target }: ClipboardEvent) => {
      const files = [...(clipboardData?.files ?? [])];
      if (files.length === 0 || (target as HTMLElement | null)?.closest('input, textarea')) return;
      paste.current(files);
    };
    window.addEventListener('paste', takePasted);
    return () => window.removeEventListener('paste', takePasted);
  }, [onBench]);
  const { getRootProps, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    disabled: onBench,
    onDrop(files) {
      if (files.length === 0) return void toast.error('Nothing was dropped. An empty folder holds no files.');
      take(files);
    },
  });
  // The whole page takes drops; it is no button, and not a disabled one while the page-wide drop is off.
  const { 'aria-disabled': _disabled, ...zone } = getRootProps({
    role: undefined,
    tabIndex: undefined,
  }) as Record<string, unknown>;
  return (
    <div {...zone} className="h-full">
      {children}
      {isDragActive && (
        <div className="pointer-events-none fixed inset-3 z-50 grid place-items-center rounded-xl border-2 border-dashed border-accent bg-base-200/85">
          <div className="flex items-center gap-3 text-lg font-semibold">
            <PackageOpen /> Drop the model with its images
          </div>
        </div>
      )}
    </div>
  );
}
