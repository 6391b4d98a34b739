import { createReadStream, readFileSync } from 'node:fs';
import { readObj } from '@kinkajou/core/formats/obj/readObj';
import { memorySource } from '@kinkajou/core/parcel/fileSource';

/**
 * Run as a process of its own: prints the largest resident size in bytes, after reading the OBJ named, if
 * any.
 */
const [, , path] = process.argv;
if (path)
  await readObj(createReadStream(path, { highWaterMark: 1 << 20 }), 'sheet.obj', memorySource('bench', {}));
// The resource usage would count what the parent held when it forked.
const kilobytes = /VmHWM:\s+(\d+) kB/.exec(readFileSync('/proc/self/status', 'utf8'))?.[1];
console.log(Number(kilobytes) * 1024);
