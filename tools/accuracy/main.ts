import { scoreFollow } from './follows';
import { scoreGrids } from './grids';
import { scoreLags } from './lags';

// Prints the tables of docs/accuracy.md: npm run accuracy -- [RUNS]
const runs = Number(process.argv[2] ?? 300);
const percent = (x: number) => `${(100 * x).toFixed(1)} %`;

console.log('| grids | takes | right first | right in the first two |\n|---|---|---|---|');
for (const s of scoreGrids(runs)) {
  console.log(`| ${s.name} | ${s.runs} | ${percent(s.first / s.runs)} | ${percent(s.two / s.runs)} |`);
}
const l = scoreLags(runs);
console.log(`
| lag and swing, ${l.runs} takes of 200 chords | |
|---|---|
| lag, median error modulo the smallest gap | ${l.lagError.toFixed(2)} ms |
| lag interval holds the truth | ${percent(l.lagHeld)} |
| steady takes called drifting | ${percent(l.falseDrift)} |
| takes with a drift of 0.05 steps a chord not called so | ${percent(l.missedDrift)} |
| swing, median error | ${l.swingError.toFixed(2)} points |
| swing interval holds the truth | ${percent(l.swingHeld)} |
| swung takes without a swing | ${percent(l.swingMissed)} |
`);
const takes = Math.max(20, Math.round(runs / 5));
console.log(
  '| follow: jitter, drift in steps | nearest wrong | follow wrong | nearest, wrong differences | follow, wrong differences | found steady |\n|---|---|---|---|---|---|',
);
for (const s of [
  scoreFollow('0.10, none', takes, 0.1, 0),
  scoreFollow('0.15, none', takes, 0.15, 0),
  scoreFollow('0.30, none', takes, 0.3, 0),
  scoreFollow('0.15, 0.03', takes, 0.15, 0.03),
  scoreFollow('0.15, 0.06', takes, 0.15, 0.06),
  scoreFollow('0.10, none, flams in 15 %', takes, 0.1, 0, {}, 0.15),
  scoreFollow('0.10, 0.03, flams in 15 %', takes, 0.1, 0.03, {}, 0.15),
]) {
  console.log(
    `| ${s.name} | ${percent(s.nearest)} | ${percent(s.follow)} | ${percent(s.nearestSteps)} | ${percent(s.followSteps)} | ${percent(s.steady)} |`,
  );
}
