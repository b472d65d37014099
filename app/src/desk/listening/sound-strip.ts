import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { fileOpen } from 'browser-fs-access';
import type { WavBits } from '@early-sparrow/core/sound';
import type { Track, TrackSound } from '@early-sparrow/core/song';
import { pitchName } from '../../common/format';
import type { Option } from '../../common/option';
import { PickOne } from '../../common/pick-one';
import { Said } from '../../common/said';
import { Bank } from '../../sound/bank';
import { ListeningSettings } from '../../sound/listening-settings';
import { Player } from '../../sound/player';
import { WebMidi } from '../../input/web-midi';
import { Outputs } from '../../output/outputs';
import { Panels } from '../kit/panels';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { Choice } from '../controls/choice';
import { soundEdit, VOICES, voiceOf, voiceValue } from '../../common/voices';
import { AudioImport } from './audio-import';
import { Narrowing, type Narrow } from './narrowing';
import { WavExport, type WavWishes } from './wav-export';

const HERE = 'here';
const SHOWN = 6;
const MESSAGES: Readonly<Record<number, string>> = {
  0x80: 'off',
  0x90: 'on',
  0xa0: 'key pressure',
  0xb0: 'controller',
  0xc0: 'program',
  0xd0: 'pressure',
  0xe0: 'bend',
  0xf2: 'song position',
  0xfa: 'start',
  0xfb: 'continue',
  0xfc: 'stop',
};
const CLOCK = 0xf8;

