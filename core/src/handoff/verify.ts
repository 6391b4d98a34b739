import { KinkajouError } from '../errors.ts';
import type { FileSource } from '../parcel/fileSource.ts';
import { sha256 } from '../parcel/hash.ts';
import type { FileRecord, Receipt } from './tell/receipt.ts';

/** Whether a package still is as its receipt says. */
export interface Verification {
  destination: string;
  asset: string;
  /** The verdict when it was made. */
  verdict: string;
  files: number;
  /** What is not as the receipt says. */
  faults: { path: string; fault: 'changed' | 'missing' | 'added'; detail: string }[];
}

const RECEIPT = 'receipt.json';

/**
 * Checks a package against its receipt: every file there, byte for byte, and none besides. Throws
 * `receipt.missing` and `receipt.broken`.
 */
export async function verifyPackage(source: FileSource): Promise<Verification> {
  if (!source.files.some(({ path }) => path === RECEIPT))
    throw new KinkajouError(
      'receipt.missing',
      'there is no receipt in it',
      { file: source.name },
      'Name the folder that a handoff was written to.',
    );
  const receipt = parseReceipt(await source.read(RECEIPT));
  const faults: Verification['faults'] = [];
  const listed = new Map(receipt.outputs.map((file) => [file.path, file]));
  for (const { path } of source.files)
    if (path !== RECEIPT && !listed.has(path))
      faults.push({ path, fault: 'added', detail: 'the receipt does not know it' });
  for (const { path, bytes, sha256: required } of listed.values()) {
    if (!source.files.some((file) => file.path === path)) {
      faults.push({ path, fault: 'missing', detail: `${bytes} bytes` });
      continue;
    }
    const content = await source.read(path);
    const actual = sha256(content);
    if (actual !== required)
      faults.push({
        path,
        fault: 'changed',
        detail: `${content.length} bytes, ${actual.slice(0, 12)} for ${required.slice(0, 12)}`,
      });
  }
  return {
    destination: receipt.destination,
    asset: receipt.asset.name,
    verdict: receipt.verdict,
    files: listed.size,
    faults,
  };
}

function parseReceipt(bytes: Uint8Array): Receipt {
  try {
    const receipt = JSON.parse(new TextDecoder().decode(bytes)) as Receipt;
    const sound =
      Array.isArray(receipt.outputs) &&
      receipt.outputs.every(
        (file: FileRecord) => typeof file.path === 'string' && typeof file.sha256 === 'string',
      );
    if (sound && receipt.asset) return receipt;
  } catch {
    // Told below.
  }
  throw new KinkajouError(
    'receipt.broken',
    'the receipt cannot be read',
    { file: RECEIPT },
    'Hand the asset off again.',
  );
}
