import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { addHitEdit, riseNear } from '@early-sparrow/core/audio';
import { fileAt, findPart, type Note, type Part } from '@early-sparrow/core/song';
import { Said } from '../../common/said';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { AudioFiles } from '../../sound/audio-files';
import { Player } from '../../sound/player';
import { waveParts, type Wave } from './draw-wave';
import { Selecting } from '../hand/selecting';

/** Hits of sound files that are put right by hand: one is added where the sound rises, and any can be selected. */
@Injectable()
export class Hits {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly said = inject(Said);
  private readonly selecting = inject(Selecting);
  private readonly files = inject(AudioFiles);
  private readonly player = inject(Player);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);
  private readonly shown = this.store.selectSignal(deskFeature.selectShownSong);
  private readonly track = this.store.selectSignal(deskFeature.selectShownTrack);

  /** The sound files that are drawn. */
  readonly waves = computed((): Wave[] => {
    const [song, track] = [this.shown(), this.track()];
    if (!song || !track) return [];
    const peaks = this.files.peaks();
    return waveParts(song, track.id).map((wave) => ({ ...wave, peaks: peaks.get(wave.audio.file) ?? null }));
  });

  /** Adds a hit near the playhead. */
  addAtPlayhead(): void {
    if (this.waves().length === 0) this.said.say('This song has no sound file. Import one first (M).');
    else this.add(this.player.position());
  }

  /** Adds a hit near a tick, where the file's sound rises. */
  add(tick: number): void {
    const song = this.song();
    const wave = this.waves().find(({ part }) => part.start <= tick && tick < part.end);
    const part = wave && song && findPart(song, wave.part.id)?.part;
    if (!song || !part || !wave.peaks) {
      this.said.say('There is no sound here.');
      return;
    }
    const edit = addHitEdit(song, part, riseNear(wave.peaks, fileAt(wave.audio, tick)));
    if (!edit) {
      this.said.say('There is a hit here already.');
      return;
    }
    const added = edit.kind === 'notes' ? edit.add.map((n) => n.id) : [];
    this.changes.make(edit, 'draw', { track: this.trackOf(part), part: part.id, selection: added });
  }

  /** Selects the hit at a tick, or nothing. @param slack in ticks */
  select(tick: number, slack: number): void {
    const found = this.under(tick, slack);
    if (found) this.take(found.part);
    this.selecting.select(found ? [found.hit.id] : []);
  }

  /** The hit nearest to a tick. @param slack in ticks */
  under(tick: number, slack: number): { readonly part: Part; readonly hit: Note } | null {
    const near = this.waves()
      .flatMap(({ part }) => part.notes.map((hit) => ({ part, hit, away: Math.abs(hit.start - tick) })))
      .filter(({ away }) => away <= slack)
      .sort((a, b) => a.away - b.away);
    return near.at(0) ?? null;
  }

  /** Takes a part in hand: only its notes can be selected. */
  private take(part: Part): void {
    const trackId = this.trackOf(part);
    if (!trackId || this.part()?.id === part.id) return;
    this.store.dispatch(DeskActions.selectTrack({ trackId, partId: part.id }));
  }

  private trackOf(part: Part): string | null {
    const song = this.song();
    return (song && findPart(song, part.id)?.track.id) ?? null;
  }
}
