import { atOnce } from '@early-sparrow/core/maths';
import type { ScoreTrack } from '@early-sparrow/core/sound';
import { timeOf, type Track } from '@early-sparrow/core/song';
import { playedSounding } from '@early-sparrow/core/performance';
import { note, song } from '../../core/test/build';
import { ScoreSender } from '../src/sound/score-sender';

const SONG = song([note(0, 0), note(1, 480)]);
const [TRACK] = SONG.tracks;

function rig() {
  const sent: { notes: number; score: ScoreTrack }[] = [];
  // As the way to the audio thread does: what is handed over is gone here.
  const sender = new ScoreSender((_, score, transfer) => {
    const there = structuredClone(score, { transfer });
    if (there) sent.push({ notes: there.notes.id.length, score: there });
  });
  const performed = playedSounding(TRACK, SONG);
  const update = (track: Track) => atOnce(sender.update([{ track, performed }], timeOf(SONG).tempo, null));
  return { sent, sender, update };
}

describe('scores for the engine', () => {
  it('are handed over whole, once', () => {
    const { sent, sender, update } = rig();
    update(TRACK);
    update(TRACK);
    expect(sent.map((s) => s.notes)).toEqual([2]);
    expect(Array.from(sent[0].score.notes.start)).toEqual([0, timeOf(SONG).tempo.toMs(480)]);
    expect(sender.scoreOf(TRACK.id)?.slots).toEqual(sent[0].score.slots);
  });

  it('stay here too where a track gets an output of its own, and go when it has none any more', () => {
    const { sent, sender, update } = rig();
    const here = () => sender.scoreOf(TRACK.id)?.notes.id.length;
    update(TRACK);
    expect(here()).toBe(0);
    update({ ...TRACK, output: 'synth' });
    expect(here()).toBe(2);
    update({ ...TRACK, output: null });
    expect(here()).toBe(0);
    expect(sent.map((s) => s.notes)).toEqual([2, 2, 2]);
  });
});
