import { inject, Injectable } from '@angular/core';
import type { MidiBytes } from '@early-sparrow/core/record';
import { ListeningSettings } from '../../sound/listening-settings';
import { Player } from '../../sound/player';

/** A note as it is struck by itself. */
export interface Struck {
  readonly pitch: number;
  readonly velocity: number;
}

/** A note that was touched rings for so long, in ms. */
const RINGS_MS = 260;

/** Lets single notes be heard with their track's voice, one at a time. */
@Injectable()
export class Sounding {
  private readonly player = inject(Player);
  private readonly settings = inject(ListeningSettings);
  private sounding: { readonly track: string; readonly pitch: number } | null = null;
  private ends: ReturnType<typeof setTimeout> | undefined;

  /** Strikes a note and lets go the one before; null only lets go. */
  strike(track: string, note: Struck | null): void {
    clearTimeout(this.ends);
    const before = this.sounding;
    this.sounding = note && { track, pitch: note.pitch };
    if (!before && !note) return;
    // While the song stands still the engine may be asleep, and not know the track's voice yet.
    const awake = this.player.wake();
    const send = (hand: string, bytes: MidiBytes): void =>
      void awake.then((can) => {
        if (can) this.player.live(hand, bytes);
      });
    if (before) send(before.track, [0x80, before.pitch, 64]);
    if (note) send(track, [0x90, note.pitch, Math.min(127, Math.max(1, Math.round(note.velocity)))]);
  }

  /** A note that is touched rings for a moment, unless that is switched off or the song plays. */
  touch(track: string, note: Struck): void {
    if (!this.settings.values().touch || this.player.playing()) return;
    this.strike(track, note);
    this.ends = setTimeout(() => this.strike(track, null), RINGS_MS);
  }
}
