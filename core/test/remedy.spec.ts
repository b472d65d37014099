import { applyEdit, isProblem } from '@early-sparrow/core/edit';
import { analysePlaces, freeChords, type Analysis } from '@early-sparrow/core/insight';
import { remediesOf, remedyEdit, remedyReport, trackNotes, type Remedy } from '@early-sparrow/core/remedy';
import { readSmf } from '@early-sparrow/core/smf';
import { followedBy, newPart, newTrack, timeOf, type Song, type Track } from '@early-sparrow/core/song';
import { reportPart, toColumns, treatPart } from '@early-sparrow/core/treatment';
import { knownSong, remediesFor, scoreReal, scoreSongs } from '../../tools/accuracy/songs';
import { applied, note, song as songOf, treated } from './build';
import { read, realFiles } from './files';

function analysed(song: Song): (Analysis | null)[] {
  return song.tracks.map((track) => {
    const place = freeChords(toColumns(trackNotes(track)), timeOf(song));
    return place.length > 0 ? analysePlaces(place, timeOf(song)) : null;
  });
}

/** Sixteenths of which every third is left out, with a lag and some unevenness, at 120 BPM: 1.92 ticks a ms. */
function played(id: number, lagMs: number, count = 200, from = 3840): Track {
  const notes = Array.from({ length: count }, (_, i) => {
    const off = lagMs + 6 * Math.sin(i * 7.3);
    return note(id * 1000 + i, Math.round(from + Math.floor(i * 1.5) * 240 + off * 1.92), { length: 100 });
  });
  return newTrack(`t${id}`, `Track ${id}`, { parts: [newPart(`p${id}`, 'Part', 3840, 200_000, { notes })] });
}

const withTracks = (tracks: readonly Track[]): Song => ({ ...songOf([], {}, { nextId: 90_000 }), tracks });
const stateOf = (remedies: readonly Remedy[]) => remedies.map((r) => r.state);

