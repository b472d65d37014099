import { inject, Injectable, signal } from '@angular/core';
import { freeName, nameOnDisk } from '@early-sparrow/core/keeping';
import { isClosedWindow } from '../common/closed-window';
import { countedFirst } from '../common/format';
import { Saving } from '../common/saving';
import { BlobReader, BlobWriter, ZipWriter } from '../common/zip';
import { Batch, type DoneRow } from './batch';
import { reportCsv, reportJson } from './batch-report';

/** The browser's window for folders, where it has one. */
interface WithFolders {
  showDirectoryPicker?(options: { mode: 'readwrite' }): Promise<FileSystemDirectoryHandle>;
}

/** Writes the corrected files, with a report, into a folder or a zip file. */
@Injectable()
export class Writing {
  private readonly batch = inject(Batch);
  private readonly saving = inject(Saving);
  /** Whether the browser lets a page write into folders. */
  readonly toFolders = 'showDirectoryPicker' in window;
  /** Files that are written so far; null where none are being written. */
  readonly progress = signal<number | null>(null);
  /** What became of it, in a sentence. */
  readonly said = signal('');

  /** Everything as one zip file. */
  async zip(): Promise<void> {
    const blob = this.zipped();
    await this.saving.save(blob, 'Corrected files.zip');
  }

  /** Each file into a folder; one of that name that is there is never replaced. */
  async folder(): Promise<void> {
    let folder: FileSystemDirectoryHandle;
    try {
      folder = await (window as WithFolders).showDirectoryPicker!({ mode: 'readwrite' });
    } catch (error) {
      if (isClosedWindow(error)) return;
      this.said.set('The browser does not allow writing there. Choose another folder.');
      return;
    }
    const there = new Set<string>();
    let written = 0;
    this.progress.set(0);
    try {
      for await (const name of (folder as unknown as { keys(): AsyncIterable<string> }).keys())
        there.add(nameOnDisk(name));
      for (const { name, blob } of this.files(there)) {
        const file = await folder.getFileHandle(name, { create: true });
        const stream = await file.createWritable();
        await blob.stream().pipeTo(stream);
        this.progress.set(++written);
      }
      this.said.set(`${written} files were written into “${folder.name}”, the report among them.`);
    } catch (error) {
      const full = error instanceof DOMException && error.name === 'QuotaExceededError';
      const why = full ? 'The disk is full.' : 'The browser was stopped from writing there.';
      this.said.set(
        `${why} ${countedFirst(written, 'file')} ${written === 1 ? 'was' : 'were'} written into “${folder.name}”. Choose another folder for all of them.`,
      );
    } finally {
      this.progress.set(null);
    }
  }

  private async zipped(): Promise<Blob> {
    const zip = new ZipWriter(new BlobWriter('application/zip'), { level: 0 });
    try {
      this.progress.set(0);
      let written = 0;
      for (const { name, blob } of this.files(new Set())) {
        await zip.add(name, new BlobReader(blob));
        this.progress.set(++written);
      }
      return await zip.close();
    } finally {
      this.progress.set(null);
    }
  }

  /** The corrected files and then the report, each under a name that is free. @param taken as for {@link freeName} */
  private *files(taken: Set<string>): Generator<{ readonly name: string; readonly blob: Blob }> {
    const outputs = new Map<number, string>();
    // As they are now: files may be corrected anew while they are written.
    const { recipe, rows } = this.batch.reported();
    for (const row of rows) {
      if (row.state !== 'done') continue;
      const name = freeName(midiName(row), taken);
      outputs.set(row.id, name);
      yield { name, blob: row.result };
    }
    for (const [name, text] of [
      ['Report.csv', reportCsv(rows, outputs)],
      ['Report.json', reportJson(recipe, rows, outputs)],
    ]) {
      yield { name: freeName(name, taken), blob: new Blob([text], { type: 'text/plain' }) };
    }
  }
}

function midiName({ file: { name } }: DoneRow): string {
  return /\.midi?$/i.test(name) ? name : `${name.replace(/\.[^.]*$/, '')}.mid`;
}
