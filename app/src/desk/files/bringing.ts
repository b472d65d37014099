import { computed, inject, Injectable, signal } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Store } from '@ngrx/store';
import { bringIn, type BroughtTempo } from '@early-sparrow/core/edit';
import { meterOf, noteCount, tempoOf, type Song } from '@early-sparrow/core/song';
import { counted } from '../../common/format';
import { MidiFiles } from '../../common/midi-files';
import { Player } from '../../sound/player';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import { BRING, openStrip } from '../kit/foot-strips';
import { Panels } from '../kit/panels';

/** Where a file comes into the song. */
export type BroughtTo = 'bars' | 'playhead';

/** A MIDI file that is to come into the open song, as new tracks. */
@Injectable()
export class Bringing {
  private readonly midi = inject(MidiFiles);
  private readonly changes = inject(Changes);
  private readonly panels = inject(Panels);
  private readonly player = inject(Player);
  private readonly snack = inject(MatSnackBar);
  private readonly song = inject(Store).selectSignal(deskFeature.selectSong);
  /** What was read; null before. */
  readonly file = signal<Song | null>(null);
  readonly to = signal<BroughtTo>('bars');
  readonly tempo = signal<BroughtTempo>('bars');
  /** What the file holds, in words. */
  readonly what = computed(() => {
    const file = this.file();
    if (!file) return '';
    const tracks = file.tracks.filter((t) => t.parts.length > 0);
    const notes = tracks.reduce((sum, t) => sum + noteCount(t), 0);
    const { numerator, denominator } = meterOf(file).pieceAt(0);
    const bpm = Math.round(tempoOf(file).bpmAt(0) * 10) / 10;
    return `${counted(tracks.length, 'track')}, ${counted(notes, 'note')}, ${bpm} BPM, ${numerator}/${denominator}`;
  });

  /** Asks for a file, and opens the strip that says how it is to come in. */
  async choose(): Promise<void> {
    const [file] = await this.midi.choose({ one: true });
    if (!(file as File | undefined)) return;
    const { song, notice } = await this.midi.read(file);
    if (notice !== null) this.snack.open(notice, 'Close', { duration: 20_000, politeness: 'assertive' });
    if (!song) return;
    // A song without notes takes the file as it is.
    const empty = this.song()?.tracks.every((t) => noteCount(t) === 0) ?? true;
    this.to.set('bars');
    this.tempo.set(empty ? 'file' : 'bars');
    this.file.set(song);
    openStrip(this.panels, BRING);
  }

  /** One step; the first new track becomes the current one. */
  bring(): void {
    const [song, file] = [this.song(), this.file()];
    if (!song || !file) return;
    // A tempo and a meter begin with a bar, all else on a beat.
    const line = this.tempo() === 'file' ? 'bar' : 'beat';
    const at = this.to() === 'playhead' ? meterOf(song).nearest(this.player.position(), line) : null;
    const edit = bringIn(song, file, { at, tempo: this.tempo() });
    const goes = { track: `t${song.nextId}`, part: null, selection: [] };
    if (this.changes.make(edit, 'bring in', goes) === null) this.panels.close(BRING);
  }
}
