import { Component, computed, signal } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { BUILT_IN_GROOVES } from '@early-sparrow/core/groove';
import { analysePart, type Analysis } from '@early-sparrow/core/insight';
import type { Note, Part, Song } from '@early-sparrow/core/song';
import { note, part, song, type Stages } from '../../core/test/build';
import { Analyst } from '../src/desk/fits/analyst';
import { FitsPanel } from '../src/desk/fits/fits-panel';
import { Leans } from '../src/desk/fits/leans';
import { HumanizeStage } from '../src/desk/treatment/humanize-stage';
import { LengthsStage } from '../src/desk/treatment/lengths-stage';
import { Lifter } from '../src/desk/treatment/lifter';
import { QuantizeStage } from '../src/desk/treatment/quantize-stage';
import { Resting } from '../src/desk/controls/resting';
import { LongSteps } from '../src/desk/hand/long-steps';
import { Selecting } from '../src/desk/hand/selecting';
import { TimingChip } from '../src/desk/tracks/timing-chip';
import { ChosenParts } from '../src/desk/hand/chosen-parts';
import { Treating } from '../src/desk/hand/treating';
import { Turns } from '../src/desk/hand/turns';
import { SongGlance } from '../src/songs/song-glance';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { provideDeskStore } from './store';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

/** Analyses that are there at once, in place of the worker. */
class ReadyAnalyst {
  private readonly treating = TestBed.inject(Treating);
  private readonly known = new WeakMap<readonly Note[], Analysis>();
  readonly progress = signal(null);
  readonly problem = signal(null);
  readonly complete = signal(true);
  readonly analysis = computed((): Analysis | null => {
    const p = this.treating.part();
    return p ? this.ofPart(p) : null;
  });
  ofPart(p: Part): Analysis | null {
    const s = this.treating.song();
    const own = p.id === this.treating.part()?.id ? this.treating.subjectNotes() : null;
    const notes = own ?? p.notes;
    if (s && !this.known.has(notes)) this.known.set(notes, analysePart({ ...p, notes }, s));
    return this.known.get(notes) ?? null;
  }
}

const text = (f: ComponentFixture<unknown>) =>
  (f.nativeElement as HTMLElement).textContent?.replace(/\s+/g, ' ').trim() ?? '';
const now = () => TestBed.inject(Treating).song() as Song;

function open(s: Song): Store {
  TestBed.configureTestingModule({
    providers: [
      provideDeskStore(),
      ChosenParts,
      Treating,
      Turns,
      LongSteps,
      Selecting,
      Lifter,
      Leans,
      { provide: Analyst, useClass: ReadyAnalyst },
    ],
  });
  const store = TestBed.inject(Store);
  store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(s) }));
  return store;
}
async function shown<T>(type: new (...args: never[]) => T): Promise<ComponentFixture<T>> {
  const fixture = TestBed.createComponent(type as new () => T);
  await fixture.whenStable();
  return fixture;
}
async function press(f: ComponentFixture<unknown>, name: string | RegExp): Promise<void> {
  const button = [...(f.nativeElement as HTMLElement).querySelectorAll('button')].find((b) =>
    typeof name === 'string' ? b.textContent?.trim() === name : name.test(b.textContent ?? ''),
  );
  if (!button) throw new Error(`There is no button ${name}`);
  button.click();
  await f.whenStable();
}

