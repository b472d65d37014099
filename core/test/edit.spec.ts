import fc from 'fast-check';
import {
  apply,
  changeNotes,
  EditError,
  EditSchema,
  perform,
  redo,
  startHistory,
  undo,
  type Edit,
} from '@early-sparrow/core/edit';
import { readSong, SongFormatError } from '@early-sparrow/core/song';
import { note, part, song, treatment } from './build';

const base = song([note(0, 100), note(1, 500), note(2, 900)]);
const edits: Edit[] = [
  { kind: 'treatment', name: 'Quantize', part: 'p', treatment: treatment({ quantize: { on: true } }) },
  { kind: 'part-on', name: 'Off', part: 'p', on: false },
  changeNotes('Move', part(base), [note(1, 20)]),
  { kind: 'song-name', name: 'Rename', to: 'Other' },
  { kind: 'track-name', name: 'Rename', track: 't', to: 'Bassoon' },
  { kind: 'mix', name: 'Mute', track: 't', mute: true, solo: false, level: 0.1 },
];

describe('edits', () => {
  it('are taken back exactly by their inverses', () => {
    for (const edit of [...edits, { kind: 'several', name: 'All', edits } as Edit]) {
      const { song: after, inverse } = apply(base, edit);
      expect(after).not.toEqual(base);
      const back = apply(after, inverse).song;
      expect({ ...back, tracks: back.tracks.map((t) => ({ ...t, events: [] })) }).toEqual(base);
    }
  });

  it('survive storage', () => {
    for (const edit of edits) expect(EditSchema.parse(structuredClone(edit))).toEqual(edit);
  });

  it('keep a part’s notes in order', () => {
    const { song: after } = apply(base, changeNotes('Move', part(base), [note(0, 700)]));
    expect(part(after).notes.map((n) => n.id)).toEqual([1, 0, 2]);
  });

  it('that do not fit are refused and change nothing', () => {
    expect(() => apply(base, { kind: 'part-on', name: 'x', part: 'none', on: true })).toThrow(EditError);
    expect(() => apply(base, { kind: 'notes', name: 'x', part: 'p', remove: [99], add: [] })).toThrow(EditError);
  });

  it('can be undone and redone in any order without losing a step', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(...edits.slice(0, 2), ...edits.slice(3), 'undo', 'redo'), { maxLength: 40 }),
        (steps) => {
          let history = startHistory(base);
          for (const step of steps) {
            if (step === 'undo') history = undo(history);
            else if (step === 'redo') history = redo(history);
            else history = perform(history, step as Edit);
          }
          const end = history.song;
          const depth = history.undo.length;
          for (let i = 0; i < depth; i++) history = undo(history);
          expect(part(history.song)).toEqual(part(base));
          for (let i = 0; i < depth; i++) history = redo(history);
          expect(history.song).toEqual(end);
        },
      ),
    );
  });
});

describe('stored songs', () => {
  it('are checked, and the first fault is named', () => {
    expect(readSong(structuredClone(base))).toEqual(base);
    const broken = { ...base, tracks: [{ ...base.tracks[0], end: -1 }] };
    expect(() => readSong(broken)).toThrow(SongFormatError);
    expect(() => readSong(broken)).toThrow(/tracks\.0\.end/);
    expect(() => readSong({ ...base, version: 7 })).toThrow(/newer than this program/);
  });
});
