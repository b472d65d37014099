import { computed, type Signal } from '@angular/core';
import { mixOf, type MixTrack } from '@early-sparrow/core/sound';
import { songEnd, tempoOf, type Song } from '@early-sparrow/core/song';
import { lastEndOf } from '@early-sparrow/core/treatment';
import type { Ms } from '@early-sparrow/core/time';
import type { Outputs } from '../output/outputs';

/** What is heard of a song, and how fast. */
export interface Stretch {
  readonly loop: { readonly from: Ms; readonly to: Ms } | null;
  /** Null where it goes on. */
  readonly end: Ms | null;
  /** 1 as it is. */
  readonly rate: number;
}

/** What the player decides about the stretch that is heard. */
export interface Playing {
  /** In ticks. */
  readonly loop: Signal<{ readonly from: number; readonly to: number }>;
  readonly loopOn: Signal<boolean>;
  /** In ticks; null for the song's end. */
  readonly until: Signal<number | null>;
  readonly endless: Signal<boolean>;
  readonly rate: Signal<number>;
}

/** What rings on after the song's last note is heard. */
const RINGS_ON: Ms = 500;

/** How a song sounds besides its notes. A slider that moves leaves both values as they are. */
export class SongMix {
  readonly tracks = computed((): readonly MixTrack[] => mixOf(this.song()), { equal: sameMix });

  /** Tracks that go to a device, which are not heard here too. */
  readonly away = computed(
    () =>
      new Set(
        this.song()
          .tracks.filter((t) => this.outputs.find(t.output))
          .map((t) => t.id),
      ),
    { equal: (a, b) => a.size === b.size && [...a].every((id) => b.has(id)) },
  );

  readonly stretch = computed(
    (): Stretch => {
      const song = this.song();
      const tempo = tempoOf(song);
      const { from, to } = this.playing.loop();
      const until = this.playing.until();
      const end = until === null ? tempo.toMs(songEnd(song, lastEndOf)) + RINGS_ON : tempo.toMs(until);
      return {
        loop: this.playing.loopOn() && to > from ? { from: tempo.toMs(from), to: tempo.toMs(to) } : null,
        end: this.playing.endless() ? null : end,
        rate: this.playing.rate(),
      };
    },
    { equal: sameStretch },
  );

  constructor(
    private readonly song: Signal<Song>,
    private readonly playing: Playing,
    private readonly outputs: Outputs,
  ) {}
}

function sameMix(a: readonly MixTrack[], b: readonly MixTrack[]): boolean {
  const same = (t: MixTrack, u: MixTrack) =>
    t.id === u.id && t.gain === u.gain && t.pan === u.pan && t.audible === u.audible;
  return a.length === b.length && a.every((t, i) => same(t, b[i]));
}

function sameStretch(a: Stretch, b: Stretch): boolean {
  return a.loop?.from === b.loop?.from && a.loop?.to === b.loop?.to && a.end === b.end && a.rate === b.rate;
}
