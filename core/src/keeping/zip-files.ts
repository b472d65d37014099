import { zipSync, type Zippable } from 'fflate';

/** Some files as one zip. Two of one name are told apart by a number. */
export function zipFiles(files: readonly { readonly name: string; readonly bytes: Uint8Array }[]): Uint8Array {
  const zip: Zippable = {};
  const taken = new Set<string>();
  for (const { name, bytes } of files) zip[freeName(name, taken)] = bytes;
  return zipSync(zip, { mtime: new Date(1980, 0, 1) });
}

/**
 * A file name that is not taken, and is from then on: `Bass.mid`, then `Bass (2).mid`.
 * @param taken names as {@link nameOnDisk} has them
 */
export function freeName(name: string, taken: Set<string>): string {
  const [, stem, ending] = /^(.*?)(\.[^.]*)?$/.exec(name) ?? ['', name, ''];
  let free = name;
  for (let n = 2; taken.has(nameOnDisk(free)); n++) free = `${stem} (${n})${ending ?? ''}`;
  taken.add(nameOnDisk(free));
  return free;
}

/** What a name is to disks that tell neither capitals from small letters nor one way to write an accent from another. */
export function nameOnDisk(name: string): string {
  return name.normalize('NFC').toLowerCase();
}

/** A name without what file systems do not take: signs, controls, and the points and spaces at its end. */
export function fileName(name: string): string {
  const plain = name.replace(/[\\/:*?"<>|\u0000-\u001f]/g, '-').replace(/[. ]+$/, '');
  return plain === '' ? 'Untitled' : plain;
}
