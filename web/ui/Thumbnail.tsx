import { pictureUrl } from './api.ts';

/** A small picture of an image, as high as the row allows; stripes where the image is missing. */
export function Thumbnail({ sha256, className = 'h-7' }: { sha256: string | null; className?: string }) {
  if (sha256 === null) return <span className={`missing-stripes rounded border border-error ${className}`} />;
  return (
    <span
      className={`rounded border border-black/15 bg-cover bg-center ${className}`}
      style={{ backgroundImage: `url(${pictureUrl(sha256, 96)})` }}
    />
  );
}
