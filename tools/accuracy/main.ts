import { scoreGrids } from './grids';

const runs = Number(process.argv[2] ?? 300);
for (const s of scoreGrids(runs)) {
  console.log(`${s.name}: ${s.runs} runs, first ${((100 * s.first) / s.runs).toFixed(1)} %, in the first two ${((100 * s.two) / s.runs).toFixed(1)} %`);
  if (process.argv[3]) for (const w of s.wrong.slice(0, 25)) console.log('  ', w);
}
