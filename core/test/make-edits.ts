import {
  addPart,
  addTrack,
  applyEdit,
  isProblem,
  moveParts,
  type Edit,
  type SimpleEdit,
} from '@early-sparrow/core/edit';
import { HEARD, newTrack, type Part, type Song } from '@early-sparrow/core/song';
import { note, part, song, treatment, withEvents } from './build';

const pedal = (tick: number, value: number) =>
  ({ type: 'controller', controller: 64, channel: 0, tick, order: tick + 0.5, value }) as const;
const bend = (tick: number, value: number) => ({ type: 'bend', channel: 0, tick, order: tick + 0.7, value }) as const;

/** Two tracks from a file; the first has two parts, and a pedal and a bend that are held over its bars. */
export function twoTracks(): Song {
  const one = withEvents(
    song(
      [0, 1, 2, 3].map((i) => note(i, i * 900 + 20, { pitch: 60 + i, order: [i * 2, i * 2 + 1] })),
      { quantize: { on: true } },
    ),
    [pedal(10, 127), bend(1000, 300), pedal(3700, 0)],
  );
  const [track] = one.tracks;
  const more: Part = {
    ...part(one),
    id: 'p6',
    start: 7680,
    end: 11520,
    notes: [note(8, 7700), note(9, 9000)],
    events: [],
  };
  const name = { type: 'meta', tick: 0, order: 0, meta: 3, data: Uint8Array.of(0x53, 0x70, 0xe5, 0x72) } as const;
  const first = {
    ...track,
    name: 'Spår',
    parts: [part(one), more],
    setup: [name],
    origin: { source: 0, name: 'Spår', end: 12000 },
  };
  const takes = {
    chosen: { id: 'take13', name: 'Take 2' },
    others: [{ id: 'take12', name: 'Take 1', notes: [note(11, 4000), note(14, 6200)], events: [bend(5000, 20)] }],
  };
  const versions = {
    current: { id: 'v1', name: 'A' },
    others: [{ id: 'v2', name: 'B', treatment: treatment({ quantize: { on: true, strength: 0.5 } }) }],
  };
  const other = {
    ...more,
    takes,
    versions,
    id: 'p7',
    audio: {
      file: 'a'.repeat(64),
      name: 'Loop',
      ms: 2000,
      anchors: [
        { tick: 7600.25, ms: 0 },
        { tick: 9600, ms: 900 },
        { tick: 11500.5, ms: 2000 },
      ],
      heard: 'file' as const,
    },
    name: 'Other',
    notes: [note(10, 7000, { channel: 1 })],
    start: 3840,
    end: 7680,
  };
  const second = newTrack('t5', 'Second', {
    parts: [{ ...other, origin: { source: 1 } }],
    origin: { source: 1, name: 'Second', end: 12000 },
  });
  return { ...one, tracks: [first, second], nextId: 20 };
}

