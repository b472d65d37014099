import { inject, Injectable, signal } from '@angular/core';
import { countedFirst } from '../../common/format';
import { noteWords } from '../hand/note-words';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';

/** Going to a note, by pointer or by keys: it is selected, the note cursor is there, and it is told in words. */
@Injectable()
export class Reaching {
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  /** The note that the keyboard is at, by id: places change with every edit. */
  readonly cursor = signal<number | null>(null);
  readonly spoken = signal('');

  /** @param note index in the part at hand @param more adds it to the selection, or takes it out of it */
  reach(note: number, more: boolean): void {
    const id = this.scenery.picture().part.notes.at(note)?.id ?? null;
    if (id === null || note < 0) return;
    this.cursor.set(id);
    const before = more ? this.selecting.ids() : [];
    const out = before.includes(id);
    this.selecting.select(out ? before.filter((other) => other !== id) : [...before, id]);
    const { picture, corrected, song, track } = this.scenery;
    const { name, lines } = noteWords(note, picture(), corrected(), song(), track());
    const count = this.selecting.count();
    const chosen = out || count > 1 ? `. ${countedFirst(count, 'note')} selected` : '';
    this.spoken.set(`${name}, ${out ? 'not selected any more' : lines[0]}${chosen}`);
  }
}
