import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { demoSong } from './build';

// Writes the demo song and the rhythm that its players meant, beside each other.
const folder = join(process.cwd(), 'app/public/demo');
const { midi, truth } = demoSong();
mkdirSync(folder, { recursive: true });
writeFileSync(join(folder, 'night-ferry.mid'), midi);
writeFileSync(join(folder, 'night-ferry.truth.json'), JSON.stringify(truth) + '\n');
console.log(`night-ferry.mid: ${truth.tracks.reduce((n, t) => n + t.lines.length, 0)} notes`);