describe('sentences say all that a stage does', () => {
  const notes = [note(0, 260), note(1, 500, { pitch: 62 })];

  it.each<[Stages, RegExp]>([
    [{ humanize: { on: true, start: 6, length: 0, velocity: 0 } }, /^Humanize starts by up to 6 ms \(seed 1\)$/],
    [
      { humanize: { on: true, start: 6, startLean: 'early', length: 20, velocity: 12 } },
      /^Humanize starts by up to 6 ms, all early, lengths by up to 20 %, velocities by up to 12 % \(seed 1\)$/,
    ],
    [{ humanize: { on: true, start: 0, length: 0, velocity: 30 } }, /^Humanize velocities by up to 30 % \(seed 1\)$/],
    [{ humanize: { on: true, start: 0, length: 0, velocity: 0 } }, /^Humanize nothing \(seed 1\)$/],
  ])('humanize: %j', async (stages, expected) => {
    open(song(notes, stages));
    expect(text(await shown(HumanizeStage))).toMatch(expected);
  });

  it.each<[Stages, string]>([
    [{}, 'Keep lengths'],
    [{ lengths: { on: true, keep: 'end' } }, 'Keep lengths but leave ends where they were played'],
    [
      { lengths: { on: true, keep: 'end', mode: 'steps' } },
      'Make lengths whole steps, 100 % of the way; starts leave ends where they were played',
    ],
    [
      { lengths: { on: true, mode: 'legato', gap: { value: 20, unit: 'ms' } } },
      'Hold notes until the next chord, 100 % of the way, less 20 ms',
    ],
  ])('lengths: %j', async (stages, expected) => {
    open(song(notes, stages));
    expect(text(await shown(LengthsStage))).toBe(expected);
  });

  it('a groove is named, with how much of it is used', async () => {
    const { groove } = BUILT_IN_GROOVES[2];
    open(song(notes, { quantize: { on: true, groove: { groove, timing: 0.5, velocity: 0.4 } } }));
    const sentence = text(await shown(QuantizeStage));
    expect(sentence).toContain(`the lines of ${groove.name} (sixteenths, 50 % of its timing)`);
    expect(sentence).toContain('Take 40 % of its loudness.');
    expect(sentence).not.toContain('1/16');
  });

  it('a part with a groove and one without get a changed share each by itself', async () => {
    const { groove } = BUILT_IN_GROOVES[2];
    open(song(notes, { quantize: { on: true, groove: { groove, timing: 1, velocity: 1 } } }));
    const stage = await shown(QuantizeStage);
    await press(stage, groove.name);
    const slider = [...(stage.nativeElement as HTMLElement).querySelectorAll<HTMLInputElement>('.field')].find((f) =>
      f.getAttribute('aria-label')?.startsWith('Loudness'),
    );
    if (slider) {
      slider.value = '25 %';
      slider.dispatchEvent(new Event('change'));
    }
    expect(part(now()).treatment.quantize.groove?.velocity).toBe(0.25);
  });
});

