import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

/** Where Debian puts the pieces of openttd-openmsx and planetblupi-music-midi. Not ours, so not in the repository. */
const FOLDERS = ['/usr/share/games/openttd/baseset/openmsx', '/usr/share/planetblupi/music'];

/** Paths of all real MIDI files; the set-up step installs them. */
export function realFiles(): string[] {
  const files = FOLDERS.filter((f) => existsSync(f)).flatMap((folder) =>
    readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((name) => /\.midi?$/i.test(name))
      .map((name) => join(folder, name)),
  );
  if (files.length === 0) throw new Error('The MIDI files of Debian are not installed: run npm run setup.');
  return files.sort();
}

export function read(path: string): Uint8Array {
  return new Uint8Array(readFileSync(path));
}

/** A MIDI file as lines of midicsv (J. Walker's program, Debian package midicsv). */
export function midicsv(bytes: Uint8Array): string[] {
  return execFileSync('midicsv', ['-', '-'], { input: bytes, maxBuffer: 1 << 28, encoding: 'latin1' }).split('\n');
}

/** Bytes from hex text. */
export function hex(text: string): Uint8Array {
  return Uint8Array.from(text.trim().split(/\s+/), (b) => parseInt(b, 16));
}
