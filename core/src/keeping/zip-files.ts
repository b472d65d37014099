import { zipSync, type Zippable } from 'fflate';

/** Some files as one zip. Two of one name are told apart by a number. */
export function zipFiles(files: readonly { readonly name: string; readonly bytes: Uint8Array }[]): Uint8Array {
  const zip: Zippable = {};
  for (const { name, bytes } of files) zip[freeName(name, (n) => n in zip)] = bytes;
  return zipSync(zip, { mtime: new Date(1980, 0, 1) });
}

/** A file name that is not taken: `Bass.mid`, then `Bass (2).mid`. */
export function freeName(name: string, isTaken: (name: string) => boolean): string {
  const [, stem, ending] = /^(.*?)(\.[^.]*)?$/.exec(name) ?? ['', name, ''];
  let free = name;
  for (let n = 2; isTaken(free); n++) free = `${stem} (${n})${ending ?? ''}`;
  return free;
}

/** A name without what file systems do not take: signs, controls, and the points and spaces at its end. */
export function fileName(name: string): string {
  const plain = name.replace(/[\\/:*?"<>|\u0000-\u001f]/g, '-').replace(/[. ]+$/, '');
  return plain === '' ? 'Untitled' : plain;
}