/** How the song is heard: click, which notes, the voice of the current track, and into a file. */
@Component({
  selector: 'es-sound-strip',
  imports: [Choice, PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './sound-strip.html',
  styleUrl: './sound-strip.scss',
})
export class SoundStrip {
  protected readonly panels = inject(Panels);
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly said = inject(Said);
  protected readonly listening = inject(ListeningSettings);
  protected readonly player = inject(Player);
  protected readonly bank = inject(Bank);
  protected readonly narrowing = inject(Narrowing);
  protected readonly wav = inject(WavExport);
  protected readonly audio = inject(AudioImport);
  protected readonly outputs = inject(Outputs);
  protected readonly midi = inject(WebMidi);
  protected readonly settings = this.listening.values;
  protected readonly track = this.store.selectSignal(deskFeature.selectShownTrack);
  private readonly realTrack = this.store.selectSignal(deskFeature.selectTrack);

  /** How a file comes to lie in the song, each with what it means. */
  protected readonly fittings = computed((): Option[] => {
    const meaning = this.audio.meaning();
    const speed = meaning ? `${(meaning.speed * 100).toFixed(1)} %` : '';
    return [
      { value: 'fit', text: `fit the song: at ${speed} of its speed` },
      { value: 'set', text: `set the song to ${meaning?.bpm.toFixed(1) ?? ''} BPM` },
      { value: 'own', text: 'its own speed' },
    ];
  });

  protected fit(fitting: string): void {
    if (fitting === 'fit' || fitting === 'set' || fitting === 'own') this.audio.setFitting(fitting);
  }

  protected readonly what = signal<WavWishes['what']>('song');
  protected readonly side = signal<WavWishes['side']>('corrected');
  protected readonly bits = signal<WavBits>(16);
  protected readonly rate = signal<WavWishes['rate']>(48_000);

  protected readonly divisions = numbers(['beats', 'halves', 'thirds', 'quarters'], 1);
  protected readonly countIns = numbers(['none', '1 bar', '2 bars'], 0);
  protected readonly narrows: readonly Option[] = [
    { value: 'all', text: 'all' },
    { value: 'selected', text: 'selected' },
    { value: 'moved', text: 'moved notes' },
    { value: 'exceptions', text: 'exceptions' },
  ];
  protected readonly whats: readonly Option[] = [
    { value: 'song', text: 'song' },
    { value: 'track', text: 'this track' },
    { value: 'loop', text: 'loop' },
  ];
  protected readonly sides: readonly Option[] = [
    { value: 'corrected', text: 'corrected' },
    { value: 'played', text: 'as played' },
    { value: 'both', text: 'both in turn' },
  ];
  protected readonly depths: readonly Option[] = [
    { value: '16', text: '16 bit' },
    { value: '24', text: '24 bit' },
  ];
  protected readonly rates: readonly Option[] = [
    { value: '44100', text: '44.1 kHz' },
    { value: '48000', text: '48 kHz' },
  ];
  protected readonly voices = VOICES;
  protected readonly voice = computed(() => voiceValue(this.track()));
  protected readonly output = computed(() => this.track()?.output ?? HERE);
  protected readonly here = HERE;
  protected readonly clocked = computed(() => this.outputs.clocked().some((d) => d.id === this.output()));
  protected readonly outs = computed((): Option[] => {
    const known = this.outputs.all().map((d) => ({ value: d.id, text: d.name }));
    const own = this.output();
    const lost = own !== HERE && !known.some((k) => k.value === own);
    return [
      { value: HERE, text: 'Sounds here' },
      ...known,
      ...(lost ? [{ value: own, text: 'A missing device' }] : []),
    ];
  });
  /** The last messages of the simulated synthesizer, the newest first. */
  protected readonly received = computed(() =>
    this.outputs.synth
      .received()
      .filter(({ bytes: [status] }) => status !== CLOCK)
      .slice(-SHOWN)
      .reverse()
      .map(({ bytes: [status, first, second], ahead }) => {
        if (status >= 0xf0) return `${MESSAGES[status] ?? 'message'} · ${ahead.toFixed(0)} ms ahead`;
        const channel = (status & 0x0f) + 1;
        const what = MESSAGES[status & 0xf0] ?? 'message';
        const data = (status & 0xe0) === 0x80 ? `${pitchName(first)} ${second}` : `${first} ${second ?? ''}`;
        return `${what} ${data} · ch ${channel} · ${ahead.toFixed(0)} ms ahead`;
      }),
  );
  protected readonly percent = computed(() => Math.round((this.bank.progress() ?? 0) * 100));
  protected readonly audioPercent = computed(() => Math.round((this.audio.progress() ?? 0) * 100));
  protected readonly wavPercent = computed(() => Math.round((this.wav.progress() ?? 0) * 100));
  protected readonly panWords = computed(() => {
    const pan = Math.round((this.track()?.pan ?? 0) * 100);
    return pan === 0 ? 'middle' : `${Math.abs(pan)} % ${pan < 0 ? 'left' : 'right'}`;
  });

  protected narrow(choice: string): void {
    this.narrowing.choice.set(choice as Narrow);
  }

  protected halfSpeed(): void {
    this.player.rate.update((rate) => (rate === 1 ? 0.5 : 1));
  }

  protected chooseVoice(value: string): void {
    const track = this.realTrack();
    if (!track) return;
    this.sound(track, `Voice of ${track.name}`, voiceOf(value));
  }

  protected chooseOutput(id: string): void {
    const track = this.realTrack();
    if (track) this.sound(track, `Output of ${track.name}`, { output: id === HERE ? null : id });
  }

  /** @param live only heard while it moves */
  protected place(pan: number, live = false): void {
    const track = this.realTrack();
    if (!track) return;
    const { id, mute, solo, level } = track;
    const edit = { kind: 'mix', name: `Pan of ${track.name}`, track: id, mute, solo, level, pan } as const;
    if (live) this.store.dispatch(DeskActions.preview({ edit }));
    else this.changes.make(edit, 'nudge pan');
  }

  protected async openBank(): Promise<void> {
    const file = await fileOpen({ description: 'Sound bank', extensions: ['.sf2', '.sf3'] }).catch(() => null);
    if (!file) return;
    const problem = await this.bank.open(file);
    this.said.say(problem ?? `${file.name} is in use.`);
  }

  protected write(): void {
    const wishes = { what: this.what(), side: this.side(), bits: this.bits(), rate: this.rate() };
    void this.wav.write({ ...wishes, click: this.settings().click });
  }

  private sound(track: Track, name: string, change: Partial<TrackSound>): void {
    this.changes.make(soundEdit(track, name, change), 'sound');
  }
}

function numbers(texts: readonly string[], first: number): Option[] {
  return texts.map((text, i) => ({ value: `${first + i}`, text }));
}
