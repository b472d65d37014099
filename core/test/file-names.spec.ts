import fc from 'fast-check';
import { unzipSync } from 'fflate';
import { fileName, freeName, nameOnDisk, zipFiles } from '@early-sparrow/core/keeping';

const ending = (name: string) => /\.[^.]*$/.exec(name)?.[0];

describe('names of files that are written together', () => {
  it('differ for disks that tell no capitals from small letters, and write accents in another way', () => {
    // common practice (no source): the usual disks of two of the three systems that people work on are such
    const taken = new Set([nameOnDisk('Ferry.mid')]);
    expect(freeName('ferry.MID', taken)).toBe('ferry (2).MID');
    expect(freeName('FERRY.mid', taken)).toBe('FERRY (3).mid');
    expect(freeName('F\u00e4hre.mid', taken)).toBe('F\u00e4hre.mid');
    expect(freeName('Fa\u0308hre.mid', taken)).toBe('Fa\u0308hre (2).mid');
    expect(freeName('constructor', taken)).toBe('constructor');
  });

  it('are all different, and keep their endings', () => {
    const name = fc.string({ unit: fc.constantFrom('a', 'A', ' ', '(', '2', ')', '.', '\u00e9', 'e\u0301') });
    fc.assert(
      fc.property(fc.array(name.map(fileName), { maxLength: 30 }), (names) => {
        const taken = new Set<string>();
        const free = names.map((n) => freeName(n, taken));
        expect(new Set(free.map(nameOnDisk)).size).toBe(names.length);
        expect(free.map(ending)).toEqual(names.map(ending));
      }),
    );
  });

  it('lose none of the files in a zip file', () => {
    const files = ['Take.mid', 'take.mid', 'Take.mid'].map((n, i) => ({ name: n, bytes: new Uint8Array([i]) }));
    const zip = unzipSync(zipFiles(files));
    expect(Object.entries(zip).map(([n, [byte]]) => [n, byte])).toEqual([
      ['Take.mid', 0],
      ['take (2).mid', 1],
      ['Take (3).mid', 2],
    ]);
  });
});
