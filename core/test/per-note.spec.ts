import fc from 'fast-check';
import { isProblem, type Edit } from '@early-sparrow/core/edit';
import { grid, gridLines } from '@early-sparrow/core/grid';
import { collect, type MidiBytes, type PlayedMessage } from '@early-sparrow/core/record';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import {
  newSong,
  tempoOf,
  timeOf,
  zoneFaults,
  type Note,
  type Part,
  type PartEvent,
  type Song,
} from '@early-sparrow/core/song';
import { addNotes, copiesOf, erase, move, notesOfClip, readClip, takeUp, toClip } from '@early-sparrow/core/shape';
import { perform, ridesOf } from '@early-sparrow/core/treatment';
import { after } from './shaped';
import { applied, note, part, song, treated, withEvents, type Stages } from './build';

/** What a player did with one note: the events that belong to it, in ticks from its start. */
interface Played {
  readonly note: Note;
  readonly events: readonly { readonly at: number; readonly event: PartEvent }[];
}

/** A take from a controller that gives each note a channel of its own, one after the other. */
function take(gaps: readonly number[], members: number, zone: boolean): { song: Song; played: readonly Played[] } {
  let start = 100;
  const played = gaps.map((gap, i): Played => {
    start += gap;
    const channel = 1 + (i % members);
    const events = [
      // Set before the note begins, while it sounds, and as it is let go.
      { at: -3, type: 'bend', channel, value: 10 + i },
      { at: -2, type: 'controller', channel, controller: 74, value: 20 + (i % 90) },
      { at: 0, type: 'pressure', channel, value: 1 + (i % 100) },
      { at: 40, type: 'bend', channel, value: -300 - i },
      { at: 75, type: 'pressure', channel, value: 100 },
      { at: 118, type: 'controller', channel, controller: 74, value: 64 },
    ].map(({ at, ...event }) => ({ at, event: { ...event, tick: start + at } as PartEvent }));
    return { note: note(i, start, { channel, length: 120, pitch: 50 + (i % 20) }), events };
  });
  const setUp: PartEvent[] = zone
    ? [101, 100, 6].map((controller, k) => ({
        type: 'controller',
        tick: 0,
        channel: 0,
        controller,
        value: [0, 6, members][k],
      }))
    : [];
  const events = [...setUp, ...played.flatMap((p) => p.events.map((e) => e.event))].sort((a, b) => a.tick - b.tick);
  return { song: withEvents(song(played.map((p) => p.note)), events), played };
}

/** The corrected file, read again. */
function corrected(s: Song, stages: Stages): Part {
  const changed = treated(s, stages);
  return readSmf(writeSmf(changed, perform(changed, 'corrected')), 'x').song.tracks[0].parts[0];
}

/** How far events lie from where they lay against their notes, in ticks: the largest, note by note and kind by kind. */
function furthest(played: readonly Played[], after: Part): number {
  let most = 0;
  for (const { note: was, events } of played) {
    const is = after.notes.find(
      (n) => n.channel === was.channel && n.pitch === was.pitch && n.velocity === was.velocity && near(n, was),
    );
    if (!is) throw new Error('A note is gone.');
    for (const { at, event } of events) {
      const { tick: _tick, ...what } = event;
      const same = after.events.filter((e) => Object.entries(what).every(([k, v]) => e[k as keyof PartEvent] === v));
      most = Math.max(most, Math.min(...same.map((e) => Math.abs(e.tick - is.start - at))));
    }
  }
  return most;
}

const near = (a: Note, b: Note) => Math.abs(a.start - b.start) < 400;

