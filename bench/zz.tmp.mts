import { scramble, type ScrambleCase } from '@kinkajou/demo/scramble/scramble';
import { ASSET_NAMES } from '@kinkajou/demo/scramble/assets';
import { SCHEMES } from '@kinkajou/demo/scramble/schemes';
import { createRandom } from '@kinkajou/demo/noise';
import { FAULTS, pick } from './wiring/faults.ts';
import { recover } from './recovery.ts';
import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
const [count, first, only] = [Number(process.argv[2]), Number(process.argv[3]), process.argv[4]];
let all=0, right=0, silent=0, asked=0;
for (let seed=first; seed<first+count; seed++) {
 const random = createRandom(seed*31+7); random();random();
 const format = pick(['fbx','obj','usd','gltf'] as const, random);
 const of: ScrambleCase = { kind:`n${seed}`, asset: pick(ASSET_NAMES, random), scheme: format==='gltf'? pick(['engine','arm'],random): pick(SCHEMES,random).id, relation: pick(['same','decorated','counted'] as const, random), loss:'none', format };
 const told: string[] = [];
 const name = new Map<string,string>();
 let n = 0;
 const nameless = (p: string) => { const found = name.get(p) ?? `textures/${['Image_','tex','','material_'][seed%4]}${String(++n).padStart(seed%3+1,'0')}.png`; name.set(p, found); return found; };
 const parcel = await scramble(of, (materials) => {
   if (only !== 'none') { const f = FAULTS[only ?? pick(Object.keys(FAULTS), random)](materials, random); if (f) told.push(f); }
   for (const m of materials) for (const c of Object.values(m.channels)) if (c.map) c.map.image = nameless(c.map.image.replace(/^\.\//,''));
 });
 parcel.files = Object.fromEntries(Object.entries(parcel.files).map(([p,b]) => [/\.png$/.test(p) ? nameless(p) : p, b]));
 for (const t of parcel.truth) t.file = nameless(t.file);
 const { measured, questions } = await recover(of, '/tmp/zzn', parcel);
 const bad = measured.filter(m=>m.outcome!=='right');
 all += measured.length; right += measured.length-bad.length; silent += bad.filter(b=>!b.told).length; asked += questions.length;
 if (bad.length||questions.length) { console.log(parcel.id, told.join('; ')); for (const b of bad) console.log('  ', b.told?'':'SILENT', b.material, b.channel, b.outcome); for (const q of questions) console.log('   asked', q.code, q.message.slice(0,200));
  if (bad.some(b=>!b.told)) for (const [path,b] of Object.entries(parcel.files)) { const f = join('/tmp/zzk',String(seed),path); await mkdir(dirname(f),{recursive:true}); await writeFile(f,b); } }
}
console.log(all, right, 'silent', silent, 'asked', asked);