describe('putting a song right', () => {
  it('is sure only of what is right: the lag within 5 ms and the lines that were meant, in 97 of 100', () => {
    const { tracks, sure, right } = scoreSongs(4, 2001);
    expect(tracks).toBeGreaterThan(40);
    expect(sure / tracks).toBeGreaterThan(0.5);
    expect(right / sure).toBeGreaterThanOrEqual(0.97);
  });

  it('is right on real music, played with lags and unevenness that are known', () => {
    // source: pieces of Debian's openttd-openmsx, whose tracks lie on their lines
    const names = ['wood_whistles.mid', 'linns_basket.mid', 'chuggachugga.mid', 'city_blues_redfarn.mid'];
    const songs = realFiles()
      .filter((f) => names.some((n) => f.endsWith(n)))
      .map((f) => readSmf(read(f), f).song);
    expect(songs).toHaveLength(4);
    const { tracks, sure, right } = scoreReal(songs);
    expect(sure / tracks).toBeGreaterThan(0.6);
    expect(right / sure).toBeGreaterThanOrEqual(0.95);
  });

  it('does in one step what each row says, and nothing to the others', () => {
    const known = knownSong(2004);
    const { song } = known;
    const sure = remediesFor(known).filter((r) => r.state === 'sure');
    expect(sure.length).toBeGreaterThan(2);
    const edit = remedyEdit(song, sure, 0.8, 'Put right');
    if (!edit || isProblem(edit)) throw new Error('There is something to do.');
    const done = applied(song, edit);
    done.song.tracks.forEach((track, i) => {
      const remedy = sure.find((r) => r.track === track.id);
      if (!remedy) return expect(track).toBe(song.tracks[i]);
      const said = remedyReport(song, remedy, 0.8)!;
      const [part] = track.parts;
      const is = reportPart(part, done.song);
      expect([is.moved, is.merges, is.doubles, is.typicalMoveMs]).toEqual([
        said.moved,
        said.merges,
        said.doubles,
        said.typicalMs,
      ]);
      // Four fifths of the way: what is left of a note's offset, lag aside, is a fifth of it.
      const { quantize, lag } = part.treatment;
      expect(quantize).toMatchObject({ on: true, strength: 0.8 });
      expect(lag.amount.value).toBe(remedy.setting!.lagMs);
      expect(treatPart(part, done.song).start).not.toEqual(treatPart(song.tracks[i].parts[0], song).start);
    });
    expect(JSON.stringify(applied(done.song, done.inverse).song)).toBe(JSON.stringify(song));
  });

  it('leaves what somebody has treated, what is good as it is, and what has no notes', () => {
    const touched = played(2, 14);
    const [part] = touched.parts;
    const own = treated(songOf([]), { push: { on: true } }).tracks[0].parts[0].treatment;
    const exact = newTrack('t3', 'Exact', {
      parts: [
        newPart('p3', 'Part', 0, 99_999, { notes: Array.from({ length: 100 }, (_, i) => note(30_000 + i, i * 240)) }),
      ],
    });
    const song = withTracks([
      played(1, 14),
      { ...touched, parts: [{ ...part, treatment: own }] },
      exact,
      newTrack('t4', 'Empty'),
    ]);
    const remedies = remediesOf(song, analysed(song));
    expect(stateOf(remedies)).toEqual(['sure', 'treated', 'good', 'empty']);
    expect(remedies[0].setting).toMatchObject({ lines: 'nearest' });
    expect(Math.abs(remedies[0].setting!.lagMs - 14)).toBeLessThan(1.5);
    expect(remedies.slice(2).map((r) => r.setting)).toEqual([null, null]);
    expect(remedyEdit(song, remedies.slice(2), 0.8, 'x')).toBeNull();
  });

  it('doubts few notes, and a lag that no other track has', () => {
    const song = withTracks([played(1, 4, 14), played(2, 5), played(3, 3), played(4, 50)]);
    const remedies = remediesOf(song, analysed(song));
    expect(stateOf(remedies)).toEqual(['doubtful', 'sure', 'sure', 'doubtful']);
    expect(remedies[0].doubts).toContain('few-notes');
    expect(remedies[3].doubts).toContain('apart');
  });

  it('asks for no lines that follow a player while it only proposes them', () => {
    const known = knownSong(2004);
    const wanderer = remediesFor(known).find((r) => r.setting?.lines === 'follow');
    if (!wanderer) throw new Error('Somebody wanders.');
    let asked = 0;
    const song = followedBy(known.song, () => {
      asked++;
      return null;
    });
    expect(remedyReport(song, wanderer, 0.8)?.moved).toBeGreaterThan(0);
    expect(asked).toBe(0);
    const applied = applyEdit(song, remedyEdit(song, [wanderer], 0.8, 'x')!);
    if (isProblem(applied)) throw new Error(applied.problem);
    expect(
      remedyReport(
        followedBy(applied.song, () => (asked++, null)),
        wanderer,
        0.8,
      )?.moved,
    ).toBeGreaterThan(0);
    expect(asked).toBeGreaterThan(0);
  });

  it('takes a track of several parts as one, and puts all of them right', () => {
    const [whole] = played(1, 12).parts;
    const cut = 60_000;
    const parts = [
      { ...whole, end: cut, notes: whole.notes.filter((n) => n.start < cut) },
      { ...whole, id: 'p9', start: cut, notes: whole.notes.filter((n) => n.start >= cut) },
    ];
    const song = withTracks([newTrack('t1', 'Two', { parts })]);
    const [remedy] = remediesOf(song, analysed(song));
    expect(trackNotes(song.tracks[0])).toEqual(whole.notes);
    expect(remedy.state).toBe('sure');
    const edit = remedyEdit(song, [remedy], 1, 'x')!;
    const lags = applied(song, edit).song.tracks[0].parts.map((p) => p.treatment.lag.amount.value);
    expect(lags).toEqual([remedy.setting!.lagMs, remedy.setting!.lagMs]);
    expect(remedyReport(song, remedy, 1)?.notes).toBe(whole.notes.length);
  });
});
