import fc from 'fast-check';
import {
  Band,
  clickOf,
  Conductor,
  lineTicks,
  mixOf,
  percussionName,
  renderSpan,
  scoreOf,
  scorePieces,
  scoresOf,
  soundsOf,
  together,
  voiceKind,
  wholeSpan,
  writeWav,
} from '@early-sparrow/core/sound';
import { atOnce, firstAt } from '@early-sparrow/core/maths';
import { asPlayed, playedSounding, playedTrack } from '@early-sparrow/core/performance';
import { tempoOf } from '@early-sparrow/core/song';
import { correctedSounding, correctedTrack } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { note, song } from './build';
import { score } from './scores';

const RATE = 48_000;
const BLOCK = 128;

const frames = (ms: number) => Math.round((ms * RATE) / 1000);

describe('the click', () => {
  it('is on the beats, louder on the first of a bar, divided where that is wanted', () => {
    const s = song([]);
    const click = clickOf(s, 3840 + 1, { divide: 2 });
    expect([...click.at]).toEqual(
      [0, 250, 500, 750, 1000, 1250, 1500, 1750, 2000, 2250, 2500, 2750, 3000, 3250, 3500, 3750].filter(
        (t) => t <= 3750,
      ),
    );
    expect([...click.kind.slice(0, 4)]).toEqual([0, 2, 1, 2]);
  });

  it('beats of a bar that are too fast are no tone', () => {
    const fast = { ...song([]), tempo: [{ tick: 0, usPerQuarter: 30_000 }] };
    expect(clickOf(fast, 9600, { divide: 1 }).at).toHaveLength(0);
  });

  it('is merged with lines, in order', () => {
    const s = song([]);
    const merged = together([clickOf(s, 1920, { divide: 1 }), lineTicks([720, 240, 240, -5], s)]);
    expect([...merged.at]).toEqual([0, 125, 375, 500, 1000, 1500].filter((t) => merged.at.includes(t)));
    expect(firstAt(merged.at, 125)).toBe(1);
  });

  it('begins with its very sample, loudest at once', () => {
    const band = new Band(RATE);
    const [left, right] = [new Float32Array(256), new Float32Array(256)];
    band.render(left, right, 0, 100);
    band.tick('bar');
    band.render(left, right, 100, 156);
    expect(left.findIndex((x) => x !== 0)).toBe(100);
    expect(left[100]).toBe(Math.max(...left));
    expect(right).toEqual(left);
  });
});

describe('the band', () => {
  const level = (samples: Float32Array) => Math.sqrt(samples.reduce((sum, x) => sum + x * x, 0) / samples.length);
  const playing = (messages: (band: Band) => void) => {
    const band = new Band(RATE);
    band.setTrack('t', { ...score([]), slots: [{ channel: 0, kind: 'strings', program: 48 }] });
    messages(band);
    const [left, right] = [new Float32Array(RATE), new Float32Array(RATE)];
    band.render(left, right, 0, RATE);
    return { left, right, band };
  };

  it('falls silent when the key is let go, and holds under the damper, the sostenuto for what was down', () => {
    // source: MIDI 1.0, controllers 64 and 66; 64 and more are down
    const held = (before: readonly number[], after: readonly number[]) =>
      level(
        playing((band) => {
          band.noteOn('t', 0, 60, 100);
          if (before.length > 0) band.message('t', 0, 0xb0, before[0], before[1]);
          band.noteOff('t', 0, 60);
          if (after.length > 0) band.message('t', 0, 0xb0, after[0], after[1]);
        }).left.subarray(RATE / 2),
      );
    expect(held([], [])).toBeLessThan(1e-3);
    expect(held([64, 63], [])).toBeLessThan(1e-3);
    expect(held([64, 64], [])).toBeGreaterThan(0.01);
    expect(held([64, 127], [64, 0])).toBeLessThan(1e-3);
    expect(held([66, 127], [])).toBeGreaterThan(0.01);
    expect(held([66, 127], [66, 0])).toBeLessThan(1e-3);
    const late = playing((band) => {
      band.message('t', 0, 0xb0, 66, 127);
      band.noteOn('t', 0, 60, 100);
      band.noteOff('t', 0, 60);
    });
    expect(level(late.left.subarray(RATE / 2))).toBeLessThan(1e-3);
  });

  it('obeys volume, expression, the soft pedal and the bend', () => {
    const loud = (messages: (band: Band) => void) => {
      return playing((band) => {
        messages(band);
        band.noteOn('t', 0, 69, 100);
      }).left;
    };
    const plain = level(loud(() => undefined));
    for (const [controller, value] of [
      [7, 50],
      [11, 60],
      [67, 127],
    ]) {
      expect(level(loud((band) => band.message('t', 0, 0xb0, controller, value)))).toBeLessThan(plain * 0.8);
    }
    const crossings = (samples: Float32Array) =>
      samples.reduce((n, x, i) => n + (i > 0 && x >= 0 && samples[i - 1] < 0 ? 1 : 0), 0);
    // 440 Hz, and 493.9 Hz two semitones up (source: equal temperament, ISO 16; bend range: General MIDI Level 1)
    expect(crossings(loud(() => undefined))).toBeCloseTo(440, -1);
    expect(crossings(loud((band) => band.message('t', 0, 0xe0, 127, 127)))).toBeCloseTo(494, -1);
  });

  it('pans, and never goes beyond full scale', () => {
    const { left, right } = playing((band) => {
      band.setMix([{ id: 't', gain: 1, pan: -1, audible: true }]);
      band.noteOn('t', 0, 60, 100);
    });
    expect(level(left)).toBeGreaterThan(0.01);
    expect(level(right)).toBeLessThan(1e-9);
    const crowd = playing((band) => {
      for (let pitch = 30; pitch < 100; pitch++) band.noteOn('t', 0, pitch, 127);
    });
    expect(crowd.left.reduce((most, x) => Math.max(most, Math.abs(x)), 0)).toBeLessThanOrEqual(0.9);
  });

  it('leaves nothing behind: after 500 starts as much sounds as after one', () => {
    const { band } = playing(() => undefined);
    const conductor = new Conductor(band, RATE, { leg: () => undefined, ended: () => undefined });
    conductor.setTrack('t', score(Array.from({ length: 6 }, (_, id) => ({ id, start: 0, end: 9000 }))));
    const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
    for (let k = 0; k < 500; k++) {
      conductor.start(0);
      conductor.render(left, right);
    }
    conductor.stop();
    for (let k = 0; k < 40; k++) conductor.render(left, right);
    expect(level(left)).toBe(0);
  });
});

