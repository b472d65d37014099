import { inject, Injectable } from '@angular/core';
import { Importer } from './importer';

/** Files that the system opens with the installed program (Web App Launch Handler, W3C). */
interface WithLaunches {
  readonly launchQueue?: {
    setConsumer(take: (launch: { readonly files?: readonly FileSystemHandle[] }) => void): void;
  };
}

/** Opens what the system opens with this program: songs and MIDI files, and sound files on the open song. */
@Injectable({ providedIn: 'root' })
export class Launched {
  private readonly importer = inject(Importer);

  listen(): void {
    (window as WithLaunches).launchQueue?.setConsumer(({ files }) => {
      if (files && files.length > 0) void this.open(files);
    });
  }

  private async open(handles: readonly FileSystemHandle[]): Promise<void> {
    const files: File[] = [];
    const unread: string[] = [];
    for (const handle of handles) {
      if (handle.kind !== 'file') continue;
      const file = await (handle as FileSystemFileHandle).getFile().catch(() => null);
      if (file) files.push(Object.assign(file, { handle: handle as FileSystemFileHandle }));
      else unread.push(handle.name);
    }
    await this.importer.take({ files, emptyFolders: [], unread });
  }
}
