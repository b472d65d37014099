import { inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { countedFirst } from '../../common/format';
import { DeskActions } from '../../state/desk.feature';
import { noteWords } from '../hand/note-words';
import { Scenery, type SeenNote } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';
import { Sounding } from '../hand/sounding';

/** Going to a note, by pointer or by keys: it is selected, the note cursor is there, and it is told in words. */
@Injectable()
export class Reaching {
  private readonly store = inject(Store);
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  private readonly shaping = inject(Shaping);
  private readonly sounding = inject(Sounding);
  /** The note that the keyboard is at, by id: places change with every edit. */
  readonly cursor = signal<number | null>(null);
  readonly spoken = signal('');

  /** @param more adds the note to the selection, or takes it out of it */
  reach(note: SeenNote, more: boolean): void {
    const { id, index, picture } = note;
    this.take(note);
    this.cursor.set(id);
    const before = more ? this.selecting.ids() : [];
    const out = before.includes(id);
    this.selecting.select(out ? before.filter((other) => other !== id) : [...before, id]);
    const { corrected, song, track } = this.scenery;
    const { name, lines } = noteWords(index, picture, corrected(), song(), track());
    const count = this.selecting.count();
    const chosen = out || count > 1 ? `. ${countedFirst(count, 'note')} selected` : '';
    this.spoken.set(`${name}, ${out ? 'not selected any more' : lines[0]}${chosen}`);
  }

  /** A note is pressed, or the keyboard comes to it: its part becomes the current one, it sounds, and new notes are as loud. */
  touch(note: SeenNote): void {
    this.take(note);
    const { pitch, velocity } = note.picture.part.notes[note.index];
    this.shaping.loudness.set(velocity);
    this.sounding.touch(this.scenery.track().id, { pitch, velocity });
  }

  private take({ picture: { part } }: SeenNote): void {
    if (part.id !== this.scenery.part().id) this.store.dispatch(DeskActions.selectPart({ partId: part.id }));
  }
}
