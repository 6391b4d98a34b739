import { readFile, readdir } from 'node:fs/promises';
import { join, dirname, basename } from 'node:path';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { formatJoined, plainModel } from '@kinkajou/core/join/joinedFile';
import { measureBoundsIn } from '@kinkajou/core/scene/measure';
import { toYUpMetres, worldMatrices } from '@kinkajou/core/scene/matrix';
import { DESTINATIONS } from '@kinkajou/core/destinations/destinations';
import { handedOff } from './fuzz/failures.ts';
import { generator } from './fuzz/damage.ts';
const roots=['/usr/share/assimp/models/glTF2','/usr/share/assimp/models/FBX','/usr/share/assimp/models/OBJ','/tmp/corpus'];
const models:string[]=[];
for (const r of roots) for (const f of await readdir(r,{recursive:true})) if (/\.(gltf|glb|fbx|obj|usda|usdc|usdz)$/i.test(f)) models.push(join(r,f));
models.sort();
const filesOf=async(m:string)=>{const d=dirname(m);const out:Record<string,Uint8Array>={};for(const f of await readdir(d,{withFileTypes:true})) if(f.isFile()){const b=await readFile(join(d,f.name)); if(b.length<5e6) out[f.name]=b;} out[basename(m)]=await readFile(m); return out;};
const N=+process.argv[2], FIRST=+process.argv[3]; let bad=0,n=0,skipped=0;
for(let seed=FIRST;seed<FIRST+N;seed++){
  const rnd=generator(seed);
  const pick=()=>models[Math.floor(rnd()*models.length)];
  const [a,b]=[pick(),pick()];
  try{
    const fa=await filesOf(a),fb=await filesOf(b);
    const A=await openAsset(memorySource('a',fa),basename(a)),B=await openAsset(memorySource('b',fb),basename(b));
    const place={at:[rnd()*4-2,rnd()*2,rnd()*4-2].map(x=>Math.round(x*100)/100) as any,turn:Math.floor(rnd()*8)*45,scale:[1,2,0.5,0.1][Math.floor(rnd()*4)]};
    const files={...fa} as any; for(const[k,v]of Object.entries(fb)) files['j/b/'+k]=v;
    files['x.joined']=formatJoined({models:[plainModel(basename(a)),{...plainModel(basename(b)),folder:'j/b',name:'Second',...place}]});
    const J=await openAsset(memorySource('j',files),'x.joined');
    const mul=(a:number[],b:number[])=>{const o=new Array(16).fill(0);for(let c=0;c<4;c++)for(let r=0;r<4;r++)for(let k=0;k<4;k++)o[c*4+r]+=a[k*4+r]*b[c*4+k];return o;};
    const bounds=(d:any)=>measureBoundsIn(d,toYUpMetres(d.axes,d.metresPerUnit));
    const ba=bounds(A.document),bj=bounds(J.document);
    // corners of B: points by world
    const corners=(d:any)=>{const m=toYUpMetres(d.axes,d.metresPerUnit);const out:number[][]=[];const ws=worldMatrices(d.nodes);
d.nodes.forEach((n:any,i:number)=>{if(n.mesh<0)return;const w=mul(m as any,ws[i] as any);const p=d.meshes[n.mesh].points;const used=new Set(d.meshes[n.mesh].faceCorners);for(const c of used as any){const x=p[c*3],y=p[c*3+1],z=p[c*3+2];out.push([w[0]*x+w[4]*y+w[8]*z+w[12],w[1]*x+w[5]*y+w[9]*z+w[13],w[2]*x+w[6]*y+w[10]*z+w[14]]);}});return out;};
    const ca=corners(A.document), cb=corners(B.document), cj=corners(J.document);
    const t=place.turn*Math.PI/180,co=Math.cos(t),si=Math.sin(t);
    const moved=cb.map(([x,y,z])=>[place.scale*(co*x+si*z)+place.at[0],place.scale*y+place.at[1],place.scale*(-si*x+co*z)+place.at[2]]);
    const want=[...ca,...moved];
    const box=(c:number[][])=>[0,1,2].flatMap(k=>[c.reduce((m,p)=>Math.min(m,p[k]),Infinity),c.reduce((m,p)=>Math.max(m,p[k]),-Infinity),c.reduce((s,p)=>s+p[k],0)/Math.max(1,c.length)]);
    const w=box(want),g=box(cj);const size=Math.max(...w.filter(Number.isFinite).map(Math.abs),1e-9);
    n++;
    const skin=A.document.skins?.length||B.document.skins?.length;
    if(want.length!==cj.length||w.some((x,i)=>Number.isFinite(x)&&Math.abs(x-g[i])>1e-4*size)){bad++;console.log(seed,a,b,JSON.stringify(place),want.length,cj.length,w.map(x=>x.toFixed(4)).join(' '),'|',g.map(x=>x.toFixed(4)).join(' '),skin?'SKIN':'');}
    const mats=A.document.materials.length+B.document.materials.length; if(J.document.materials.length!==mats) console.log(seed,'materials',mats,J.document.materials.length,a,b);
    const tex=(X:any)=>X.source.images.filter((i:any)=>i.status==='linked').length; if(tex(J)!==tex(A)+tex(B)) console.log(seed,'linked',tex(A),tex(B),tex(J),a,b);
    const dest=DESTINATIONS[seed%DESTINATIONS.length];
    const {failures}=await handedOff({files,model:'x.joined'},dest);
    if(failures.length){bad++;console.log(seed,dest.id,a,b,failures.join(' ; ').slice(0,400));}
  }catch(e:any){ skipped++; if(!e.code) console.log(seed,'THROW',a,b,e.stack.slice(0,500)); }
}
console.log(n,'joined',bad,'bad',skipped,'skipped');
