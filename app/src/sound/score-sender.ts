import type { Pieces } from '@early-sparrow/core/maths';
import { scorePieces, soundsOf, type ScoreTrack, type Sound } from '@early-sparrow/core/sound';
import type { SoundingTrack } from '@early-sparrow/core/performance';
import type { Track } from '@early-sparrow/core/song';
import type { TempoMap } from '@early-sparrow/core/time';

/** What a score was made of. */
interface Made {
  readonly performed: SoundingTrack;
  readonly tempo: TempoMap;
  /** They hold the sound files. */
  readonly parts: Track['parts'];
  readonly sound: string;
  readonly only: ReadonlySet<number> | null;
  /** With notes only where the track plays on an outside device; otherwise the engine has taken them over. */
  readonly score: ScoreTrack;
}

const NO_NOTES: ScoreTrack['notes'] = {
  id: new Float64Array(0),
  start: new Float64Array(0),
  end: new Float64Array(0),
  pitch: new Uint8Array(0),
  velocity: new Uint8Array(0),
  slot: new Uint8Array(0),
};

/** A track with only some of its notes. @param only their ids */
function alone({ each, ...rest }: SoundingTrack, only: ReadonlySet<number>): SoundingTrack {
  return { ...rest, each: (act) => each((some) => act(some.filter(({ note }) => only.has(note.id)))) };
}

/** Sends the engine the tracks that changed since the last time, and no others. */
export class ScoreSender {
  private readonly sent = new Map<string, Made>();

  /** @param send sends a score, or null for a track that is gone; the engine takes over the buffers that come with it */
  constructor(private readonly send: (id: string, score: ScoreTrack | null, handed: Transferable[]) => void) {}

  /**
   * Sends what changed, in pieces.
   * @param tracks all that have parts, each with how it sounds
   * @param only ids of the notes that are to sound; null for all
   */
  *update(
    tracks: readonly { readonly track: Track; readonly performed: SoundingTrack }[],
    tempo: TempoMap,
    only: ReadonlySet<number> | null,
  ): Pieces<void> {
    for (const id of [...this.sent.keys()]) {
      if (tracks.some(({ track }) => track.id === id)) continue;
      this.sent.delete(id);
      this.send(id, null, []);
    }
    for (const { track, performed } of tracks) {
      const known = this.sent.get(track.id);
      const away = track.output !== null;
      const sound = `${track.voice} ${track.program} ${track.channel} ${away}`;
      const same = known?.performed === performed && known.tempo === tempo && known.sound === sound;
      if (same && known.parts === track.parts && known.only === only) continue;
      const whole = yield* scorePieces(track, only ? alone(performed, only) : performed, tempo);
      // Some notes alone are heard without the files.
      const score = only ? { ...whole, strips: [] } : whole;
      // Copying a million notes takes a tenth of a second here, and as long on the audio thread.
      const kept = away ? score : { ...score, notes: NO_NOTES };
      this.sent.set(track.id, { performed, tempo, parts: track.parts, sound, only, score: kept });
      this.send(track.id, score, away ? [] : Object.values(score.notes).map((column) => column.buffer));
      yield;
    }
  }

  /** A track's score as it was sent last; with notes only where the track plays on an outside device. */
  scoreOf(track: string): ScoreTrack | null {
    return this.sent.get(track)?.score ?? null;
  }

  /** What the tracks ask for of a bank. */
  sounds(): Sound[] {
    return soundsOf([...this.sent.values()].map((m) => m.score));
  }
}
