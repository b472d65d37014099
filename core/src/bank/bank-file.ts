import { BasicSoundBank, SoundBankLoader, type BasicPreset } from 'spessasynth_core';
import { isWhole } from './structure';

/** What is wrong with a file of sounds. */
export type BankFault = 'too-large' | 'not-a-bank' | 'damaged' | 'empty';

export class BankError extends Error {
  constructor(
    readonly code: BankFault,
    options?: ErrorOptions,
  ) {
    super(`bank: ${code}`, options);
    this.name = 'BankError';
  }
}

/** Larger files are not read, in bytes. */
export const MOST_BANK_BYTES = 1 << 29;

/** A sound of a General MIDI bank: a program, or a drum kit. */
export interface BankSound {
  readonly program: number;
  readonly drums: boolean;
  readonly name: string;
}

/**
 * A bank of sounds in the SoundFont format, version 2 (SF2, SoundFont Technical Specification 2.04, Creative Technology
 * 2006) or with compressed samples (SF3). Single sounds are taken out of it, so that what plays has to read no more than
 * what it plays.
 */
export class BankFile {
  private constructor(private readonly bank: BasicSoundBank) {}

  /** @throws BankError */
  static async read(bytes: Uint8Array): Promise<BankFile> {
    if (bytes.length > MOST_BANK_BYTES) throw new BankError('too-large');
    const letters = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
    if (letters(0) !== 'RIFF' || letters(8) !== 'sfbk') throw new BankError('not-a-bank');
    // A file that was cut off would be read as far as it goes.
    const told = new DataView(bytes.buffer, bytes.byteOffset).getUint32(4, true);
    if (told + 8 > bytes.length || !isWhole(bytes)) throw new BankError('damaged');
    await BasicSoundBank.isSF3DecoderReady;
    let bank: BasicSoundBank;
    try {
      bank = SoundBankLoader.fromArrayBuffer(bytes.slice().buffer);
    } catch (cause) {
      throw new BankError('damaged', { cause });
    }
    if (bank.presets.length === 0) throw new BankError('empty');
    return new BankFile(bank);
  }

  /** What a General MIDI player can ask for, by number. */
  sounds(): BankSound[] {
    const seen = new Set<string>();
    return this.bank.presets
      .map((p) => ({ program: p.program, drums: isKit(p), name: p.name, plain: p.bankMSB === 0 && p.bankLSB === 0 }))
      .filter((s) => s.drums || s.plain)
      .sort((a, b) => Number(a.drums) - Number(b.drums) || a.program - b.program)
      .filter(({ drums, program }) => !seen.has(`${drums}${program}`) && seen.add(`${drums}${program}`))
      .map(({ program, drums, name }) => ({ program, drums, name }));
  }

  /**
   * One sound as a bank of its own with plain samples, which is read in a moment; null where there is none. Where the
   * kit of a number is missing the first one stands in.
   * @throws BankError where its samples cannot be decoded
   */
  async extract(program: number, drums: boolean): Promise<ArrayBuffer | null> {
    const preset = this.find(program, drums);
    if (!preset) return null;
    try {
      const own = new BasicSoundBank('sf2');
      own.addCompletePresets([preset]);
      await own.setSampleFormat({ format: 'pcm' });
      return own.writeSF2();
    } catch (cause) {
      throw new BankError('damaged', { cause });
    }
  }

  private find(program: number, drums: boolean): BasicPreset | undefined {
    const all = this.bank.presets.filter((p) => isKit(p) === drums && (drums || (p.bankMSB === 0 && p.bankLSB === 0)));
    const first = drums ? all.toSorted((a, b) => a.program - b.program)[0] : undefined;
    return all.find((p) => p.program === program) ?? first;
  }
}

function isKit(preset: BasicPreset): boolean {
  return preset.isGMGSDrum || preset.isDrum;
}