describe('a score', () => {
  it('has a slot for each channel, and the sounds that its programs ask for', () => {
    const s = song([note(0, 0), note(1, 480, { channel: 9 }), note(2, 960, { muted: true })]);
    const setup = [
      { tick: 0, order: 0, type: 'program', channel: 0, program: 33 },
      { tick: 10, order: 1, type: 'bend', channel: 0, value: 8191 },
      { tick: 20, order: 2, type: 'controller', channel: 0, controller: 32, value: 1 },
    ] as const;
    const withProgram = { ...s, tracks: [{ ...s.tracks[0], setup }] };
    const [track] = scoresOf(withProgram, asPlayed(withProgram));
    expect(track.slots).toEqual([
      { channel: 0, kind: 'bass', program: 33 },
      { channel: 9, kind: 'drums', program: 0 },
    ]);
    expect([...track.notes.id]).toEqual([0, 1]);
    // A bank select is left out; a bend has seven low bits first (MIDI 1.0).
    expect([...track.events.status]).toEqual([0xc0, 0xe0]);
    expect([track.events.first[1], track.events.second[1]]).toEqual([127, 127]);
    expect(soundsOf([track])).toEqual([
      { program: 33, drums: false },
      { program: 0, drums: true },
    ]);
  });

  it('ends a note where its key is struck again', () => {
    const s = song([note(0, 0, { length: 1920 }), note(1, 960, { length: 96 })]);
    const { notes } = scoreOf(s.tracks[0], asPlayed(s)[0], tempoOf(s));
    // 960 ticks are 500 ms at 120 BPM.
    expect([...notes.end]).toEqual([500, 550]);
  });

  it('ends both of two notes that start together where their key is struck again', () => {
    const s = song([note(0, 0, { length: 1920 }), note(1, 0, { length: 1440 }), note(2, 960, { length: 96 })]);
    expect([...scoreOf(s.tracks[0], asPlayed(s)[0], tempoOf(s)).notes.end]).toEqual([500, 500, 550]);
  });

  it('has its notes in order of their starts, of equal ones the first first, whatever order they come in', () => {
    const s = song([note(0, 0), note(1, 960), note(2, 1920), note(3, 960, { pitch: 64 })]);
    const [plain] = asPlayed(s);
    const astray = { ...plain, notes: [plain.notes[2], plain.notes[0], plain.notes[3], plain.notes[1]] };
    expect(astray.notes.map((n) => n.note.id)).toEqual([3, 0, 2, 1]);
    const { notes } = scoreOf(s.tracks[0], astray, tempoOf(s));
    expect([...notes.id]).toEqual([0, 3, 1, 2]);
    const muted = song([note(0, 0, { muted: true }), note(1, 960)]);
    expect([...scoreOf(muted.tracks[0], asPlayed(muted)[0], tempoOf(muted)).notes.id]).toEqual([1]);
  });

  it('of any track has what sounds of it, each ending where its key is struck again', () => {
    fc.assert(
      fc.property(anySongAtAll, fc.boolean(), (s, corrected) => {
        for (const track of s.tracks) {
          const heard = (corrected ? correctedTrack : playedTrack)(track, s)
            .notes.filter((n) => !n.note.muted)
            .sort((a, b) => a.start - b.start);
          const end = heard.map((n, i) => {
            const key = heard
              .slice(i + 1)
              .filter((o) => o.note.pitch === n.note.pitch && o.note.channel === n.note.channel);
            return Math.min(n.end, key.find((o) => o.start > n.start)?.start ?? Infinity);
          });
          const { notes, slots } = atOnce(
            scorePieces(track, (corrected ? correctedSounding : playedSounding)(track, s), tempoOf(s)),
          );
          expect([...notes.id]).toEqual(heard.map((n) => n.note.id));
          expect([...notes.start]).toEqual(heard.map((n) => tempoOf(s).toMs(n.start)));
          expect([...notes.end]).toEqual(end.map((tick) => tempoOf(s).toMs(tick)));
          expect([...notes.velocity]).toEqual(heard.map((n) => n.velocity));
          expect([...notes.slot].map((slot) => slots[slot].channel)).toEqual(heard.map((n) => n.note.channel));
        }
      }),
      { numRuns: 200 },
    );
  });

  it('plays the voice that was chosen, whatever its program', () => {
    const s = song([note(0, 0)]);
    const track = { ...s.tracks[0], voice: 'reed' as const };
    expect(scoreOf(track, asPlayed(s)[0], tempoOf(s)).slots).toEqual([{ channel: 0, kind: 'reed', program: 71 }]);
  });

  it('is rendered with each start on its sample, across a tempo change', () => {
    const s = {
      ...song([note(0, 0, { length: 100 }), note(1, 960, { length: 100 }), note(2, 1680, { length: 100 })]),
      tempo: [
        { tick: 0, usPerQuarter: 500_000 },
        { tick: 960, usPerQuarter: 631_579 },
      ],
    };
    const plain = { ...s, tracks: [{ ...s.tracks[0], voice: 'plain' as const }] };
    const [left] = renderSpan(
      { scores: scoresOf(plain, asPlayed(plain)), mix: mixOf(plain), span: wholeSpan(plain), rate: RATE },
      null,
    );
    for (const tick of [0, 960, 1680]) {
      const at = frames(tempoOf(plain).toMs(tick));
      // Silence before, sound from the sample on (a sine begins at 0).
      expect(Math.max(...left.subarray(Math.max(0, at - 200), at).map(Math.abs), 0)).toBeLessThan(1e-3);
      expect(Math.abs(left[at + 3])).toBeGreaterThan(1e-3);
    }
  });
});

