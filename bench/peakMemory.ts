import { createReadStream } from 'node:fs';
import { readObj } from '@kinkajou/core/formats/obj/readObj';
import { memorySource } from '@kinkajou/core/parcel/fileSource';

/** Run as a process of its own: prints the largest resident size in bytes, after reading the OBJ named, if any. */
const [, , path] = process.argv;
if (path) await readObj(createReadStream(path, { highWaterMark: 1 << 20 }), 'sheet.obj', memorySource('bench', {}));
console.log(process.resourceUsage().maxRSS * 1024);
