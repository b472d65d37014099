import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Notices } from '../src/common/notices';
import { fileSave } from 'browser-fs-access';
import type { BeatFit } from '@early-sparrow/core/beats';
import { readSmf } from '@early-sparrow/core/smf';
import { TICKS } from '@early-sparrow/core/sound';
import { tempoOf, type Note, type Song } from '@early-sparrow/core/song';
import { note, part, song } from '../../core/test/build';
import { Said } from '../src/common/said';
import { Exporter } from '../src/desk/files/exporter';
import { Looping } from '../src/desk/listening/looping';
import { WavExport, type WavWishes } from '../src/desk/listening/wav-export';
import { Calibrator } from '../src/desk/recording/calibrator';
import { Taking } from '../src/desk/recording/taking';
import { TempoFitting } from '../src/desk/tempo/tempo-fitting';
import { Inputs } from '../src/input/inputs';
import type { Heard } from '../src/input/source';
import { Player } from '../src/sound/player';
import { Changes } from '../src/state/changes';
import { DeskActions } from '../src/state/desk.feature';
import { now, open } from './desk-rig';

jest.mock('browser-fs-access', () => ({ fileSave: jest.fn() }));

/** At 120 BPM. */
const atTempo = (notes: Note[]): Song => ({ ...song(notes), tempo: [{ tick: 0, usPerQuarter: 500_000 }] });

const saved = jest.mocked(fileSave);
const files = (): { name: string; blob: Blob }[] =>
  saved.mock.calls.map(([blob, options]) => ({
    name: (Array.isArray(options) ? options[0] : options)?.fileName ?? '',
    blob: blob as Blob,
  }));
const said: string[] = [];

beforeEach(() => {
  saved.mockReset();
  said.length = 0;
});
afterEach(() => jest.useRealTimers());

describe('beats that were found', () => {
  it('are the click for as long as they are looked at: each reading is heard before it is applied', () => {
    open(atTempo([note(0, 0)]));
    const fitting = TestBed.inject(TempoFitting);
    const player = TestBed.inject(Player);
    const fit = { beats: Float64Array.of(20, 620, 1220, 1820, 2420), downbeat: 1, perBar: 3 } as unknown as BeatFit;
    const heard = () => {
      TestBed.tick();
      const beats = player.beats();
      return beats && [...beats.at].map((ms, i) => [ms, TICKS[beats.kind[i]]]);
    };
    expect(heard()).toBeNull();
    fitting.open.set(true);
    fitting.fit.set(fit);
    expect(heard()).toEqual([
      [20, 'beat'],
      [620, 'bar'],
      [1220, 'beat'],
      [1820, 'beat'],
      [2420, 'bar'],
    ]);
    fitting.fit.set({ ...fit, beats: Float64Array.of(20, 1220), downbeat: 0, perBar: 2 });
    expect(heard()).toEqual([
      [20, 'bar'],
      [1220, 'beat'],
    ]);
    fitting.heard.set(false);
    expect(heard()).toBeNull();
    fitting.heard.set(true);
    fitting.close();
    expect(heard()).toBeNull();
  });

  it('are tapped to what was heard when the key was pressed, however late the page hears of it', () => {
    open(atTempo([note(0, 0)]));
    const fitting = TestBed.inject(TempoFitting);
    const player = TestBed.inject(Player);
    player.playing.set(true);
    jest.spyOn(player, 'heardAt').mockImplementation((at) => ({ ms: at - 250, round: 0 }));
    player.position.set(9999);
    for (const at of [1250, 1850, 2450]) fitting.tap(at);
    expect(fitting.taps()).toEqual([1000, 1600, 2200]);
  });
});

