import { verifyPackage } from '@kinkajou/core/handoff/verify';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { openSource } from '@kinkajou/core/parcel/openSource';
import { EXIT, type Output } from './output.ts';

/** Checks a package against its receipt; exit 1 where a single byte is not as it says. */
export async function runVerify(path: string, options: { json?: boolean }, output: Output): Promise<number> {
  const { source } = await openSource(path, limitsFromEnvironment());
  try {
    const result = await verifyPackage(source);
    if (options.json) output.json(result);
    else {
      output.text(
        `${result.asset} for ${result.destination}, ${result.verdict} when it was made: ${result.files} files`,
      );
      for (const { path: file, fault, detail } of result.faults)
        output.text(`  ${fault}: ${file} (${detail})`);
      output.text(
        result.faults.length === 0
          ? '  as the receipt says'
          : `  ${result.faults.length} not as the receipt says`,
      );
    }
    return result.faults.length === 0 ? EXIT.done : EXIT.errorsRemain;
  } finally {
    await source.close();
  }
}