describe('bend, pressure and controller 74 of a note', () => {
  const STAGES: Stages[] = [
    { quantize: { on: true } },
    { quantize: { on: true, grid: grid(16, 'straight', { swing: 0.66 }), strength: 0.8 } },
    { humanize: { on: true, start: 20 } },
    { lag: { on: true, amount: { value: -15, unit: 'ms' } }, push: { on: true, amount: { value: 8, unit: 'ms' } } },
  ];

  it('ride with it wherever it goes, channel by channel, with and without zone messages', () => {
    // Five members, chords and runs: no channel ever holds two notes.
    const anyGaps = fc.array(fc.integer({ min: 110, max: 260 }), { minLength: 8, maxLength: 40 });
    fc.assert(
      fc.property(anyGaps, fc.boolean(), fc.constantFrom(...STAGES), (gaps, zone, stages) => {
        // Two notes at a time at least once.
        const { song: s, played } = take([...gaps, 10], 5, zone);
        expect(furthest(played, corrected(s, stages))).toBeLessThanOrEqual(1);
      }),
      { numRuns: 60 },
    );
  });

  it('stay where they were while nothing moves', () => {
    const { song: s } = take([200, 10, 20, 300], 4, true);
    // The zone's messages prepare the track.
    const own = part(s).events.filter((e) => e.tick > 0);
    expect(corrected(s, {}).events.map((e) => e.tick)).toEqual(own.map((e) => e.tick));
  });

  it('of one note that rings into the next of its channel end where that begins', () => {
    const first = note(0, 100, { channel: 1, length: 100 });
    const other = note(1, 150, { channel: 2, length: 500, pitch: 64 });
    const second = note(2, 260, { channel: 1, length: 100, pitch: 62 });
    const tail: PartEvent = { type: 'bend', channel: 1, tick: 205, value: 50 };
    const fresh: PartEvent = { type: 'bend', channel: 1, tick: 258, value: 0 };
    const s = withEvents(song([first, other, second]), [tail, fresh]);
    const pinned = {
      ...part(s),
      notes: part(s).notes.map((n): Note =>
        n.id === 0 ? { ...n, exception: { kind: 'pinned', start: 190, length: 100, velocity: 80 } } : n,
      ),
    };
    const moved = { ...s, tracks: [{ ...s.tracks[0], parts: [pinned] }] };
    const ticks = perform(moved, 'corrected')[0].events.map((e) => [e.event.type, e.tick]);
    const bends = ticks.filter(([type]) => type === 'bend').map(([, tick]) => tick as number);
    // The new note’s bend is the last thing said before it begins.
    expect(Math.max(...bends)).toBe(258);
  });

  it('of instruments that are merely in one track, two notes of a channel at a time, follow as ever', () => {
    const chord = [note(0, 100, { channel: 0, length: 400 }), note(1, 120, { channel: 0, length: 400, pitch: 64 })];
    const s = withEvents(song(chord), [{ type: 'pressure', channel: 0, tick: 130, value: 3 }]);
    // Pressure stays by default.
    expect(corrected(s, { quantize: { on: true } }).events.map((e) => e.tick)).toEqual([130]);
  });

  describe('go with a note that is shaped by hand', () => {
    const { song: s, played } = take([200, 10, 200, 200], 5, true);
    const track = (now: Song) => now.tracks[0];
    const hand = (now: Song, ids: number[]) => takeUp(now, track(now), ids, 'corrected');
    /** What is said on a channel, from the start of its only note. */
    const own = (now: Song, channel: number) => {
      const start = part(now).notes.find((n) => n.channel === channel)?.start ?? 0;
      return part(now)
        .events.filter((e) => e.channel === channel)
        .map((e) => e.tick - start);
    };
    const OWN = [-3, -2, 0, 40, 75, 118];

    it('moved, and back where it was after undo', () => {
      const by = { ticks: 333, rows: 2, pitches: Array.from({ length: 128 }, (_, p) => p) };
      const shaped = move(s, track(s), [0, 2], 'corrected', by);
      const { song: now, inverse } = applied(s, shaped as Edit);
      expect(part(now).notes.find((n) => n.id === 0)?.start).toBe(played[0].note.start + 333);
      for (const channel of [1, 2, 3, 4]) expect(own(now, channel)).toEqual(OWN);
      expect(applied(now, inverse).song).toEqual(s);
    });

    it('erased: they go, and nothing of others does', () => {
      const now = after(s, erase(track(s), hand(s, [1])));
      expect(part(now).events.filter((e) => e.channel === 2)).toEqual([]);
      for (const channel of [1, 3, 4]) expect(own(now, channel)).toEqual(OWN);
    });

    it('copied, by hand and over the clipboard, also to a song of other ticks', () => {
      const added = addNotes(s, 't', copiesOf(track(s), hand(s, [0]), 5000));
      if (!added || isProblem(added)) throw new Error('It was not added.');
      const now = applied(s, added.edit).song;
      const there = part(now).events.filter((e) => e.tick > 4000);
      expect(there.map((e) => e.tick - played[0].note.start - 5000)).toEqual(OWN);
      const clip = readClip(toClip(s, hand(s, [0])) ?? '');
      if (isProblem(clip)) throw new Error(clip.problem);
      const other = { ...song([note(0, 0)]), ppq: 480 };
      const pasted = addNotes(other, 't', notesOfClip(clip, other, 2000));
      if (!pasted || isProblem(pasted)) throw new Error('It was not pasted.');
      const ticks = part(applied(other, pasted.edit).song).events.map((e) => e.tick - 2000);
      expect(ticks).toEqual(OWN.map((at) => Math.round(at / 2)));
    });
  });
});

