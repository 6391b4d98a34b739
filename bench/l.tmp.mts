import { readFile } from 'node:fs/promises';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
for (const f of process.argv.slice(2)) {
 const A=await openAsset(memorySource('a',{m:0 as any,[f.split('/').at(-1)!]:await readFile(f)}),f.split('/').at(-1)!);
 for(const m of A.document.meshes) console.log(f.slice(-40),m.name,'points',m.points.length/3,'counts',[...m.faceCounts].slice(0,8).join(),'faces',m.faceCounts.length, Object.keys(m).join());
 console.log(A.source.remarks?.map((r:any)=>r.code+' '+(r.message??'')).join(' | ').slice(0,400));
}
