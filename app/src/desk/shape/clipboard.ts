import { inject, Injectable, type DestroyRef } from '@angular/core';
import { isProblem } from '@early-sparrow/core/edit';
import { notesOfClip, readClip, samePlaceInBar, toClip } from '@early-sparrow/core/shape';
import { counted } from '../../common/format';
import { Said } from '../../common/said';
import { Player } from '../../sound/player';
import { NONE_SELECTED, Shaping } from '../hand/shaping';

/**
 * Copying, cutting and pasting notes, by the browser's own clipboard: they go from song to song and from tab to tab. The
 * browser's events are listened to, since they ask for no permission.
 */
@Injectable()
export class Clipboard {
  private readonly shaping = inject(Shaping);
  private readonly player = inject(Player);
  private readonly said = inject(Said);
  /** What was copied here last, where the browser's clipboard cannot be read. */
  private last: string | null = null;

  /** Listens to the browser's events for as long as a page is there. */
  listen(destroy: DestroyRef): void {
    const copy = (event: ClipboardEvent) => this.onCopy(event);
    const paste = (event: ClipboardEvent) => this.onPaste(event);
    document.addEventListener('copy', copy);
    document.addEventListener('cut', copy);
    document.addEventListener('paste', paste);
    destroy.onDestroy(() => {
      document.removeEventListener('copy', copy);
      document.removeEventListener('cut', copy);
      document.removeEventListener('paste', paste);
    });
  }

  /** Copies the selected notes, by a command. */
  copy(cut = false): void {
    const text = this.taken(cut);
    if (text === null) return;
    this.last = text;
    void this.write(text);
  }

  /** Pastes at the playhead, or at the same place in the bar, by a command. */
  async paste(where: 'playhead' | 'bar'): Promise<void> {
    this.put((await this.read()) ?? this.last ?? '', where);
  }

  private onCopy(event: ClipboardEvent): void {
    if (isField(event.target) || hasWords()) return;
    const text = this.taken(event.type === 'cut');
    if (text === null) return;
    event.preventDefault();
    this.last = text;
    event.clipboardData?.setData('text/plain', text);
  }

  private onPaste(event: ClipboardEvent): void {
    if (isField(event.target)) return;
    event.preventDefault();
    this.put(event.clipboardData?.getData('text/plain') ?? '', 'playhead');
  }

  /** The selected notes as text. With nothing selected it says so and returns null. */
  private taken(cut: boolean): string | null {
    const hand = this.shaping.hand();
    const text = hand && toClip(hand.song, hand.taken);
    if (!hand || text === null) {
      this.said.say(NONE_SELECTED);
      return null;
    }
    if (cut) this.shaping.erase();
    this.said.say(`${cut ? 'Cut' : 'Copied'} ${counted(hand.taken.length, 'note')}.`);
    return text;
  }

  private put(text: string, where: 'playhead' | 'bar'): void {
    const hand = this.shaping.hand([]);
    if (!hand) return;
    const clip = readClip(text);
    if (isProblem(clip)) {
      this.said.say(clip.problem);
      return;
    }
    const at = Math.round(this.player.position());
    const to = where === 'playhead' ? at : samePlaceInBar(clip, hand.song, at);
    const notes = notesOfClip(clip, hand.song, to);
    this.shaping.add(this.shaping.added(notes, `Paste ${counted(notes.length, 'note')}`), 'paste');
  }

  private async write(text: string): Promise<void> {
    try {
      await navigator.clipboard.writeText(text);
    } catch {
      // It is kept here all the same.
    }
  }

  private async read(): Promise<string | null> {
    try {
      return await navigator.clipboard.readText();
    } catch {
      return null;
    }
  }
}

function isField(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.matches('input, textarea, select, [contenteditable]');
}

/** Whether words on the page are selected: then those are copied. */
function hasWords(): boolean {
  return (document.getSelection()?.toString() ?? '') !== '';
}
