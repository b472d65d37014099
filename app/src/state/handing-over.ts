import { Injectable } from '@angular/core';

/** What has to be brought to an end before another tab gets the right to write the song: a recording, for one. */
@Injectable({ providedIn: 'root' })
export class HandingOver {
  private readonly ends = new Set<() => void>();

  /** @returns what takes it back */
  before(end: () => void): () => void {
    this.ends.add(end);
    return () => this.ends.delete(end);
  }

  endAll(): void {
    for (const end of this.ends) end();
  }
}
