import { scoreFollow } from './follows';
import { FREE_KINDS, scoreFree } from './free';
import { scoreGhosts } from './ghosts';
import { scoreGrids } from './grids';
import { scoreLagFirst } from './lag-first';
import { scoreLags } from './lags';
import { PLAYERS, scoreDriftGrids, scoreWander } from './wanders';

// Prints the tables of docs/accuracy.md: npm run accuracy -- [RUNS]
const runs = Number(process.argv[2] ?? 300);
const percent = (x: number) => `${(100 * x).toFixed(1)} %`;

const quantile = (values: readonly number[], q: number) =>
  [...values].sort((a, b) => a - b)[Math.floor(q * (values.length - 1))] ?? NaN;

console.log('| grids | takes | right first | right in the first two |\n|---|---|---|---|');
for (const s of scoreGrids(runs)) {
  console.log(`| ${s.name} | ${s.runs} | ${percent(s.first / s.runs)} | ${percent(s.two / s.runs)} |`);
}
const ghosts = scoreGhosts(runs, 20_000);
console.log(`
| swung eighths with straight sixteenths here and there, ${ghosts.takes} takes | |
|---|---|
| lag off by, median and p90 | ${quantile(ghosts.lagErrors, 0.5).toFixed(1)}, ${quantile(ghosts.lagErrors, 0.9).toFixed(1)} ms |
| lag told as sure | ${percent(ghosts.sure / ghosts.takes)} |
| sure, and off by more than 10 ms | ${ghosts.sureAndFalse} |
| notes on beats that quantizing puts off them | ${percent(ghosts.offBeat)} |
`);
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

const wandering = Math.max(10, Math.round(runs / 8));
console.log('\n| players, lag found with the lines | nearest wrong | follow wrong | oracle wrong |\n|---|---|---|---|');
for (const player of PLAYERS) {
  const s = scoreWander(player, wandering, 200_000);
  console.log(`| ${player} | ${percent(s.nearest)} | ${percent(s.follow)} | ${percent(s.oracle)} |`);
}
console.log(
  '\n| players, lag removed first | louder beats by | nearest wrong | follow wrong | follow worse by a point |\n|---|---|---|---|---|',
);
for (const player of PLAYERS) {
  for (const accent of [14, 0]) {
    const s = scoreLagFirst(player, wandering, 210_000, accent);
    console.log(`| ${player} | ${accent} | ${percent(s.nearest)} | ${percent(s.follow)} | ${s.worse} of ${s.takes} |`);
  }
}
console.log(
  '\n| drift over a quarter of a gap | takes | right first | in two | called drifting | lag median, p90 | swing p90 | interval holds |\n|---|---|---|---|---|---|---|---|',
);
for (const player of PLAYERS) {
  const s = scoreDriftGrids(player, wandering, 300_000);
  const lag = `${quantile(s.lagErrors, 0.5).toFixed(1)}, ${quantile(s.lagErrors, 0.9).toFixed(1)} ms`;
  const swing = s.swingErrors.length > 0 ? `${quantile(s.swingErrors, 0.9).toFixed(1)} points` : '';
  console.log(
    `| ${player} | ${s.takes} | ${percent(s.first / s.takes)} | ${percent(s.two / s.takes)} | ${percent(s.drifting / s.takes)} | ${lag} | ${swing} | ${s.held} of ${s.given} |`,
  );
}
console.log('\n| beats of free playing, mean F | alone | best of four readings | after a hint |\n|---|---|---|---|');
for (const cues of [true, false]) {
  for (const kind of FREE_KINDS) {
    const s = scoreFree(Math.max(10, Math.round(runs / 20)), 500, kind, cues);
    const f = [s.alone, s.offered, s.hinted].map((x) => x.toFixed(2)).join(' | ');
    console.log(`| ${kind}, ${cues ? 'beats low, loud and full' : 'nothing stands out'} | ${f} |`);
  }
}