describe('a WAV file', () => {
  it('is written as the format says', () => {
    // source: Microsoft & IBM, Multimedia Programming Interface and Data Specifications 1.0 (1991), RIFF WAVE
    const bytes = writeWav(Float32Array.of(0, 1, -1, 2), Float32Array.of(0.5, 0, 0, 0), 44_100, 16);
    const view = new DataView(bytes.buffer);
    const text = (at: number, n: number) => String.fromCharCode(...bytes.subarray(at, at + n));
    expect([text(0, 4), text(8, 8), text(36, 4)]).toEqual(['RIFF', 'WAVEfmt ', 'data']);
    expect([4, 24, 28, 40].map((at) => view.getUint32(at, true))).toEqual([52, 44_100, 176_400, 16]);
    expect([44, 46, 48, 52, 56].map((at) => view.getInt16(at, true))).toEqual([0, 16384, 32767, -32767, 32767]);
    const deep = writeWav(Float32Array.of(-0.5), Float32Array.of(0), 48_000, 24);
    expect([...deep.subarray(44, 47)]).toEqual([0x01, 0x00, 0xc0]);
  });
});

describe('voices', () => {
  it('follow General MIDI', () => {
    // source: General MIDI System Level 1, sound set and percussion map
    const track = (program: number, channel = 0) => ({
      ...song([note(0, 0, { channel })]).tracks[0],
      setup: [{ tick: 0, order: 0, type: 'program', channel, program }] as const,
    });
    expect([0, 12, 25, 33, 48, 71].map((p) => voiceKind(track(p)))).toEqual([
      'keys',
      'mallets',
      'plucked',
      'bass',
      'strings',
      'reed',
    ]);
    expect(voiceKind(track(40, 9))).toBe('drums');
    expect([36, 38, 42, 44, 46].map(percussionName)).toEqual([
      'Bass drum',
      'Snare',
      'Closed hi-hat',
      'Pedal hi-hat',
      'Open hi-hat',
    ]);
  });
});
