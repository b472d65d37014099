import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseGrid } from '@early-sparrow/core/grid';
import { hash3 } from '@early-sparrow/core/maths';
import { asPlayed, writeSmf } from '@early-sparrow/core/smf';
import { treatPart } from '@early-sparrow/core/treatment';
import { note, part, song, treated } from './build';

const file = join(mkdtempSync(join(tmpdir(), 'early-sparrow-')), 'mono.mid');

/** Where midi2abc (Debian package abcmidi) puts the notes of a monophonic part, in ticks at 960 PPQ. */
function midi2abcStarts(bytes: Uint8Array, ...flags: string[]): number[] {
  writeFileSync(file, bytes);
  const text = execFileSync('midi2abc', ['-f', file, ...flags], { encoding: 'latin1' });
  const unit = 3840 / Number(/^L: 1\/(\d+)/m.exec(text)?.[1]);
  const music = text.slice(text.indexOf('V:1') + 3);
  const starts: number[] = [];
  let at = 0;
  let inTuplet = 0;
  for (const [, tuplet, symbol, over, under] of music.matchAll(/(\(3)|([A-Ga-gz])(\d*)(?:\/(\d*))?/g)) {
    if (tuplet) {
      inTuplet = 3;
      continue;
    }
    if (symbol !== 'z') starts.push(Math.round(at));
    const length = (Number(over || 1) / (under === undefined ? 1 : Number(under || 2))) * unit;
    at += inTuplet-- > 0 ? (length * 2) / 3 : length;
  }
  return starts;
}

const jitter = (seed: number, i: number, most: number) => Math.round((hash3(seed, i, 1) / 2 ** 32 - 0.5) * 2 * most);

describe('another program’s lines', () => {
  // reference: midi2abc (Debian package abcmidi); -nt: it does not look for triplets
  it.each([1, 2, 3, 4, 5])('are ours for sixteenths played within 10 ms (take %i)', (seed) => {
    const places = Array.from({ length: 64 }, (_, k) => k * 240).filter((_, k) => k === 0 || hash3(seed, k, 2) % 3 > 0);
    const notes = places.map((t, i) => note(i, Math.max(0, t + (i === 0 ? 0 : jitter(seed, i, 19))), { length: 200 }));
    const s = song(notes);
    const ours = treated(s, { quantize: { on: true, grid: parseGrid('1/16') } });
    expect([...treatPart(part(ours), ours).start]).toEqual(midi2abcStarts(writeSmf(s, asPlayed(s)), '-nt'));
  });

  it.each([1, 2, 3])('are ours for eighth triplets played within 5 ms (take %i)', (seed) => {
    const notes = Array.from({ length: 48 }, (_, i) =>
      note(i, Math.max(0, i * 320 + (i === 0 ? 0 : jitter(seed, i, 9))), { length: 318 }),
    );
    const s = song(notes);
    const ours = treated(s, { quantize: { on: true, grid: parseGrid('1/8T') } });
    expect([...treatPart(part(ours), ours).start]).toEqual(midi2abcStarts(writeSmf(s, asPlayed(s))));
  });
});
