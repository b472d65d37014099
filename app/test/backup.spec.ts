import './streams';
import fc from 'fast-check';
import { BUILT_IN_RULES, RuleSchema, type Rule } from '@early-sparrow/core/rules';
import { TextReader, Uint8ArrayReader, Uint8ArrayWriter, ZipWriter } from '../src/common/zip';
import { entriesOf } from '../src/library/backup-entries';
import { LIST } from '../src/library/backup-format';
import { bringNamed } from '../src/library/named-in';
import { freshStore } from './kept';

const FILES = [
  { path: LIST, text: '{}' },
  ...Array.from({ length: 6 }, (_, i) => ({
    path: `songs/000${i + 1} Fähre.sparrow`,
    text: `PK\u0003\u0004 ${i} `.repeat(20 * i),
  })),
];

async function zipped(options: object): Promise<Uint8Array> {
  const song = new ZipWriter(new Uint8ArrayWriter());
  await song.add('song.json', new TextReader('{"name":"Fähre"}'));
  const bytes = await song.close();
  const zip = new ZipWriter(new Uint8ArrayWriter());
  for (const { path, text } of FILES) await zip.add(path, new TextReader(text), options);
  // A song is a zip file itself, with an end of its own.
  await zip.add(SONG, new Uint8ArrayReader(bytes), options);
  return zip.close();
}
const SONG = 'songs/0007 Ferry.sparrow';

const stored = () => zipped({ level: 0, dataDescriptor: false });

describe('the files in a backup', () => {
  it('are all there', async () => {
    for (const bytes of [await stored(), await zipped({})]) {
      const entries = await entriesOf(new Blob([bytes as BlobPart]));
      expect(entries?.cutOff).toBe(false);
      for (const { path, text } of FILES) expect(await (await entries?.bytes(path, 1e6))?.text()).toBe(text);
      expect(await entries?.bytes(FILES[6].path, 10)).toBeNull();
      expect(await entries?.bytes('another', 1e6)).toBeNull();
    }
  });

  it('are there as far as it goes, wherever it breaks off', async () => {
    const bytes = await stored();
    const whole = await entriesOf(new Blob([bytes as BlobPart]));
    for (let length = 0; length < bytes.length; length += 7) {
      const entries = await entriesOf(new Blob([bytes.subarray(0, length) as BlobPart]));
      const { paths } = entries ?? { paths: [] };
      expect(entries?.cutOff ?? true).toBe(true);
      expect(whole?.paths.slice(0, paths.length)).toEqual(paths);
      for (const { path, text } of FILES.slice(0, paths.length)) {
        expect(await (await entries?.bytes(path, 1e6))?.text()).toBe(text);
      }
      // What breaks off is missing, and nothing before it.
      if (length > bytes.length - 300) expect(paths).toContain(SONG);
    }
  });

  it('end the reading where bytes are wrong: nothing larger than the file is given', async () => {
    const bytes = await stored();
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(bytes.length - 1), fc.nat(255)), { minLength: 1, maxLength: 8 }),
        fc.nat(bytes.length),
        async (changes, length) => {
          const wrong = bytes.slice(0, length);
          for (const [at, value] of changes) if (at < length) wrong[at] = value;
          const entries = await entriesOf(new Blob([wrong as BlobPart]));
          for (const path of entries?.paths ?? []) {
            expect((await entries?.bytes(path, 1e6))?.size ?? 0).toBeLessThanOrEqual(length);
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('rules in a backup', () => {
  const [first, second] = BUILT_IN_RULES;
  const one = { ...first, name: 'Swing 62.5 %' };
  const asRule = (value: unknown): Rule | undefined => RuleSchema.safeParse(value).data;

  it('that are there already do not come twice, in whatever order their fields were written', async () => {
    const { rules } = freshStore().songs;
    const turned = Object.fromEntries(Object.entries(one).reverse()) as typeof one;
    const when = one.when.map((is) => Object.fromEntries(Object.entries(is).reverse()) as typeof is);
    await rules.put({ ...turned, when });
    expect(await bringNamed(JSON.parse(JSON.stringify([one])), asRule, rules)).toEqual({ came: 0, damaged: [] });
    expect(await rules.count()).toBe(1);
  });

  it('get another name where theirs is taken, which can be read again however long it is', async () => {
    const { rules } = freshStore().songs;
    const long = { ...one, name: 'x'.repeat(200) };
    for (const there of [one, long]) await rules.put(there);
    const other = [one, long].map(({ name }) => ({ ...second, name }));
    expect(await bringNamed(other.slice(0, 1), asRule, rules)).toEqual({ came: 1, damaged: [] });
    expect(await bringNamed([{ ...other[1], every: 3 }], asRule, rules)).toEqual({ came: 1, damaged: [] });
    const names = (await rules.toArray()).filter((r) => RuleSchema.safeParse(r).success).map(({ name }) => name);
    expect(names).toEqual(['Swing 62.5 %', 'Swing 62.5 % (2)', `${'x'.repeat(196)} (2)`, long.name]);
  });

  it('come although one beside them cannot be read, which is named', async () => {
    const { rules } = freshStore().songs;
    const read = [{ ...one, version: 2 }, { ...second, name: 'Sound' }, null];
    expect(await bringNamed(read, asRule, rules)).toEqual({ came: 1, damaged: ['Swing 62.5 %', 'without a name'] });
    expect(await rules.get('Sound')).toBeDefined();
    expect(await bringNamed(undefined, asRule, rules)).toEqual({ came: 0, damaged: [] });
  });
});