describe('messages that set up zones', () => {
  const rpn = (channel: number, members: number, tick = 0): PartEvent[] =>
    [101, 100, 6].map((controller, k) => ({
      type: 'controller' as const,
      tick,
      channel,
      controller,
      value: [0, 6, members][k],
    }));
  const notes = [0, 1, 2, 3].map((i) => note(i, 480 * (i + 1), { channel: 1 + i, length: 400 }));
  const bend: PartEvent = { type: 'bend', tick: 1000, channel: 2, value: 200 };
  const read = (...events: PartEvent[]) => {
    const s = withEvents(
      song(notes),
      [...events, bend].sort((a, b) => a.tick - b.tick),
    );
    const made = s.tracks[0].parts[0];
    return { faults: zoneFaults(made), owner: [...(ridesOf(made)?.owner ?? [])].at(made.events.indexOf(bend)) };
  };

  it('that are in order say nothing, and neither do those that take the zones down behind the take', () => {
    expect(read(...rpn(0, 7), ...rpn(15, 7))).toEqual({ faults: [], owner: 1 });
    expect(read(...rpn(0, 15), ...rpn(0, 0, 3000))).toEqual({ faults: [], owner: 1 });
  });

  it('with sixteen members for fifteen channels, overlapping, and in the middle are told; the take is read all the same', () => {
    expect(read(...rpn(0, 16))).toEqual({ faults: [{ kind: 'too-many', members: 16 }], owner: 1 });
    // MIDI Polyphonic Expression 1.0 (MIDI Association RP-053), from memory: of zones that overlap the newer one keeps its channels.
    expect(read(...rpn(15, 10), ...rpn(0, 8))).toEqual({ faults: [{ kind: 'overlap', lower: 8, upper: 6 }], owner: 1 });
    expect(read(...rpn(0, 3), ...rpn(0, 8, 700))).toEqual({ faults: [{ kind: 'midway', tick: 700 }], owner: 1 });
  });

  it('in the middle are before the take once its first note has gone, and again when it is back', () => {
    const { events } = withEvents(song(notes), [...rpn(0, 3), ...rpn(0, 8, 700)]).tracks[0].parts[0];
    const told = (from: number) => zoneFaults({ notes: notes.slice(from), events }).map(({ kind }) => kind);
    expect([told(0), told(1), told(0)]).toEqual([['midway'], [], ['midway']]);
  });
});

describe('what is recorded', () => {
  const HOW = {
    lines: gridLines(grid(16), timeOf(newSong('x'))),
    tempo: tempoOf(newSong('x')),
    latency: 0,
    end: 4000,
    stopped: 4000,
    begin: null,
    punch: null,
  };

  it('note by note keeps a channel for each, with its bend and pressure; what one keyboard sent goes to the track’s', () => {
    const at = (ms: number, ...bytes: MidiBytes): PlayedMessage => ({ ms, round: 0, bytes });
    const pressed = [0, 1, 2, 3].flatMap((i) => [
      at(i * 250, 0xe1 + i, 0, 64 + i),
      at(i * 250 + 1, 0x91 + i, 60 + i, 80),
      at(i * 250 + 60, 0xd1 + i, 40 + i, 0),
      at(i * 250 + 400, 0x81 + i, 60 + i, 64),
    ]);
    const messages = pressed.sort((a, b) => a.ms - b.ms);
    const [round] = collect(messages, { ...HOW, channel: 0 });
    expect(round.notes.map((n) => n.channel)).toEqual([1, 2, 3, 4]);
    const bends = round.events.filter((e) => e.type === 'bend' && e.value !== 0);
    expect(bends.map((e) => [e.channel, 'value' in e && e.value])).toEqual([
      [2, 128],
      [3, 256],
      [4, 384],
    ]);
    const keys = messages.map((m) => at(m.ms, (m.bytes[0] & 0xf0) | 2, m.bytes[1], m.bytes[2]));
    const [plain] = collect(keys, { ...HOW, channel: 0 });
    expect(new Set([...plain.notes, ...plain.events].map((e) => e.channel))).toEqual(new Set([0]));
  });
});
