import { inject, Injectable } from '@angular/core';
import { Router } from '@angular/router';
import { AudioDrop } from '../common/audio-drop';
import { isAudio, isSongFile } from '../common/file-kinds';
import { MidiFiles, type ReadFile } from '../common/midi-files';
import { Notices } from '../common/notices';
import { StorageRoom } from '../storage/room';
import { SongFiles } from '../storage/song-files';
import { Handles } from '../storage/handles';
import { SongStore } from '../storage/song-store';
import { analysisAhead } from '../workers/analysis-worker';
import { importAhead } from '../workers/import-worker';
import type { Dropped } from './dropped';

/** What became of one file: opened, perhaps with a word about it, or the reason why not. */
type Outcome = { readonly id: string; readonly notice: string | null } | { readonly id: null; readonly notice: string };

/** A file that says where on the disk it lies, in browsers that tell. */
interface Handled {
  readonly handle?: FileSystemFileHandle;
}

/** No more files than this become songs at a time. */
const MOST_SONGS = 200;
const DEMO = 'Night Ferry.mid';
const NO_ROOM = 'The browser refused to save it. Free some space and try again.';

/** Opens MIDI files and song files: reads them in a worker, keeps them, goes to the last one, and tells of all in one message. */
@Injectable({ providedIn: 'root' })
export class Importer {
  private readonly songs = inject(SongStore);
  private readonly router = inject(Router);
  private readonly notices = inject(Notices);
  private readonly midi = inject(MidiFiles);
  private readonly audio = inject(AudioDrop);
  private readonly songFiles = inject(SongFiles);
  private readonly handles = inject(Handles);
  private readonly room = inject(StorageRoom);

  /** The demo song on its way; null when it is not. */
  private demoComing: { opens: () => boolean } | null = null;

  /** Name of the file that is being read; null when none is. */
  readonly busy = this.midi.busy;

  async files(files: readonly File[]): Promise<void> {
    await this.open({ files, emptyFolders: [], unread: [] });
  }

  /** Opens what was dropped; folders count for the MIDI files in them. */
  async open({ files, emptyFolders, unread }: Dropped): Promise<void> {
    const refused = (notice: string): Outcome => ({ id: null, notice });
    const outcomes = [
      ...emptyFolders.map((name) =>
        refused(`“${name}” is a folder without MIDI or song files. Choose files that end in .mid or .sparrow.`),
      ),
      ...unread.map((name) => refused(`“${name}” could not be read: the system does not allow it, or it is gone.`)),
    ];
    for (const file of files.slice(0, MOST_SONGS)) outcomes.push(await this.file(file));
    const notices =
      files.length > MOST_SONGS
        ? [`Only the first ${MOST_SONGS} of ${files.length} files were opened. For more, use Many files.`]
        : [];
    await this.show(outcomes, notices);
  }

  /** Goes to the last song that was opened, and tells of all of them. */
  private async show(outcomes: readonly Outcome[], before: readonly string[] = []): Promise<void> {
    const opened = outcomes.filter((o) => o.id !== null);
    const notices = [...before, ...outcomes.flatMap((o) => (o.notice === null ? [] : [o.notice]))];
    const last = opened.at(-1)?.id;
    if (last) await this.router.navigate(['/song', last]);
    if (outcomes.length > 1) this.say([`${opened.length} of ${outcomes.length} were opened.`, ...notices].join('\n'));
    else if (notices.length > 0) this.say(notices[0]);
  }

  /**
   * Takes files from outside: one sound file goes to the open song, everything else is opened. Without an open song a
   * sound file is refused as one that is no MIDI file.
   */
  async take({ files, ...rest }: Dropped): Promise<void> {
    const sound = files.find(isAudio);
    const taken = sound !== undefined && this.audio.give(sound);
    const others = taken ? files.filter((file) => !isAudio(file)) : files;
    if (!taken || others.length > 0) await this.open({ files: others, ...rest });
  }

  /** Fetches and reads the demo song, and starts what listens to it. Null where it could not be fetched. */
  async readDemo(): Promise<ReadFile | null> {
    importAhead();
    analysisAhead();
    const fetched = fetch('demo/night-ferry.mid').then((response) => (response.ok ? response.blob() : null));
    const bytes = await fetched.catch(() => null);
    return bytes && this.midi.read(new File([bytes], DEMO));
  }

  /**
   * Keeps the demo song and opens it. Asked for again while it is on its way, it still comes once.
   * @param reading what {@link readDemo} began before
   * @param opens asked once it is kept: where not, it is only among the songs
   */
  async demo(reading?: Promise<ReadFile | null>, opens = () => true): Promise<void> {
    if (this.demoComing) {
      this.demoComing.opens = opens;
      return;
    }
    const coming = (this.demoComing = { opens });
    try {
      const read = await (reading ?? this.readDemo());
      if (!read)
        return this.say('The demo song could not be loaded. Is the program still running? Then reload the page.');
      const outcome = await this.kept(read, DEMO);
      if (outcome.id === null || coming.opens()) await this.show([outcome]);
    } finally {
      this.demoComing = null;
    }
  }

  private async file(file: File & Handled): Promise<Outcome> {
    if (await isSongFile(file)) return this.songFile(file);
    return this.kept(await this.midi.read(file), file.name);
  }

  /** Keeps what was read as a song. */
  private async kept({ song, packed, notice }: ReadFile, name: string): Promise<Outcome> {
    if (!song) return { id: null, notice };
    const id = await this.songs.add(song, { packed }).catch(() => null);
    if (id !== null) return { id, notice };
    return { id: null, notice: `“${name}” was not opened. ${NO_ROOM}` };
  }

  private async songFile(file: File & Handled): Promise<Outcome> {
    this.midi.busy.set(file.name);
    try {
      const lack = await this.room.lack(file.size);
      if (lack) return { id: null, notice: `“${file.name}” was not opened. ${lack}` };
      const read = await this.songFiles.read(file);
      if (!read.history) return { id: null, notice: `“${file.name}” was not opened. ${read.problem}` };
      const id = await this.songs.addWhole(read.history, read.sounds).catch(() => null);
      if (id === null) return { id, notice: `“${file.name}” was not opened. ${NO_ROOM}` };
      // A damaged file is not saved over by what is left of it.
      if (file.handle && read.notices.length === 0) await this.handles.keep(id, file.handle);
      return { id, notice: read.notices.length > 0 ? `“${file.name}” was opened. ${read.notices.join(' ')}` : null };
    } finally {
      this.midi.busy.set(null);
    }
  }

  private say(text: string): void {
    void this.notices.open(text, 'Close', { duration: 20_000, politeness: 'assertive', panelClass: 'lines' });
  }
}
