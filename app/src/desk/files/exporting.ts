import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import type { OutputFile, OutputWishes, Wanted } from '@early-sparrow/core/batch';
import { findPart } from '@early-sparrow/core/song';
import type { Option } from '../../common/option';
import { counted } from '../../common/format';
import { Player } from '../../sound/player';
import { deskFeature, type Compare } from '../../state/desk.feature';
import { ChosenParts } from '../hand/chosen-parts';
import { blobOf, Exporter } from './exporter';

type What = Wanted['what'];
/** What kind of file is written; a song file is always the whole song. */
export type Form = OutputWishes['form'] | 'song';

/** A file that is ready to be dragged out of the window. */
export interface ReadyFile extends OutputFile {
  /** Where the browser finds it. */
  readonly url: string;
}

/** What the export strip is set to, and what of the song that means. */
@Injectable()
export class Exporting {
  private readonly exporter = inject(Exporter);
  private readonly chosen = inject(ChosenParts);
  private readonly player = inject(Player);
  private readonly store = inject(Store);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly track = this.store.selectSignal(deskFeature.selectTrack);
  private readonly selection = this.store.selectSignal(deskFeature.selectSelection);
  readonly form = signal<Form>('midi');
  readonly side = signal<Compare>('corrected');
  readonly place = signal<OutputWishes['place']>('own');
  readonly withHistory = signal(true);
  private readonly asked = signal<What>('song');

  /** What there is to choose from now. */
  readonly whats = computed((): Option[] => {
    const [song, track] = [this.song(), this.track()];
    if (!song) return [];
    const parts = this.chosen.ids();
    const { from, to } = this.player.loop();
    const notes = this.selection().length;
    const named = parts.length === 1 ? `part “${findPart(song, parts[0])?.part.name ?? ''}”` : `${parts.length} parts`;
    return [
      { value: 'song', text: 'whole song' },
      ...(track ? [{ value: 'track', text: `track “${track.name}”` }] : []),
      ...(parts.length > 0 ? [{ value: 'parts', text: named }] : []),
      ...(to > from ? [{ value: 'loop', text: 'loop' }] : []),
      ...(notes > 0 ? [{ value: 'selection', text: `selection, ${counted(notes, 'note')}` }] : []),
    ];
  });

  /** What was chosen, as long as there is such. */
  readonly what = computed((): What => {
    const asked = this.asked();
    return this.whats().some((o) => o.value === asked) ? asked : 'song';
  });

  private readonly wishes = computed((): OutputWishes | null => {
    const form = this.form();
    if (form === 'song') return null;
    return { wanted: this.wanted(), side: this.side(), form, place: this.place() };
  });

  /** Changes whenever another file would be made. */
  readonly state = computed(() => ({ wishes: this.wishes(), song: this.song() }));

  choose(what: string): void {
    this.asked.set(what as What);
  }

  async save(): Promise<void> {
    const wishes = this.wishes();
    if (wishes) await this.exporter.output(wishes);
    else await this.exporter.songFile({ withHistory: this.withHistory() });
  }

  /** The file as it would be saved now; null where none can be made. */
  async ready(): Promise<ReadyFile | null> {
    const wishes = this.wishes();
    const file = wishes && (await this.exporter.make(wishes));
    return file && { ...file, url: URL.createObjectURL(blobOf(file)) };
  }

  private wanted(): Wanted {
    const what = this.what();
    if (what === 'track') return { what, track: this.track()?.id ?? '' };
    if (what === 'parts') return { what, parts: this.chosen.ids() };
    if (what === 'loop') return { what, ...this.player.loop() };
    if (what === 'selection') return { what, notes: this.selection() };
    return { what };
  }
}