describe('a MIDI file from the desk', () => {
  function exporter(s: Song): Exporter {
    open(s);
    jest.spyOn(TestBed.inject(Notices), 'open').mockImplementation(async (text) => {
      said.push(text);
      return undefined as never;
    });
    return TestBed.inject(Exporter);
  }
  const late = { ...song([note(0, 260), note(1, 500)], { quantize: { on: true } }), name: 'Act 1/2: the "ferry"?' };

  it('is named by the song and its side, as a file system takes it, and holds that side', async () => {
    const files_ = exporter(late);
    await files_.midi('corrected');
    await files_.midi('played');
    expect(files().map((f) => f.name)).toEqual([
      'Act 1-2- the -ferry-- (corrected).mid',
      'Act 1-2- the -ferry-- (as played).mid',
    ]);
    const starts = await Promise.all(
      files().map(async ({ blob }) => {
        const { song: read } = readSmf(new Uint8Array(await blob.arrayBuffer()), 'x');
        return read.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes.map((n) => n.start)));
      }),
    );
    expect(starts).toEqual([
      [240, 480],
      [260, 500],
    ]);
  });

  it('that is not written is told, unless the user closed the file window', async () => {
    const files_ = exporter(late);
    saved.mockRejectedValueOnce(new DOMException('closed', 'AbortError'));
    await files_.midi('corrected');
    expect(said).toEqual([]);
    saved.mockRejectedValueOnce(new DOMException('read only', 'NotAllowedError'));
    await files_.midi('corrected');
    expect(said).toEqual([expect.stringMatching(/could not be written\. The browser was not allowed to write there/)]);
  });
});

describe('a WAV file from the desk', () => {
  const wishes: WavWishes = { what: 'song', side: 'corrected', bits: 16, rate: 48_000, click: false };

  it('is not begun without a loop, nor beyond an hour, and says so', async () => {
    open(atTempo([note(0, 0)]));
    const wav = TestBed.inject(WavExport);
    const text = TestBed.inject(Said).text;
    await wav.write({ ...wishes, what: 'loop' });
    expect(text()).toMatch(/no loop to export/);
    TestBed.inject(Player).loop.set({ from: 0, to: 960 * 2 * 3601 });
    await wav.write({ ...wishes, what: 'loop' });
    expect(text()).toMatch(/longer than an hour/);
    expect(wav.progress()).toBeNull();
    expect(saved).not.toHaveBeenCalled();
  });
});

describe('the loop', () => {
  it('and the playhead stay where they sound when the tempo is fitted to the playing, and come back with undo', () => {
    const store = open(atTempo([note(0, 0), note(1, 960)]));
    TestBed.inject(Looping);
    TestBed.tick();
    const player = TestBed.inject(Player);
    player.loop.set({ from: 960, to: 1920 });
    player.position.set(480);
    const before = tempoOf(now());
    const seconds = [960, 1920, 480].map((t) => before.toMs(t));
    // Twice as fast: every note lies at twice the tick, and sounds when it did.
    const tempo = now().tempo.map((t) => ({ ...t, usPerQuarter: t.usPerQuarter / 2 }));
    const { ppq, meter } = now();
    const edit = { kind: 'song-time', name: 'Fit', ppq, meter, under: tempo, tempo } as const;
    expect(TestBed.inject(Changes).make(edit, 'tempo')).toBeNull();
    TestBed.tick();
    expect(part(now()).notes.map((n) => n.start)).toEqual([0, 1920]);
    expect(player.loop()).toEqual({ from: 1920, to: 3840 });
    const after = tempoOf(now());
    expect([1920, 3840, player.position()].map((t) => after.toMs(t))).toEqual(seconds);
    store.dispatch(DeskActions.undo());
    TestBed.tick();
    expect(player.loop()).toEqual({ from: 960, to: 1920 });
    expect(player.position()).toBe(480);
  });

  it('stays at its bars when another tempo is set: then the song sounds otherwise', () => {
    open(atTempo([note(0, 0), note(1, 960)]));
    TestBed.inject(Looping);
    TestBed.tick();
    const player = TestBed.inject(Player);
    player.loop.set({ from: 960, to: 1920 });
    const tempo = now().tempo.map((t) => ({ ...t, usPerQuarter: t.usPerQuarter / 2 }));
    TestBed.inject(Changes).make({ kind: 'tempo', name: 'Faster', to: tempo }, 'tempo');
    TestBed.tick();
    expect(now().tempo[0].usPerQuarter).toBe(tempo[0].usPerQuarter);
    expect(player.loop()).toEqual({ from: 960, to: 1920 });
  });
});

