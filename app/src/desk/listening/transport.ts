import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { meterOf, tempoOf } from '@early-sparrow/core/song';
import { minutes } from '../../common/format';
import { Icon } from '../../common/icon';
import { Said } from '../../common/said';
import { Player } from '../../sound/player';
import { deskFeature } from '../../state/desk.feature';
import { TempoFitting } from '../tempo/tempo-fitting';
import { Looping } from './looping';

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
    <span class="place number" aria-label="Bar, beat, sixteenth">{{ place().text }}</span>
    <span class="number soft">{{ place().clock }}</span>
    <span class="rule"></span>
    <button class="word wide" title="Fit the tempo to the playing (F)" (click)="fitting.start()">
      <span class="number">{{ place().tempo }}</span>
    </button>
    <span class="number wide">{{ place().meter }}</span>
    <span class="rule wide"></span>
    <button
      class="word"
      [attr.aria-pressed]="player.loopOn()"
      title="On or off (L). Drag in the strip over the bars to choose the range"
      (click)="looping.toggle()"
    >
      Loop <span class="number">{{ looping.text() }}</span>
    </button>
    <button class="word" [attr.aria-pressed]="player.clickOn()" (click)="player.clickOn.set(!player.clickOn())">
      Click
    </button>
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
    .said {
      flex: 1;
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      color: var(--action);
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
        gap: 6px;
        padding: 0 8px;
        flex-wrap: wrap;
        height: auto;
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
      .said:empty {
        display: none;
      }
      .said {
        flex-basis: 100%;
      }
    }
  `,
})
export class Transport {
  private readonly store = inject(Store);
  protected readonly player = inject(Player);
  protected readonly looping = inject(Looping);
  protected readonly said = inject(Said);
  protected readonly fitting = inject(TempoFitting);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);

  protected readonly place = computed(() => {
    const song = this.song();
    const tick = this.player.position();
    if (!song) return { text: '', clock: '', tempo: '', meter: '' };
    const meter = meterOf(song);
    const tempo = tempoOf(song);
    const { bar, beat, tick: rest } = meter.toBarBeat(tick);
    const piece = meter.pieceAt(tick);
    const seconds = tempo.toMs(tick) / 1000;
    return {
      text: `${bar}.${beat}.${Math.floor((rest * 4) / song.ppq) + 1}`,
      clock: `${minutes(seconds)}.${String(Math.floor((seconds * 100) % 100)).padStart(2, '0')}`,
      tempo: `${tempo.bpmAt(tick).toFixed(1)} BPM`,
      meter: `${piece.numerator}/${piece.denominator}`,
    };
  });

  protected readonly loudness = computed(() => Math.round(Math.max(-60, Math.min(0, this.player.level()))));
}
