import { inject, Injectable, type DestroyRef } from '@angular/core';
import { isProblem, type EditProblem } from '@early-sparrow/core/edit';
import { clipOfMidi, clipToMidi, pasted, readClip, toClip, type Clip } from '@early-sparrow/core/shape';
import { counted } from '../../common/format';
import { Said } from '../../common/said';
import { Player } from '../../sound/player';
import { NONE_SELECTED, Shaping } from '../hand/shaping';

/** How browsers carry a MIDI file on the clipboard (W3C Clipboard API, web custom formats). */
const MIDI = 'web audio/midi';
/** Up to so many notes lie on the clipboard as a MIDI file too. */
const MOST_AS_MIDI = 20_000;

/**
 * Copying, cutting and pasting notes, by the browser's own clipboard: they go from song to song and from tab to tab, and
 * as a MIDI file to other programs. The browser's events are listened to, since they ask for no permission.
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
    this.put((await this.read()) ?? readClip(this.last ?? ''), where);
  }

  private onCopy(event: ClipboardEvent): void {
    if (isField(event.target) || hasWords()) return;
    const text = this.taken(event.type === 'cut');
    if (text === null) return;
    event.preventDefault();
    this.last = text;
    event.clipboardData?.setData('text/plain', text);
    // The event takes text only; the MIDI file follows by the other way, with the same text.
    void this.write(text);
  }

  private onPaste(event: ClipboardEvent): void {
    if (isField(event.target)) return;
    event.preventDefault();
    const clip = readClip(event.clipboardData?.getData('text/plain') ?? '');
    if (isProblem(clip)) void this.read().then((other) => this.put(other ?? clip, 'playhead'));
    else this.put(clip, 'playhead');
  }

  /** The selected notes as text. With nothing selected it says so and returns null. */
  private taken(cut: boolean): string | null {
    const hand = this.shaping.hand();
    const text = hand && toClip(hand.song, hand.taken);
    if (!hand || text === null) {
      this.said.say(NONE_SELECTED);
      return null;
    }
    // If the notes could not be cut, the reason has been shown; they are still copied.
    if (cut && !this.shaping.erase()) return text;
    this.said.say(`${cut ? 'Cut' : 'Copied'} ${counted(hand.taken.length, 'note')}.`);
    return text;
  }

  private put(clip: Clip | EditProblem, where: 'playhead' | 'bar'): void {
    const hand = this.shaping.hand([]);
    if (!hand) return;
    if (isProblem(clip)) {
      this.said.say(clip.problem);
      return;
    }
    const at = Math.round(this.player.position());
    const notes = pasted(clip, hand.song, hand.track, at, where);
    this.shaping.add(this.shaping.added(notes, `Paste ${counted(notes.length, 'note')}`), 'paste');
  }

  private async write(text: string): Promise<void> {
    const clip = readClip(text);
    const blobs: Record<string, Blob> = { 'text/plain': new Blob([text], { type: 'text/plain' }) };
    if (!isProblem(clip) && clip.notes.length <= MOST_AS_MIDI && supports(MIDI)) {
      blobs[MIDI] = new Blob([clipToMidi(clip) as BlobPart], { type: 'audio/midi' });
    }
    try {
      await navigator.clipboard.write([new ClipboardItem(blobs)]);
    } catch {
      // It is kept here all the same.
    }
  }

  /** What the clipboard holds: our own notes, else a MIDI file. Null where it cannot be read. */
  private async read(): Promise<Clip | EditProblem | null> {
    try {
      const items = await navigator.clipboard.read();
      const text = await blobOf(items, 'text/plain');
      const clip = readClip((await text?.text()) ?? '');
      const midi = isProblem(clip) ? await blobOf(items, MIDI) : null;
      return midi ? clipOfMidi(new Uint8Array(await midi.arrayBuffer())) : clip;
    } catch {
      return null;
    }
  }
}

function supports(type: string): boolean {
  return typeof ClipboardItem !== 'undefined' && ClipboardItem.supports?.(type) === true;
}

async function blobOf(items: readonly ClipboardItem[], type: string): Promise<Blob | null> {
  const item = items.find((i) => i.types.includes(type));
  return item ? item.getType(type) : null;
}

function isField(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.matches('input, textarea, select, [contenteditable]');
}

/** Whether words on the page are selected: then those are copied. */
function hasWords(): boolean {
  return (document.getSelection()?.toString() ?? '') !== '';
}
