import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { parseGrid } from '@early-sparrow/core/grid';
import type { Song } from '@early-sparrow/core/song';
import { reportPart } from '@early-sparrow/core/treatment';
import { note, part, song } from '../../core/test/build';
import { Leans } from '../src/desk/fits/leans';
import { Messages } from '../src/desk/fits/messages';
import { Selecting } from '../src/desk/hand/selecting';
import { TempoFitting } from '../src/desk/tempo/tempo-fitting';
import { Treating } from '../src/desk/hand/treating';
import { DeskActions } from '../src/state/desk.feature';
import { now, open, settings, starts } from './desk-rig';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

describe('messages', () => {
  async function shown(s: Song): Promise<{ text: string; press: (name: string) => Promise<void> }> {
    open(s);
    const fixture = TestBed.createComponent(Messages);
    await fixture.whenStable();
    const element = fixture.nativeElement as HTMLElement;
    return {
      get text() {
        return element.textContent?.replace(/\s+/g, ' ').trim() ?? '';
      },
      press: async (name) => {
        [...element.querySelectorAll('button')].find((b) => b.textContent?.trim() === name)?.click();
        await fixture.whenStable();
      },
    };
  }
  const sixteenths = Array.from({ length: 64 }, (_, i) =>
    note(i, 3840 + i * 240 + ((i * 7) % 5), { pitch: 50 + (i % 9) }),
  );

  it('a grid that is too coarse: names the merges, shows them, and offers one that fits', async () => {
    const strip = await shown(song(sixteenths, { quantize: { on: true, grid: parseGrid('1/4') } }));
    expect(strip.text).toMatch(/47 chords merge with the one before on 1\/4/);
    await strip.press('Show');
    expect(TestBed.inject(Selecting).count()).toBe(47);
    await strip.press('Try 1/16');
    expect(settings().grid.value).toBe(16);
    expect(strip.text).not.toContain('merge');
  });

  it('triplets under a straight grid', async () => {
    const triplets = Array.from({ length: 60 }, (_, i) =>
      note(i, 3840 + i * 320 + ((i * 7) % 5), { pitch: 50 + (i % 9) }),
    );
    const strip = await shown(song(triplets, { quantize: { on: true, grid: parseGrid('1/32') } }));
    expect(strip.text).toContain('The playing has triplets');
    await strip.press('Try 1/8T');
    expect(strip.text).toBe('No warnings');
  });

  it('doubles: the softer is dropped only when asked', async () => {
    const doubled = [...sixteenths, note(90, 3840 + 20, { pitch: 50, velocity: 20 })];
    const strip = await shown(song(doubled, { quantize: { on: true, grid: parseGrid('1/16'), chordMs: 0 } }));
    await strip.press('Hide');
    expect(strip.text).toContain('One note would start together with a louder one of the same pitch');
    await strip.press('Mute the softer');
    expect(part(now()).treatment.settle.dropDoubles).toBe(true);
    expect(reportPart(part(now()), now())).toMatchObject({ doubles: 1, dropped: 1 });
  });

  it('doubles are dropped with own settings open too, and each note counts once', async () => {
    const own = { kind: 'own', set: 'own1' } as const;
    const tripled = [3840 + 20, 3840 + 30].map((at, i) =>
      note(90 + i, at, { pitch: 50, velocity: 20 + i, exception: own }),
    );
    const base = song([...sixteenths, ...tripled], { quantize: { on: true, grid: parseGrid('1/16'), chordMs: 0 } });
    const [track] = base.tracks;
    const sets = [{ id: 'own1', name: 'own settings', treatment: part(base).treatment }];
    const strip = await shown({ ...base, tracks: [{ ...track, parts: [{ ...part(base), sets }] }] });
    TestBed.inject(Store).dispatch(DeskActions.selectSet({ setId: 'own1' }));
    for (let i = 0; i < 3 && !strip.text.includes('same pitch'); i++) await strip.press('Hide');
    expect(strip.text).toContain('2 notes would start together with a louder one');
    await strip.press('Mute the softer');
    expect(part(now()).treatment.settle.dropDoubles).toBe(true);
    expect(reportPart(part(now()), now()).dropped).toBe(2);
  });

  it('a finer grid that fits is not called coarser than the playing', async () => {
    const fine = Array.from({ length: 120 }, (_, i) => note(i, 3840 + i * 60, { pitch: 50 + (i % 9), length: 40 }));
    const strip = await shown(song(fine, { quantize: { on: true, grid: parseGrid('1/16') } }));
    expect(strip.text).not.toContain('finer than the playing');
    TestBed.resetTestingModule();
    const coarse = await shown(song(sixteenths, { quantize: { on: true, grid: parseGrid('1/64') } }));
    expect(coarse.text).toContain('The lines of 1/64 are finer than the playing');
    await coarse.press('Try 1/16');
    expect(settings().grid.value).toBe(16);
  });

  it('playing at another tempo than the song’s is told, with the way to fit it', async () => {
    // Straight eighths, a twentieth faster than the song's 120 BPM.
    const faster = Array.from({ length: 240 }, (_, i) =>
      note(i, Math.round(3840 + i * 480 * 0.95 + ((i * 7) % 11) - 5), { pitch: 50 + (i % 9) }),
    );
    const strip = await shown(song(faster));
    expect(strip.text).toContain('not played to the song’s tempo');
    const start = jest.spyOn(TestBed.inject(TempoFitting), 'start').mockImplementation(() => undefined);
    await strip.press('Fit the tempo');
    expect(start).toHaveBeenCalled();
  });

  it('a first chord before its bar goes there as a whole', async () => {
    const early = [note(70, 3800, { pitch: 40 }), note(71, 3810, { pitch: 44 }), note(72, 3850, { pitch: 47 })];
    const base = song([...early, ...sixteenths.slice(4)]);
    const [track] = base.tracks;
    const strip = await shown({ ...base, tracks: [{ ...track, parts: [{ ...part(base), start: 3840 }] }] });
    expect(strip.text).toMatch(/First chord, of 3 notes, 21 ms before its bar/);
    await strip.press('Move it to the bar');
    expect(starts().slice(0, 3)).toEqual([3840, 3850, 3890]);
    expect(strip.text).not.toContain('before its bar');
  });

  it('notes that a push would put before the song are told of', async () => {
    const strip = await shown(
      song([note(0, 0), note(1, 10, { pitch: 64 }), note(2, 960)], {
        push: { on: true, amount: { value: -20, unit: 'ms' } },
      }),
    );
    expect(strip.text).toContain('2 notes would start before the song. They are held at its start');
    expect(reportPart(part(now()), now()).held).toBe(2);
  });

  it('a song beside its bars is told of once, and one step takes it from all tracks', async () => {
    const base = song([]);
    const [track] = base.tracks;
    const late = (t: number) =>
      Array.from({ length: 16 }, (_, i) => note(t * 100 + i, 3840 + i * 960 + 100 + (i % 3), { pitch: 40 + t }));
    const tracks = [0, 1, 2].map((t) => ({
      ...track,
      id: `t${t}`,
      parts: [{ ...part(base), id: `p${t}`, notes: late(t) }],
    }));
    const strip = await shown({ ...base, tracks });
    expect(strip.text).toContain('3 tracks, none corrected yet.');
    await strip.press('Hide');
    expect(strip.text).not.toContain('none corrected yet');
    expect(strip.text).toContain('Most tracks lie 53 ms behind the bars');
    expect(TestBed.inject(Leans).part()).toBeNull();
    await strip.press('Remove it from all tracks');
    expect(now().tracks.map((t) => t.parts[0].treatment.lag)).toEqual(
      [0, 1, 2].map(() => ({ on: true, amount: { value: expect.closeTo(52.6, 0), unit: 'ms' } })),
    );
    expect(strip.text).not.toContain('Most tracks');
  });

  it('a part’s lean goes once the treatment has dealt with it', async () => {
    const late = song(sixteenths.map((n) => ({ ...n, start: n.start + 40 })));
    open(late);
    const leans = TestBed.inject(Leans);
    expect(leans.part()).toBeCloseTo(21.9, 0);
    TestBed.inject(Treating).commit('Quantize', { quantize: { on: true } });
    expect(leans.part()).toBeNull();
    TestBed.inject(Treating).commit('Strength', { quantize: { strength: 0.5 } });
    expect(leans.part()).toBeCloseTo(21.9, 0);
    leans.takeFromPart();
    expect(part(now()).treatment.lag.amount.value).toBeCloseTo(21.9, 0);
    expect(leans.part()).toBeNull();
  });

  it('notes that become very short', async () => {
    const strip = await shown(song(sixteenths, { lengths: { on: true, mode: 'fixed', fixed: 1 / 256, min: 0 } }));
    expect(strip.text).toContain('64 notes become very short');
    await strip.press('Keep lengths');
    expect(strip.text).toBe('No warnings');
  });

  it('nothing where nothing is wrong', async () => {
    const strip = await shown(song(sixteenths, { quantize: { on: true, grid: parseGrid('1/16') } }));
    expect(strip.text).toBe('No warnings');
  });
});
