import './streams';
import { TestBed } from '@angular/core/testing';
import { Saving } from '../src/common/saving';
import { BackupIn } from '../src/library/backup-in';
import { BackupOut } from '../src/library/backup-out';
import { Library } from '../src/library/library';
import { StorageRoom } from '../src/storage/room';

const pause = () => new Promise((done) => setTimeout(done, 5));

/** The browser's own disk, which takes its time, and holds one file. */
class OwnDisk {
  there = true;

  async getDirectory(): Promise<unknown> {
    await pause();
    return {
      removeEntry: async () => {
        await pause();
        this.there = false;
      },
      getFileHandle: async () => {
        this.there = true;
        return {
          createWritable: async () => {
            await pause();
            if (!this.there) throw new DOMException('It was removed.', 'NotFoundError');
            return {};
          },
          getFile: async () => new Blob(['backup']),
        };
      },
    };
  }
}

function library(write: () => Promise<unknown>, disk = new OwnDisk()) {
  const locks = { request: (_name: string, _how: object, held: (lock: object) => Promise<unknown>) => held({}) };
  Object.assign(navigator, { storage: disk, locks });
  const saved: string[] = [];
  const save = async (_bytes: Blob, name: string) => void saved.push(name);
  TestBed.configureTestingModule({
    providers: [
      { provide: BackupOut, useValue: { write } },
      { provide: BackupIn, useValue: {} },
      { provide: Saving, useValue: { save } },
      { provide: StorageRoom, useValue: { measure: async () => undefined } },
    ],
  });
  return { made: TestBed.inject(Library), saved };
}

describe('a backup without a window for saving', () => {
  it('is written after what an earlier visit left was cleared, however slowly that goes', async () => {
    const { made, saved } = library(async () => ({ songs: 2, damaged: 0 }));
    // The first press makes the library, which begins to clear.
    await made.backUp();
    expect(made.said()).toMatch(/^2 songs with all that belongs to them are in “Early Sparrow backup/);
    expect(saved).toHaveLength(1);
    expect(made.progress()).toBeNull();
  });

  it('that cannot be written says that nothing was changed', async () => {
    const { made, saved } = library(async () => Promise.reject(new Error('The disk is gone.')));
    await made.backUp();
    expect(made.said()).toBe('The backup could not be written. Try again; all that is kept here is as it was.');
    expect(saved).toEqual([]);
  });

  it('that finds no room says so', async () => {
    const { made } = library(async () => Promise.reject(new DOMException('Full.', 'QuotaExceededError')));
    await made.backUp();
    expect(made.said()).toBe(
      'There is no room for all of it. Free some space and try again; all that is kept here is as it was.',
    );
  });
});
