import { readFileSync } from 'node:fs';
import { analysePart } from '@early-sparrow/core/insight';
import { readSmf } from '@early-sparrow/core/smf';
for (const f of process.argv.slice(2)) {
  const { song } = readSmf(new Uint8Array(readFileSync(f)), f);
  for (const t of song.tracks) for (const p of t.parts) {
    const a = analysePart(p, song);
    console.log(t.name.slice(0,16).padEnd(16), String(a.chords).padStart(5), a.fits.slice(0,3).map((x) => `${x.text} ${x.bits.toFixed(2)} ${x.missMs.toFixed(1)}ms m${x.merges} lag${x.lagMs}`).join(' | '), a.sure ? '' : 'NOT SURE', 'lag', a.lag?.ms.toFixed(1), a.lag?.drifting ? 'drifting' : `[${a.lag?.interval?.low.toFixed(1)}, ${a.lag?.interval?.high.toFixed(1)}]`, a.swing ? `swing ${(a.swing.share * 100).toFixed(1)}` : '');
  }
}
