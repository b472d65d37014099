import { inject, Injectable } from '@angular/core';
import { fileSave } from 'browser-fs-access';
import { isClosedWindow } from './closed-window';
import { Notices } from './notices';

/** Writes files to the user's disk, and says what became of them. */
@Injectable({ providedIn: 'root' })
export class Saving {
  private readonly notices = inject(Notices);

  /**
   * Saves a file where the user chooses, or as a download where the browser has no window for that.
   * @param name with its ending
   * @param before a file that it is to be written into; if that is gone the user is asked
   * @returns false where nothing was written; else the file's handle, or null where the browser gives none
   */
  async save(
    blob: Blob | Promise<Blob>,
    name: string,
    before?: FileSystemFileHandle,
  ): Promise<FileSystemFileHandle | null | false> {
    const extensions = [name.slice(name.lastIndexOf('.'))];
    try {
      const handle = await fileSave(blob, { fileName: name, extensions }, before ?? null);
      void this.notices.open(`“${handle?.name ?? name}” was written.`, undefined, { duration: 4000 });
      return handle;
    } catch (error) {
      if (isClosedWindow(error)) return false;
      void this.notices.open(`“${name}” could not be written. ${whyNot(error)}`, 'Close');
      return false;
    }
  }
}

function whyNot(error: unknown): string {
  const name = error instanceof DOMException ? error.name : '';
  if (name === 'QuotaExceededError') return 'The disk is full: free some space and try again.';
  if (name === 'NotAllowedError') return 'The browser was not allowed to write there. Choose another place.';
  return 'Choose another folder and try again.';
}
