import type { Page } from '@playwright/test';

// Stand-ins for what a browser does outside of its page: windows that ask for a file, other programs, the desktop.

/** Gives the page a window that saves files: what is saved goes into a file of the browser's own disk, for good. */
export async function withSaveWindow(page: Page, name: string): Promise<void> {
  await page.addInitScript((name) => {
    const pick = async () => {
      const folder = await navigator.storage.getDirectory();
      return folder.getFileHandle(name, { create: true });
    };
    Object.assign(window, { showSaveFilePicker: pick });
  }, name);
}

/** The bytes of a file that was saved so; null where there is none. */
export async function savedFile(page: Page, name: string): Promise<Buffer | null> {
  const bytes = await page.evaluate(async (name) => {
    const folder = await navigator.storage.getDirectory();
    const handle = await folder.getFileHandle(name).catch(() => null);
    return handle && [...new Uint8Array(await (await handle.getFile()).arrayBuffer())];
  }, name);
  return bytes && Buffer.from(bytes);
}

/** Another program puts a MIDI file on the clipboard. */
export async function copyMidiElsewhere(page: Page, bytes: Uint8Array): Promise<void> {
  await page.evaluate(
    async (bytes) => {
      const blob = new Blob([Uint8Array.from(bytes)], { type: 'audio/midi' });
      await navigator.clipboard.write([new ClipboardItem({ 'web audio/midi': blob })]);
    },
    [...bytes],
  );
}

/** The MIDI file on the clipboard, as another program gets it; empty while there is none: it comes a moment after the text. */
export async function midiOnClipboard(page: Page): Promise<Buffer> {
  const bytes = await page.evaluate(async () => {
    const [item] = await navigator.clipboard.read();
    if (!item?.types.includes('web audio/midi')) return [];
    return [...new Uint8Array(await (await item.getType('web audio/midi')).arrayBuffer())];
  });
  return Buffer.from(bytes);
}

/** Listens to what is dragged out of the page. Call it before the page is opened. */
export async function watchDrags(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const made = new Map<string, Blob>();
    const make = URL.createObjectURL.bind(URL);
    URL.createObjectURL = (blob: Blob) => {
      const url = make(blob);
      made.set(url, blob);
      return url;
    };
    document.addEventListener('dragstart', (event) => {
      const said = event.defaultPrevented ? '' : (event.dataTransfer?.getData('DownloadURL') ?? '');
      const [, name, url] = /^[^:]+:([^:]+):(.+)$/.exec(said) ?? [];
      Object.assign(window, { dragged: { name, blob: made.get(url ?? '') } });
    });
  });
}

/** The file that the place of a drop would fetch; null where nothing was dragged that is a file. */
export async function draggedFile(page: Page): Promise<{ name: string; bytes: Buffer } | null> {
  const found = await page.evaluate(async () => {
    const { name, blob } = (window as unknown as { dragged?: { name?: string; blob?: Blob } }).dragged ?? {};
    return blob ? { name: name ?? '', bytes: [...new Uint8Array(await blob.arrayBuffer())] } : null;
  });
  return found && { name: found.name, bytes: Buffer.from(found.bytes) };
}

/** Gives the page a window for folders: the folder lies on the browser's own disk, with some files in it. */
export async function withFolderWindow(page: Page, name: string, there: Record<string, string>): Promise<void> {
  await page.addInitScript(
    ([name, there]) => {
      const pick = async () => {
        const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle(name, { create: true });
        for (const [file, text] of Object.entries(there)) {
          const stream = await (await folder.getFileHandle(file, { create: true })).createWritable();
          await stream.write(text);
          await stream.close();
        }
        return folder;
      };
      Object.assign(window, { showDirectoryPicker: pick });
    },
    [name, there] as const,
  );
}

/** The files in such a folder. */
export async function filesIn(page: Page, name: string): Promise<Record<string, Buffer>> {
  const found = await page.evaluate(async (name) => {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle(name);
    const files: [string, number[]][] = [];
    for await (const [file, handle] of (
      folder as unknown as { entries(): AsyncIterable<[string, FileSystemFileHandle]> }
    ).entries()) {
      files.push([file, [...new Uint8Array(await (await handle.getFile()).arrayBuffer())]]);
    }
    return files;
  }, name);
  return Object.fromEntries(found.map(([file, bytes]) => [file, Buffer.from(bytes)]));
}

/** A computer without a sound device, where the browser's audio engine never answers. */
export async function withoutSoundDevice(page: Page): Promise<void> {
  await page.addInitScript(() => {
    Object.defineProperty(AudioContext.prototype, 'state', { get: () => 'suspended' });
    AudioContext.prototype.resume = () => new Promise<void>(() => undefined);
  });
}