describe('takes', () => {
  it('are stepped through to both ends and no further, each a step of undo', () => {
    const s = song([note(0, 0)]);
    const rounds = ['Take 2', 'Take 3'].map((name, i) => ({
      id: `take${i + 1}`,
      name,
      notes: [note(10 + i, 240 * (i + 1))],
      events: [],
    }));
    const tracks = s.tracks.map((t) => ({
      ...t,
      parts: t.parts.map((p) => ({ ...p, takes: { chosen: { id: 'take0', name: 'Take 1' }, others: rounds } })),
    }));
    const store = open({ ...s, tracks, nextId: 50 });
    const taking = TestBed.inject(Taking);
    const names = () => taking.rounds().map((r) => r.name);
    expect([...names()].sort()).toEqual(['Take 1', 'Take 2', 'Take 3']);
    const first = part(now()).notes;
    for (let i = 0; i < 5; i++) taking.step(-1);
    const top = taking.chosen();
    taking.step(-1);
    expect(taking.chosen()).toBe(top);
    for (let i = 0; i < 5; i++) taking.step(1);
    expect(taking.chosen()).toBe(taking.rounds().at(-1)?.id);
    expect(taking.chosen()).not.toBe(top);
    expect(part(now()).notes).toEqual(taking.rounds().at(-1)?.notes);
    for (let i = 0; i < 8; i++) store.dispatch(DeskActions.undo());
    expect(taking.chosen()).toBe('take0');
    expect(part(now()).notes).toEqual(first);
  });
});

describe('measuring the latency', () => {
  let hear: Heard;
  const inputs = {
    open: signal(false),
    chosen: signal('keys'),
    practice: () => ({ late: 0, jitter: 0, seed: 1 }),
    listen: (heard: Heard) => {
      hear = heard;
      return () => (hear = () => undefined);
    },
    setLatency: jest.fn(),
  };
  const player = {
    pause: jest.fn(),
    clicks: jest.fn(() => Promise.resolve(true)),
    clickedAt: (at: number) => at,
    stopClicks: jest.fn(),
  };
  async function begun(): Promise<Calibrator> {
    jest.useFakeTimers();
    inputs.open.set(false);
    inputs.setLatency.mockReset();
    TestBed.configureTestingModule({
      providers: [Calibrator, { provide: Inputs, useValue: inputs }, { provide: Player, useValue: player }],
    });
    const calibrator = TestBed.inject(Calibrator);
    await calibrator.start();
    return calibrator;
  }
  const tap = (ms: number) => hear([0x90, 60, 80], ms);
  /** A tap with beats of the click, so many ms late, a little to and fro. */
  const tapAlong = (from: number, to: number, late: number) => {
    for (let k = from; k < to; k++) tap(1000 + 500 * k + late + (k % 2 === 0 ? 1 : -1));
  };

  it('ends once it is sure, by itself, and is used only when asked to be', async () => {
    const calibrator = await begun();
    expect(inputs.open()).toBe(true);
    tapAlong(0, 13, 42);
    expect(calibrator.found()).toBeNull();
    expect(Math.abs((calibrator.soFar()?.latency ?? 0) - 42)).toBeLessThanOrEqual(1);
    tapAlong(13, 20, 42);
    expect(Math.abs((calibrator.found()?.latency ?? 0) - 42)).toBeLessThanOrEqual(1);
    expect(calibrator.taps()).toBeNull();
    expect(inputs.setLatency).not.toHaveBeenCalled();
    calibrator.use();
    expect(Math.abs((inputs.setLatency.mock.calls[0] as [number])[0] - 42)).toBeLessThanOrEqual(1);
  });

  it('is begun once, however often it is pressed, and not at all where it was cancelled before it sounds', async () => {
    const calibrator = await begun();
    calibrator.cancel();
    const [first, second] = [calibrator.start(), calibrator.start()];
    await Promise.all([first, second]);
    expect(inputs.open()).toBe(true);
    calibrator.cancel();
    expect(inputs.open()).toBe(false);
    const late = calibrator.start();
    calibrator.cancel();
    player.stopClicks.mockClear();
    await late;
    expect(player.stopClicks).toHaveBeenCalled();
    expect([calibrator.taps(), inputs.open()]).toEqual([null, false]);
  });

  it('gives letters back to the commands, however it ends', async () => {
    const calibrator = await begun();
    calibrator.cancel();
    expect(inputs.open()).toBe(false);
    await calibrator.start();
    expect(inputs.open()).toBe(true);
    // There are 96 beats of half a second after the first second.
    jest.advanceTimersByTime(1000 + 97 * 500);
    expect(inputs.open()).toBe(false);
    // Nobody tapped: that is told, with what to do.
    expect(TestBed.inject(Said).text()).toMatch(/^Only 0 taps landed on the beats; \d+ are needed\. Choose your input/);
    expect(calibrator.found()).toBeNull();
  });
});
