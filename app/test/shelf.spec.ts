import './streams';
import { TestBed } from '@angular/core/testing';
import { BUILT_IN_RULES, ruleFromJson, RuleSchema, ruleToJson, type Rule } from '@early-sparrow/core/rules';
import { Saving } from '../src/common/saving';
import { Shelf } from '../src/desk/kit/shelf';
import { NamedStore } from '../src/storage/named-store';
import { freshStore, until } from './kept';

const [beat, other] = BUILT_IN_RULES;
const mine: Rule = { ...beat, name: 'Mine' };

class Rules extends NamedStore<Rule> {
  constructor(readonly kept = freshStore().songs.rules) {
    super(kept, (one) => RuleSchema.safeParse(one).success);
  }
}

function shelfOf(store = new Rules()) {
  const saved: string[] = [];
  const saving = { save: async (file: Blob, name: string) => void saved.push(`${name}: ${await file.text()}`) };
  TestBed.configureTestingModule({ providers: [{ provide: Saving, useValue: saving }] });
  const kind = { one: 'rule', builtIn: BUILT_IN_RULES, toJson: ruleToJson, fromJson: ruleFromJson };
  const shelf = TestBed.runInInjectionContext(() => new Shelf<Rule>(store, kind));
  const named = async (name: string) => (await store.kept.get(name))?.then[0].do;
  return { shelf, store, saved, named };
}

describe('own rules on their shelf', () => {
  it('are replaced only by a new state of themselves, or where the user says so', async () => {
    const { shelf, named } = shelfOf();
    expect(await shelf.save(mine)).toBe(true);
    const changed = { ...other, name: 'Mine' };
    expect(changed.then[0].do).not.toBe(mine.then[0].do);
    expect(await shelf.save(changed, 'Another')).toBe(false);
    expect(shelf.taken()).toBe(changed);
    expect(await named('Mine')).toBe(mine.then[0].do);
    expect(await shelf.replace(changed)).toBe(true);
    expect(shelf.taken()).toBeNull();
    expect(await named('Mine')).toBe(changed.then[0].do);
    expect(await shelf.save(mine, 'Mine')).toBe(true);
    expect(await named('Mine')).toBe(mine.then[0].do);
  });

  it('need a name that no built-in one has', async () => {
    const { shelf, store } = shelfOf();
    for (const [name, why] of [
      ['', 'Give the rule a name first.'],
      [beat.name, `“${beat.name}” is built in. Choose another name.`],
    ]) {
      expect(await shelf.save({ ...mine, name }, name)).toBe(false);
      expect(shelf.problem()).toBe(why);
    }
    expect(await store.kept.count()).toBe(0);
  });

  it('come back whole after they were deleted, beside what took their name meanwhile', async () => {
    const { shelf, store, named } = shelfOf();
    await shelf.save(mine);
    await shelf.remove(mine);
    const second = { ...other, name: 'Mine' };
    await shelf.save(second);
    await until(() => shelf.isOwn('Mine'));
    expect(await shelf.restore(mine)).toEqual({ ...mine, name: 'Mine (2)' });
    expect(shelf.deleted()).toEqual([]);
    expect(await named('Mine')).toBe(second.then[0].do);
    // Two of one name, deleted one after the other, both come back.
    await shelf.remove(second);
    await until(() => !shelf.isOwn('Mine'));
    await shelf.save(mine);
    await shelf.remove(mine);
    await until(() => !shelf.isOwn('Mine'));
    for (const one of shelf.deleted()) {
      const back = await shelf.restore(one);
      await until(() => shelf.isOwn(back?.name ?? ''));
    }
    expect((await store.kept.toArray()).map((r) => r.name)).toEqual(['Mine', 'Mine (2)', 'Mine (3)']);
  });

  it('are renamed, but to no name that is there; an empty one is asked for', async () => {
    const { shelf, store } = shelfOf();
    for (const name of ['Mine', 'Yours']) await shelf.save({ ...mine, name });
    await until(() => shelf.isOwn('Yours'));
    for (const name of ['Yours', beat.name]) {
      expect(await shelf.rename(mine, name)).toBe(false);
      expect(shelf.problem()).toBe(`“${name}” already exists. Choose another name.`);
    }
    expect(await shelf.rename(mine, ' ')).toBe(false);
    expect(shelf.problem()).toBe('Type the new name first.');
    expect(await shelf.rename(mine, ' Ours ')).toBe(true);
    expect((await store.kept.toArray()).map((r) => r.name)).toEqual(['Ours', 'Yours']);
  });

  it('stay where the browser refuses to write, which is said', async () => {
    const { shelf, store } = shelfOf();
    await shelf.save(mine);
    await until(() => shelf.isOwn('Mine'));
    const refuse = async () => Promise.reject(new DOMException('It is full.', 'QuotaExceededError'));
    Object.assign(store, { put: refuse, remove: refuse, rename: refuse });
    for (const act of [
      () => shelf.save({ ...mine, name: 'More' }),
      () => shelf.replace(mine),
      () => shelf.rename(mine, 'Ours'),
      () => shelf.remove(mine),
    ]) {
      shelf.problem.set('');
      expect(await act()).toBe(false);
      expect(shelf.problem()).toMatch(/^The browser refused to save it\./);
    }
    expect(shelf.deleted()).toEqual([]);
    expect(await store.kept.count()).toBe(1);
  });

  it('are written to files that every disk takes', async () => {
    const { shelf, saved } = shelfOf();
    await shelf.export({ ...mine, name: 'Hats 3/4: late?' });
    expect(saved[0]).toMatch(/^Hats 3-4- late-\.json: /);
    expect(ruleFromJson(saved[0].slice(saved[0].indexOf(': {') + 2)).name).toBe('Hats 3/4: late?');
  });
});
