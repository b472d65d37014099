import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseGrid } from '@early-sparrow/core/grid';
import { hash3 } from '@early-sparrow/core/maths';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { perform, treatPart } from '@early-sparrow/core/treatment';
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

/** Writes a take of one channel a note with python3-mido, and reads one: lists of [tick at 960 a quarter, kind, channel, value]. */
const MIDO = `
import io, json, sys, mido
job = json.load(sys.stdin)
if 'write' in job:
    track = mido.MidiTrack()
    at = 0
    for tick, kind, channel, a, b in job['write']:
        m = {
            'on': lambda: mido.Message('note_on', channel=channel, note=a, velocity=b),
            'off': lambda: mido.Message('note_off', channel=channel, note=a, velocity=b),
            'bend': lambda: mido.Message('pitchwheel', channel=channel, pitch=a),
            'press': lambda: mido.Message('aftertouch', channel=channel, value=a),
            'cc': lambda: mido.Message('control_change', channel=channel, control=a, value=b),
        }[kind]()
        m.time = tick - at
        at = tick
        track.append(m)
    f = mido.MidiFile(type=0, ticks_per_beat=480)
    f.tracks.append(track)
    out = io.BytesIO()
    f.save(file=out)
    print(json.dumps(list(out.getvalue())))
else:
    f = mido.MidiFile(file=io.BytesIO(bytes(job['read'])))
    found = []
    for track in f.tracks:
        at = 0
        for m in track:
            at += m.time
            if m.type == 'note_on' and m.velocity > 0: found.append([at, 'on', m.channel, m.note])
            if m.type == 'pitchwheel': found.append([at, 'bend', m.channel, m.pitch])
            if m.type == 'aftertouch': found.append([at, 'press', m.channel, m.value])
            if m.type == 'control_change': found.append([at, 'cc%d' % m.control, m.channel, m.value])
    print(json.dumps({'ppq': f.ticks_per_beat, 'found': found}))
`;
type Told = readonly [number, string, number, number];
const mido = (job: object): unknown =>
  JSON.parse(
    execFileSync('/usr/bin/python3', ['-c', MIDO], { input: JSON.stringify(job), maxBuffer: 1 << 28 }).toString(),
  );

describe('a take of one channel a note that another program wrote', () => {
  // reference: python3-mido (Debian) writes the file and reads what comes out
  it.each([
    ['with zone messages', true],
    ['without', false],
  ])('%s: bend, pressure and controller 74 stay where they lay against their note', (_, zones) => {
    const events: [number, string, number, number, number][] = [];
    if (zones)
      for (const [a, b] of [
        [101, 0],
        [100, 6],
        [6, 5],
      ] as const)
        events.push([0, 'cc', 0, a, b]);
    const notes = Array.from({ length: 60 }, (_, i) => {
      const [channel, start] = [1 + (i % 5), 300 + i * 120 + ((i * 37) % 29)];
      events.push([start - 3, 'bend', channel, 10 * i - 300, 0], [start - 2, 'cc', channel, 74, i + 1]);
      events.push([start, 'on', channel, 40 + (i % 30), 80], [start + 40, 'bend', channel, 1000 + i, 0]);
      events.push([start + 90, 'press', channel, i + 3, 0], [start + 260, 'off', channel, 40 + (i % 30), 64]);
      return { channel, start };
    });
    events.sort((a, b) => a[0] - b[0]);
    const { song: read } = readSmf(Uint8Array.from(mido({ write: events }) as number[]), 'x');
    for (const stages of [
      { quantize: { on: true, grid: parseGrid('1/16 ~66%') } },
      { quantize: { on: true, strength: 0.7 }, humanize: { on: true, start: 15 } },
    ]) {
      const changed = treated(read, stages);
      const bytes = writeSmf(changed, perform(changed, 'corrected'));
      const { ppq, found } = mido({ read: [...bytes] }) as { ppq: number; found: Told[] };
      const scale = ppq / 480;
      const starts = new Map<number, number[]>();
      for (const [tick, kind, channel] of found) {
        if (kind === 'on') starts.set(channel, [...(starts.get(channel) ?? []), tick]);
      }
      let moved = 0;
      notes.forEach(({ channel, start }, i) => {
        const now = starts.get(channel)?.[Math.floor(i / 5)] ?? NaN;
        moved += now === start * scale ? 0 : 1;
        const lies = (kind: string, value: number, away: number) => {
          const own = found.filter((f) => f[1] === kind && f[2] === channel && f[3] === value);
          expect(own).toHaveLength(1);
          expect(Math.abs(own[0][0] - now - away * scale)).toBeLessThanOrEqual(1);
        };
        lies('bend', 10 * i - 300, -3);
        lies('bend', 1000 + i, 40);
        lies('cc74', i + 1, -2);
        lies('press', i + 3, 90);
      });
      expect(moved).toBeGreaterThan(40);
      // The zones stay in the file.
      expect(found.filter((f) => f[1] === 'cc6' && f[3] === 5)).toHaveLength(zones ? 1 : 0);
    }
  });
});
