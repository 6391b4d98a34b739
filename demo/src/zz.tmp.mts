import { decodeImage } from '@kinkajou/core/images/decode';
import { probeImage } from '@kinkajou/core/images/probe';
import { readFileSync } from 'node:fs';
const dir = process.argv[2];
const exp = JSON.parse(readFileSync(dir+'/exp.json','utf8'));
for (const [f, e] of Object.entries(exp) as any) { try { const b = new Uint8Array(readFileSync(dir+'/'+f)); const p = await probeImage(b,f); const d = await decodeImage(b, f); let worst = 0; const flat = e.flat(); const n = flat[0].length; for (let i=0;i<flat.length;i++) for (let k=0;k<Math.min(n,d.components);k++) worst = Math.max(worst, Math.abs(d.data[i*d.components+k]-flat[i][k])); if (worst||d.components!==n||p.components!==d.components) console.log(f, 'comps', d.components, p.components, 'expected', n, 'worst', worst, [...d.data.slice(0,4)], flat[0]); } catch (x) { console.log(f, 'FAIL', String(x)); } }