describe('what fits', () => {
  const sixteenths = (late: number): Note[] =>
    Array.from({ length: 64 }, (_, i) => note(i, 3840 + i * 240 + late + ((i * 7) % 5), { pitch: 50 + (i % 9) }));

  it('takes what it shows, and the groove goes', async () => {
    const { groove } = BUILT_IN_GROOVES[2];
    open(song(sixteenths(0), { quantize: { groove: { groove, timing: 1, velocity: 1 } } }));
    await press(await shown(FitsPanel), /^\s*1\/16\b/);
    expect(part(now()).treatment.quantize).toMatchObject({ on: true, groove: null, grid: { value: 16, swing: 0.5 } });
  });

  it('with own settings open is for their notes, says so, and does that', async () => {
    const own = { kind: 'own', set: 'own1' } as const;
    const base = song(sixteenths(0).map((n, i) => (i < 20 ? { ...n, start: n.start + 30, exception: own } : n)));
    const [track] = base.tracks;
    const sets = [{ id: 'own1', name: 'own settings', treatment: part(base).treatment }];
    const store = open({ ...base, tracks: [{ ...track, parts: [{ ...part(base), sets }] }] });
    store.dispatch(DeskActions.selectSet({ setId: 'own1' }));
    const panel = await shown(FitsPanel);
    expect(text(panel)).toContain('What fits these 20 notes');
    expect(text(panel)).toMatch(/1\d ms late throughout, of these notes\./);
    await press(panel, 'Remove');
    const [set] = part(now()).sets;
    expect(set.treatment.lag.on).toBe(true);
    expect(set.treatment.lag.amount.value).toBeGreaterThan(14);
    expect(part(now()).treatment.lag.on).toBe(false);
  });

  it('offers another reading where the lag is not sure; its lag and its grid are applied together', async () => {
    // Every sixteenth of a fast song, between two lines: a line further the same notes are there.
    const between = Array.from({ length: 240 }, (_, i) => note(i, 3840 + i * 240 + 118 + ((i * 7) % 5)));
    const fast = { ...song(between), tempo: [{ tick: 0, usPerQuarter: Math.round(60e6 / 170) }] };
    const store = open(fast);
    const panel = await shown(FitsPanel);
    const told = /Could also be (\d+)\sms (early|late), on (1\/\d+)\./.exec(text(panel));
    expect(told).not.toBeNull();
    const [, ms, side, grid] = told!;
    await press(panel, 'Apply');
    const { lag, quantize } = part(now()).treatment;
    expect(lag.on).toBe(true);
    expect(Math.abs(lag.amount.value - (side === 'early' ? -1 : 1) * Number(ms))).toBeLessThan(1);
    expect(quantize.on).toBe(true);
    expect(`1/${quantize.grid.value}`).toBe(grid);
    store.dispatch(DeskActions.undo());
    expect(part(now()).treatment.lag.on).toBe(false);
  });

  it('for several parts finds each one’s own grid and lag', async () => {
    const base = song(sixteenths(40));
    const [track] = base.tracks;
    const eighths = Array.from({ length: 40 }, (_, i) => note(100 + i, 3840 + i * 480 - 30 + ((i * 7) % 5)));
    const second = { ...track, id: 't2', parts: [{ ...part(base), id: 'p2', name: 'Second', notes: eighths }] };
    const store = open({ ...base, tracks: [track, second] });
    store.dispatch(DeskActions.toggleTrack({ trackId: 't2' }));
    const panel = await shown(FitsPanel);
    expect(text(panel)).toContain('What fits each of 2 parts');
    await press(panel, 'Remove the lag of each');
    await press(panel, 'Apply the best fit to each');
    const parts = now().tracks.map((t) => t.parts[0].treatment);
    expect(parts.map((t) => t.quantize.grid.value)).toEqual([16, 8]);
    expect(parts[0].lag.amount.value).toBeCloseTo(21.9, 0);
    expect(parts[1].lag.amount.value).toBeCloseTo(-14.6, 0);
    store.dispatch(DeskActions.undo());
    store.dispatch(DeskActions.undo());
    expect(store.selectSignal(deskFeature.selectUndoName)()).toBeNull();
  });
});

@Component({
  imports: [Resting],
  template: `<button [esResting]="show" [esRestingEnd]="back">x</button>`,
})
class Host {
  readonly log: string[] = [];
  readonly show = () => void this.log.push('shown');
  readonly back = () => void this.log.push('back');
}

describe('resting on something', () => {
  async function rig() {
    const host = TestBed.createComponent(Host);
    await host.whenStable();
    const button = (host.nativeElement as HTMLElement).querySelector('button');
    const send = (type: string, x: number, time: number, more: object = {}) => {
      const event = new MouseEvent(type, { bubbles: type !== 'pointerenter', clientX: x, clientY: 5, ...more });
      Object.defineProperties(event, { timeStamp: { value: time }, pointerType: { value: 'mouse' } });
      button?.dispatchEvent(event);
    };
    return { log: host.componentInstance.log, send, host };
  }

  it('is shown when the pointer comes by itself, and taken back when it goes', async () => {
    const { log, send } = await rig();
    send('pointerenter', 10, 1);
    send('pointermove', 10, 1);
    expect(log).toEqual(['shown']);
    send('pointermove', 14, 2);
    send('pointerleave', 40, 3);
    expect(log).toEqual(['shown', 'back']);
  });

  it('is not shown when it comes under a pointer that lies still, until that moves', async () => {
    const { log, send } = await rig();
    send('pointerenter', 10, 1);
    send('pointermove', 12, 50);
    expect(log).toEqual([]);
    send('pointermove', 20, 60);
    expect(log).toEqual(['shown']);
  });

  it('is taken back by a press, by Escape, and when it is gone itself', async () => {
    for (const end of ['click', 'destroy']) {
      TestBed.resetTestingModule();
      const { log, send, host } = await rig();
      send('pointerenter', 10, 1);
      send('pointermove', 10, 1);
      if (end === 'destroy') host.destroy();
      else send('click', 10, 2);
      expect(log).toEqual(['shown', 'back']);
    }
  });
});

