import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { meterOf, tempoOf } from '@early-sparrow/core/song';
import { counted, minutes } from '../common/format';
import { Icon } from '../common/icon';
import { placeText } from '../common/places';
import { Inputs } from '../input/inputs';
import { Said } from '../common/said';
import { Player } from '../sound/player';
import { deskFeature } from '../state/desk.feature';
import { toggleStrip, type FootStrip } from './kit/foot-strips';
import { Panels } from './kit/panels';
import { ListeningSettings } from '../sound/listening-settings';
import { Looping } from './listening/looping';
import { Narrowing } from './listening/narrowing';
import { Recorder } from './recording/recorder';

/** The foot of the desk: play, stop, where we are, loop and click. */
@Component({
  selector: 'es-transport',
  imports: [Icon],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button class="round" aria-label="Stop" title="Stop; again: back to the start" (click)="player.stop()">
      <es-icon name="stop" />
    </button>
    <button
      class="round play"
      [attr.aria-label]="player.playing() ? 'Pause' : 'Play'"
      [attr.aria-pressed]="player.playing()"
      title="Play or stop (space)"
      (click)="player.toggle()"
    >
      <es-icon [name]="player.playing() ? 'pause' : 'play'" />
    </button>
    <button
      class="round record"
      title="Record what is played in (Shift R)"
      [attr.aria-label]="recorder.recording() ? 'Stop recording' : 'Record'"
      [attr.aria-pressed]="recorder.recording()"
      (click)="recorder.toggle()"
    >
      <span></span>
    </button>
    <span class="place number" aria-label="Bar, beat, sixteenth">{{ place().text }}</span>
    <span class="number soft">{{ place().clock }}</span>
    <span class="rule"></span>
    <button
      class="word"
      title="Tempo, meter, markers and key (Shift B)"
      [attr.aria-expanded]="panels.isOpen('time')"
      (click)="toggle('time')"
    >
      <span class="number">{{ place().tempo }} {{ place().meter }}</span>
    </button>
    <span class="rule wide"></span>
    <button
      class="word"
      [attr.aria-pressed]="player.loopOn()"
      title="On or off (L). Drag in the strip above the bars to set the range"
      (click)="looping.toggle()"
    >
      Loop <span class="number">{{ looping.text() }}</span>
    </button>
    <button
      class="word"
      title="On or off (N)"
      [attr.aria-pressed]="listening.values().click"
      (click)="listening.set({ click: !listening.values().click })"
    >
      Click
    </button>
    @if (player.rate() !== 1) {
      <button class="word" aria-pressed="true" title="Half speed (J)" (click)="player.rate.set(1)">½ speed</button>
    }
    @if (narrowing.choice() !== 'all') {
      <button class="word" aria-pressed="true" title="Hear all notes again" (click)="narrowing.choice.set('all')">
        {{ narrowed() }}
      </button>
    }
    <button
      class="word"
      title="What you play, and where it goes (I)"
      [attr.aria-expanded]="panels.isOpen('input')"
      (click)="panels.toggle('input')"
    >
      Input
    </button>
    <button
      class="word"
      title="Click, voices, WAV file (M)"
      [attr.aria-expanded]="panels.isOpen('sound')"
      (click)="panels.toggle('sound')"
    >
      Sound
    </button>
    <button
      class="word"
      title="Length, time and pitch of the selected notes, tidying (Shift S)"
      [attr.aria-expanded]="panels.isOpen('shape')"
      (click)="toggle('shape')"
    >
      Shape
    </button>
    <button
      class="word"
      title="Change notes by what they are (Shift U)"
      [attr.aria-expanded]="panels.isOpen('rules')"
      (click)="toggle('rules')"
    >
      Rules
    </button>
    <button
      class="word"
      title="Cut, join, move, repeat and name the chosen parts (Shift P)"
      [attr.aria-expanded]="panels.isOpen('part')"
      (click)="toggle('part')"
    >
      Parts
    </button>
    <button
      class="word wide"
      title="The guide, step by step (F1)"
      [attr.aria-expanded]="panels.isOpen('guide')"
      (click)="toggle('guide')"
    >
      Guide
    </button>
    @if (lettersPlay()) {
      <button
        class="word"
        aria-pressed="true"
        title="Letters play notes while the computer keyboard is listened to. Click to give them back to the commands"
        (click)="inputs.open.set(false)"
      >
        Letters play notes
      </button>
    }
    @if (trouble(); as text) {
      <span class="trouble" role="status" [title]="text.why">{{ text.short }}</span>
    }
    <span class="room"></span>
    <span class="said" role="status">{{ said.text() }}</span>
    <span
      class="meter"
      role="meter"
      aria-label="Loudness"
      aria-valuemin="-60"
      aria-valuemax="0"
      [attr.aria-valuenow]="loudness()"
      ><span class="bar" [style.width.%]="((loudness() + 60) / 60) * 100"></span
    ></span>
  `,
  styles: `
    :host {
      position: relative;
      display: flex;
      align-items: center;
      gap: 12px;
      padding: 0 16px;
      border-top: 1px solid var(--line);
      white-space: nowrap;
    }
    .round {
      display: grid;
      place-items: center;
      width: 36px;
      height: 36px;
      border-radius: 50%;
      border: 1px solid var(--line);
      background: none;
      color: var(--ink);
      cursor: pointer;
    }
    .play {
      background: var(--action);
      border-color: var(--action);
      color: var(--on-action);
    }
    .record span {
      width: 14px;
      height: 14px;
      border-radius: 50%;
      background: var(--late);
    }
    .record[aria-pressed='true'] {
      border-color: var(--late);
      background: var(--late);
    }
    .record[aria-pressed='true'] span {
      border-radius: 2px;
      background: var(--paper);
    }
    .place {
      font-size: 20px;
      font-weight: 600;
      min-width: 84px;
    }
    .soft {
      color: var(--soft);
    }
    .rule {
      width: 1px;
      height: 24px;
      background: var(--line);
    }
    .room {
      flex: 1;
    }
    /* Over the foot, where a whole sentence has room; what lies under it can be pressed all the same. */
    .said:not(:empty) {
      position: absolute;
      right: 16px;
      bottom: calc(100% + 8px);
      z-index: 3;
      max-width: min(520px, calc(100vw - 32px));
      padding: 8px 16px;
      border: 1px solid var(--line);
      border-left: 3px solid var(--action);
      border-radius: 4px;
      background: var(--raised);
      color: var(--ink);
      font-size: 14px;
      line-height: 20px;
      white-space: normal;
      pointer-events: none;
    }
    .trouble {
      color: var(--late);
      font-size: 14px;
    }
    .meter {
      width: 72px;
      height: 6px;
      border-radius: 3px;
      background: var(--line);
      overflow: hidden;
    }
    .bar {
      display: block;
      height: 100%;
      background: var(--on-line);
    }
    @media (max-width: 1000px) {
      .wide {
        display: none;
      }
    }
    @media (max-width: 700px) {
      :host {
        gap: 0 4px;
        padding: 0 8px;
        flex-wrap: wrap;
        height: auto;
      }
      .word {
        padding-inline: 5px;
      }
      .place {
        min-width: 70px;
        font-size: 17px;
      }
      .soft,
      .rule,
      .meter {
        display: none;
      }
    }
  `,
})
export class Transport {
  private readonly store = inject(Store);
  protected readonly player = inject(Player);
  protected readonly looping = inject(Looping);
  protected readonly listening = inject(ListeningSettings);
  protected readonly narrowing = inject(Narrowing);
  protected readonly recorder = inject(Recorder);
  protected readonly panels = inject(Panels);
  protected readonly said = inject(Said);
  protected readonly inputs = inject(Inputs);
  protected readonly lettersPlay = computed(() => this.inputs.open() && this.inputs.chosen() === 'keys');
  private readonly song = this.store.selectSignal(deskFeature.selectSong);

  protected readonly place = computed(() => {
    const song = this.song();
    const tick = this.player.position();
    if (!song) return { text: '', clock: '', tempo: '', meter: '' };
    const meter = meterOf(song);
    const tempo = tempoOf(song);
    const piece = meter.pieceAt(tick);
    const seconds = tempo.toMs(tick) / 1000;
    return {
      // A bar is reached, not nearly reached.
      text: placeText(song, Math.floor(tick)),
      clock: `${minutes(seconds)}.${String(Math.floor((seconds * 100) % 100)).padStart(2, '0')}`,
      tempo: `${tempo.bpmAt(tick).toFixed(1)} BPM`,
      meter: `${piece.numerator}/${piece.denominator}`,
    };
  });

  /** The other notes are not heard: that must be seen. */
  protected readonly narrowed = computed(() => {
    const choice = this.narrowing.choice();
    return `${counted(this.narrowing.ids()?.size ?? 0, choice === 'exceptions' ? 'exception' : `${choice} note`)} only`;
  });

  protected readonly trouble = computed(() => {
    const { gaps, late } = this.player.trouble();
    if (gaps + late === 0) return null;
    const parts = [...(gaps > 0 ? [counted(gaps, 'gap')] : []), ...(late > 0 ? [counted(late, 'late note')] : [])];
    return {
      short: `${parts.join(', ')} in the sound`,
      why: 'The computer could not keep up. Close other programs, or mute tracks.',
    };
  });

  protected readonly loudness = computed(() => Math.round(Math.max(-60, Math.min(0, this.player.level()))));

  /** Opens a strip at the foot in place of the one that is open. */
  protected toggle(name: FootStrip): void {
    toggleStrip(this.panels, name);
  }
}
