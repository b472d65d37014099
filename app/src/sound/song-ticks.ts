import { computed, type Signal } from '@angular/core';
import { clickOf, midiClock, NO_TICKS, together, type Ticking } from '@early-sparrow/core/sound';
import { songEnd, type Song } from '@early-sparrow/core/song';
import { lastEndOf } from '@early-sparrow/core/treatment';
import type { Outputs } from '../output/outputs';
import type { ListeningSettings } from './listening-settings';

/** What ticks along with a song: the click, ticks on the lines of notes, and the clock that devices get. */
export class SongTicks {
  /** All that a click depends on; a slider that moves leaves it as it is. */
  private readonly times = computed(
    () => {
      const song = this.song();
      const { to } = this.loop();
      return (
        song && { ppq: song.ppq, tempo: song.tempo, meter: song.meter, end: Math.max(songEnd(song, lastEndOf), to) }
      );
    },
    {
      equal: (a, b) => a?.ppq === b?.ppq && a?.tempo === b?.tempo && a?.meter === b?.meter && a?.end === b?.end,
    },
  );
  private readonly click = computed(() => {
    const times = this.times();
    const { divide } = this.settings.values();
    return times ? clickOf(times, times.end, { divide }) : NO_TICKS;
  });

  /** What is heard of them. */
  readonly heard = computed(() => {
    const { click, lineTicks } = this.settings.values();
    const beats = this.beats();
    if (beats) return beats;
    return together([click ? this.click() : NO_TICKS, lineTicks ? this.lines() : NO_TICKS]);
  });

  /** None where no device wants it. */
  readonly clock = computed(() => {
    const times = this.times();
    return times && this.outputs.clocked().length > 0 ? midiClock(times, times.end) : NO_TICKS;
  });

  /** @param loop in ticks @param lines where notes were meant @param beats heard in place of all else, where there are any */
  constructor(
    private readonly song: Signal<Song | null>,
    private readonly loop: Signal<{ readonly to: number }>,
    private readonly lines: Signal<Ticking>,
    private readonly beats: Signal<Ticking | null>,
    private readonly settings: ListeningSettings,
    private readonly outputs: Outputs,
  ) {}
}