describe('a track’s chip', () => {
  async function chip(s: Song): Promise<string> {
    const fixture = TestBed.createComponent(TimingChip);
    fixture.componentRef.setInput('song', s);
    fixture.componentRef.setInput('part', part(s));
    await fixture.whenStable();
    return text(fixture);
  }
  const early = Array.from({ length: 20 }, (_, i) => note(i, 3840 + i * 240 - 21 + ((i * 7) % 5)));

  it('tells the tendency, and once something is on what became of it', async () => {
    expect(await chip(song(early))).toBe('◂ 10 ms early');
    expect(await chip(song(early, { quantize: { on: true } }))).toBe('◂ 10 ms early→ , now● ±0 ms');
    expect(await chip(song(early, { push: { on: true, amount: { value: 25, unit: 'ms' } } }))).toMatch(
      /^◂ 10 early→ , now▸ 15 ms late$/,
    );
    expect(await chip(song(early, { push: { on: true, amount: { value: 5, unit: 'ms' } } }))).toBe(
      '◂ 10→ , now◂ 5 ms early',
    );
  });

  it('names the track that the part lines up with, and tells what became of it against that', async () => {
    const kit = song(Array.from({ length: 20 }, (_, i) => note(i, 3840 + i * 240))).tracks[0]!;
    const withKit = (stages: Stages) => {
      const s = song(early, { quantize: { on: false, with: { track: 'kit', as: 'played' } }, ...stages });
      return chip({ ...s, tracks: [...s.tracks, { ...kit, id: 'kit', name: 'Brush kit' }] });
    };
    expect(await withKit({})).toBe('◂ 10 ms ahead of Brush kit');
    const push = (value: number) => ({ push: { on: true, amount: { value, unit: 'ms' } } }) as const;
    expect(await withKit(push(5))).toBe('◂ 10 ahead of Brush kit→ , now◂ 5 ms ahead');
    expect(await withKit(push(25))).toBe('◂ 10 ahead of Brush kit→ , now▸ 15 ms behind');
  });

  it('tells no lag of a player whose time leaves the beat', async () => {
    const wandering = (wanderMs: number) => {
      TestBed.resetTestingModule();
      const lag = { ms: 40, interval: null, drifting: true, wanderMs, sure: true };
      TestBed.configureTestingModule({ providers: [{ provide: Analyst, useValue: { of: () => ({ lag }) } }] });
      return chip(song(early));
    };
    expect(await wandering(60)).toBe('▸ 40 ms late, wandering ±60 ms');
    expect(await wandering(5000)).toBe('○ off the bars');
  });

  it('claims nothing of notes that no treatment looks at, nor of none', async () => {
    const left = early.map((n) => ({ ...n, exception: { kind: 'as-played' } as const }));
    expect(await chip(song(left, { quantize: { on: true } }))).toBe('○ no notes treated');
    expect(await chip(song([]))).toBe('○ no notes');
  });

  it('tells no lean of what swings against straight lines', async () => {
    const swung = Array.from({ length: 20 }, (_, i) => note(i, 3840 + i * 240 + (i % 2) * 60));
    expect(await chip(song(swung))).toMatch(/^● ±\d+ ms around it$/);
  });
});

describe('a song at a glance', () => {
  it('draws a row a track, and says how many lean which way', async () => {
    const fixture = TestBed.createComponent(SongGlance);
    fixture.componentRef.setInput('tracks', [
      { name: 'Bass', density: '0190', leanMs: 18 },
      { name: 'Kit', density: '9999', leanMs: 0 },
    ]);
    await fixture.whenStable();
    const svg = (fixture.nativeElement as HTMLElement).querySelector('svg');
    expect(svg?.getAttribute('aria-label')).toBe('Tracks: 0 early, 1 late, 1 on the lines');
    const paths = [...(svg?.querySelectorAll('path') ?? [])];
    expect(paths.map((p) => p.getAttribute('class'))).toEqual(['late', 'on-line']);
    expect(paths.map((p) => p.getAttribute('d')?.match(/M/g)?.length)).toEqual([2, 4]);
    expect(paths[0].textContent).toBe('Bass, 18 ms late');
  });
});