/** One edit of each kind, made for the song at hand; numbers choose among what it has. */
export const MAKE: Record<SimpleEdit['kind'], (s: Song, n: (below: number) => number) => Edit | null> = {
  treatment: (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'treatment',
      name: 'x',
      part: p.id,
      treatment: treatment({
        quantize: { on: n(2) > 0, strength: n(5) / 4 },
        push: { on: true, amount: { value: n(40) - 20, unit: 'ms' } },
      }),
    })),
  'track-end': (s, n) => ({ kind: 'track-end', name: 'x', track: s.tracks[n(s.tracks.length)].id, end: n(20_000) }),
  'part-on': (s, n) => withPart(s, n, (p) => ({ kind: 'part-on', name: 'x', part: p.id, on: !p.on })),
  sets: (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'sets',
      name: 'x',
      part: p.id,
      sets: [
        {
          id: 'own1',
          name: 'own',
          treatment: treatment({ lag: { on: true, amount: { value: n(50), unit: 'ticks' } } }),
        },
      ],
    })),
  notes: (s, n) =>
    withPart(s, n, (p) => {
      const some = p.notes.filter(() => n(3) === 0);
      const changed = some.map((x) => ({
        ...x,
        start: Math.max(0, x.start + n(600) - 300),
        pitch: n(128),
        ...(n(3) === 0 ? { exception: { kind: 'pinned', start: n(9000), length: 50, velocity: 70 } as const } : {}),
      }));
      const fresh = n(2) ? [note(s.nextId, p.start + n(900), { order: undefined })] : [];
      return {
        kind: 'notes',
        name: 'x',
        part: p.id,
        remove: some.map((x) => x.id),
        add: n(4) ? [...changed, ...fresh] : [],
        ...(n(3) === 0 ? { how: 'nudge', at: 1000 } : n(3) === 0 ? { joins: true } : {}),
      };
    }),
  events: (s, n) =>
    withPart(s, n, (p) => {
      const tick = n(9000);
      const at = p.events.filter((e) => e.tick <= tick).length;
      return {
        kind: 'events',
        name: 'x',
        part: p.id,
        remove: [],
        add: [{ at, event: { type: 'bend', channel: 0, tick, value: n(500) } }],
      };
    }),
  'part-audio': (s, n) => withPart(s, n, (p) => ({ kind: 'part-audio', name: 'x', part: p.id, heard: HEARD[n(3)] })),
  'part-take': (s, n) =>
    withPart(s, n, (p) => {
      const rounds = p.takes?.others ?? [];
      if (rounds.length === 0) return null;
      const range = n(2) ? { range: { from: p.start, to: p.start + n(2000) + 1 } } : {};
      return { kind: 'part-take', name: 'x', part: p.id, take: rounds[n(rounds.length)].id, ...range };
    }),
  'part-version': (s, n) =>
    withPart(s, n, (p) => {
      const others = p.versions?.others ?? [];
      return others.length > 0
        ? { kind: 'part-version', name: 'x', part: p.id, version: others[n(others.length)].id }
        : null;
    }),
  'part-versions': (s, n) =>
    withPart(s, n, (p) => {
      const known = p.versions ?? { current: { id: 'v1', name: 'A' }, others: [] };
      const more = {
        id: `v${known.others.length + 2 + n(1000)}`,
        name: 'B',
        treatment: treatment({ push: { on: true } }),
      };
      const versions = n(4) ? { ...known, others: [...known.others, more] } : null;
      return { kind: 'part-versions', name: 'x', part: p.id, versions };
    }),
  'part-compile': (s, n) =>
    withPart(s, n, (p) => {
      if (!p.takes) return null;
      const notes = [note(s.nextId, p.start + n(900)), note(s.nextId + 1, p.start + 900 + n(900))];
      const take = { id: `take${s.nextId + 2}`, name: 'Best', notes, events: [], compiled: true as const };
      return { kind: 'part-compile', name: 'x', part: p.id, take, back: null };
    }),
  'part-one-take': (s, n) =>
    withPart(s, n, (p) => (p.takes ? { kind: 'part-one-take', name: 'x', part: p.id, takes: null } : null)),
  parts: (s, n) =>
    withPart(s, n, (p, t) =>
      n(2)
        ? { kind: 'parts', name: 'x', track: t, remove: [p.id], add: [] }
        : addPart(s, t, 'New', n(9) * 1920, n(9) * 1920 + 1920),
    ),
  'part-move': (s, n) =>
    withPart(s, n, (p) => {
      const rows = n(s.tracks.length) - s.tracks.findIndex((t) => t.parts.includes(p));
      const move = { by: n(16000) - 8000, rows, listed: s.tracks.map((t) => t.id) };
      const edit = moveParts(s, [p.id], move, n(2) ? 'cut' : 'refuse');
      return edit && isProblem(edit) ? null : edit;
    }),
  'part-span': (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'part-span',
      name: 'x',
      part: p.id,
      start: Math.max(0, p.start - n(500)),
      end: p.end + n(900) - 300,
      ...(n(3) === 0 ? { grows: true } : {}),
    })),
  'part-cut': (s, n) =>
    withPart(s, n, (p) => {
      const at = p.start + n(p.end - p.start + 2);
      const from = n(2) ? { from: Math.max(0, at - n(300)) } : {};
      return { kind: 'part-cut', name: 'x', part: p.id, at, ...from, id: s.nextId };
    }),
  // It takes a cut back and nothing else, so it is made with one.
  'part-uncut': (s, n) =>
    withPart(s, n, (p) => {
      const at = p.start + 1 + n(p.end - p.start);
      const from = n(2) ? { from: Math.max(p.start, at - n(300)) } : {};
      const cut = { kind: 'part-cut', name: 'x', part: p.id, at, ...from, id: s.nextId } as const;
      const done = applyEdit(s, cut);
      if (isProblem(done) || done.inverse.kind === 'several') return null;
      return { kind: 'several', name: 'x', edits: [cut, done.inverse] };
    }),
  'part-join': (s, n) =>
    withPart(s, n, (p, t) => {
      const { parts } = s.tracks.find((x) => x.id === t) ?? s.tracks[0];
      return {
        kind: 'part-join',
        name: 'x',
        part: p.id,
        with: parts[parts.indexOf(p) + 1]?.id ?? 'none',
        id: s.nextId,
      };
    }),
  'part-unjoin': (s, n) => {
    const join = MAKE['part-join'](s, n);
    const done = join && applyEdit(s, join);
    if (!join || join.kind === 'several' || !done || isProblem(done) || done.inverse.kind === 'several') return null;
    return { kind: 'several', name: 'x', edits: [join, done.inverse] };
  },
  'part-copy': (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'part-copy',
      name: 'x',
      part: p.id,
      track: s.tracks[n(s.tracks.length)].id,
      at: n(20) * 1920,
      id: s.nextId,
    })),
  'part-look': (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'part-look',
      name: 'x',
      part: p.id,
      to: `Part ${n(9)}`,
      colour: n(12),
      muted: n(2) > 0,
    })),
  tracks: (s, n) =>
    n(2) || s.tracks.length === 0
      ? addTrack(s, `Track ${n(9)}`)
      : { kind: 'tracks', name: 'x', remove: [s.tracks[n(s.tracks.length)].id], add: [] },
  'track-order': (s, n) => ({
    kind: 'track-order',
    name: 'x',
    ids: s.tracks
      .map((t) => ({ id: t.id, by: n(100) }))
      .sort((a, b) => a.by - b.by)
      .map((t) => t.id),
  }),
  'track-name': (s, n) =>
    withTrack(s, n, (track) => ({ kind: 'track-name', name: 'x', track, to: ['Fågel', '小鳥', 'Oboe'][n(3)] })),
  'track-colour': (s, n) =>
    withTrack(s, n, (track) => ({ kind: 'track-colour', name: 'x', track, colour: n(2) ? n(12) : null })),
  'track-sound': (s, n) =>
    withTrack(s, n, (track) => ({
      kind: 'track-sound',
      name: 'x',
      track,
      to: {
        voice: n(2) ? 'reed' : null,
        program: n(2) ? n(128) : null,
        channel: n(2) ? n(16) : null,
        transpose: n(121) - 60,
        delay: { value: n(90) - 45, unit: 'ms' },
        output: null,
      },
    })),
  mix: (s, n) =>
    withTrack(s, n, (track) => ({
      kind: 'mix',
      name: 'x',
      track,
      mute: n(2) > 0,
      solo: false,
      level: n(5) / 4,
      pan: n(3) - 1,
    })),
  setup: (s, n) =>
    withTrack(s, n, (track) => ({
      kind: 'setup',
      name: 'x',
      track,
      remove: [],
      add: [{ at: 0, event: { type: 'program', tick: n(4000), channel: 0, program: n(128) } }],
    })),
  tempo: (_, n) => ({
    kind: 'tempo',
    name: 'x',
    to: [
      { tick: n(500), usPerQuarter: 300_000 + n(400_000) },
      { tick: 500 + n(5000), usPerQuarter: 500_000 },
    ],
  }),
  meter: (_, n) => ({
    kind: 'meter',
    name: 'x',
    to: [{ tick: n(9) * 960, numerator: 1 + n(9), denominator: 4, clocks: 24, thirtySeconds: 8 }],
  }),
  markers: (_, n) => ({ kind: 'markers', name: 'x', to: [{ tick: n(9000), name: `Verse ${n(9)}` }] }),
  'song-time': (s, n) => ({
    kind: 'song-time',
    name: 'x',
    ppq: s.ppq,
    meter: s.meter,
    under: [{ tick: 0, usPerQuarter: 300_000 + n(400_000) }],
    tempo: [{ tick: 0, usPerQuarter: 500_000 }],
  }),
  'song-name': (_, n) => ({ kind: 'song-name', name: 'x', to: `Song ${n(9)}` }),
};

function withPart(s: Song, n: (below: number) => number, make: (p: Part, track: string) => Edit | null): Edit | null {
  const all = s.tracks.flatMap((t) => t.parts.map((p) => ({ p, t: t.id })));
  if (all.length === 0) return null;
  const { p, t } = all[n(all.length)];
  return make(p, t);
}

function withTrack(s: Song, n: (below: number) => number, make: (track: string) => Edit): Edit | null {
  return s.tracks.length > 0 ? make(s.tracks[n(s.tracks.length)].id) : null;
}
