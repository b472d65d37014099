import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { replayVersion1 } from '@early-sparrow/core/edit';
import { asPlayed } from '@early-sparrow/core/performance';
import { writeSmf } from '@early-sparrow/core/smf';
import { readSong, SONG_VERSION } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';

/** A library as version 1 kept it: songs as they were opened, their journals, and the files that it wrote from them. */
interface Kept {
  readonly name: string;
  readonly snapshot: unknown;
  readonly journal: readonly unknown[];
  readonly fresh: { readonly played: string };
  readonly played: string;
  readonly corrected: string;
  readonly names: readonly string[];
  readonly songName: string;
}

const revive = (_: string, value: unknown): unknown => {
  const bytes = (value as { $bytes?: string } | null)?.$bytes;
  return typeof bytes === 'string' ? new Uint8Array(Buffer.from(bytes, 'base64')) : value;
};
const library = JSON.parse(readFileSync(join(__dirname, 'fixtures/version-1.json'), 'utf8'), revive) as Kept[];
const base64 = (bytes: Uint8Array) => Buffer.from(bytes).toString('base64');

describe('a library of version 1', () => {
  it.each(library)('$name is opened as it was, and its first export is the same file', ({ snapshot, fresh }) => {
    const song = readSong(snapshot);
    expect(song.version).toBe(SONG_VERSION);
    expect(base64(writeSmf(song, asPlayed(song)))).toBe(fresh.played);
    expect(base64(writeSmf(song, perform(song, 'corrected')))).toBe(fresh.played);
  });

  it.each(library)('$name is opened with everything that was done to it', ({ snapshot, journal, ...kept }) => {
    const history = replayVersion1(snapshot, journal);
    const { song } = history;
    expect(song.name).toBe(kept.songName);
    expect(history.undo.map((s) => s.edit.name)).toEqual(kept.names);
    expect(base64(writeSmf(song, asPlayed(song)))).toBe(kept.played);
    expect(base64(writeSmf(song, perform(song, 'corrected')))).toBe(kept.corrected);
  });
});
