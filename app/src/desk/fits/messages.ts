import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import * as z from 'zod';
import { changeNotes } from '@early-sparrow/core/edit';
import { formatGrid, stepTicks, type Grid } from '@early-sparrow/core/grid';
import { isTreated } from '@early-sparrow/core/remedy';
import { leavesBeat, noteBeforePart, type Fit } from '@early-sparrow/core/insight';
import { inBlocks } from '@early-sparrow/core/maths';
import { meterOf, zoneFaults, type Note } from '@early-sparrow/core/song';
import { mergedChords, reportPart, treatPart, type TreatedGroup } from '@early-sparrow/core/treatment';
import { countedFirst } from '../../common/format';
import { kept } from '../../common/kept';
import { minLength } from '../../common/notes';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import { Analyst } from './analyst';
import { openStrip, REMEDY } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { Leans } from './leans';
import { Selecting } from '../hand/selecting';
import { TempoFitting } from '../tempo/tempo-fitting';
import { Treating } from '../hand/treating';

interface Message {
  readonly key: string;
  readonly text: string;
  /** Notes that it is about, by id. */
  readonly ids: readonly number[];
  /** The way out, in words, and what it does. */
  readonly way: string | null;
  readonly act: (() => void) | null;
}

/** The offer to put the song right. */
const OFFER = 'untouched';

/** Other lines are pointed to where they explain the playing in so many bits less. */
const MUCH_BITS = 40;

/** A thin strip that warns of the known mistakes, shows the notes and offers the way out. */
@Component({
  selector: 'es-messages',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (message(); as m) {
      <p role="status">
        <span>{{ m.text }}</span>
        @if (m.ids.length > 0) {
          <button class="word" (click)="selecting.select(m.ids)">Show</button>
        }
        @if (m.way) {
          <button class="word act" (click)="act(m)">{{ m.way }}</button>
        }
        @if (rest() > 0) {
          <span class="soft">{{ rest() === 1 ? 'one more' : rest() + ' more' }}</span>
        }
        <button class="word" (click)="dismiss(m.key)">Hide</button>
      </p>
    } @else {
      <p class="none soft">{{ analyst.complete() ? 'No warnings' : '' }}</p>
    }
  `,
  styles: `
    /* A strip of its own under the head: it covers no notes. */
    :host {
      display: block;
      min-width: 0;
    }
    p {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 2px 8px;
      margin: 0;
      padding: 2px 8px 2px 12px;
      border-bottom: 1px solid var(--line);
      border-left: 3px solid var(--action);
      background: var(--raised);
      font-size: 14px;
    }
    span:first-child {
      min-width: 0;
    }
    /* Its place is kept: what comes and goes would move the desk under the pointer. A low window has no room for that. */
    .none {
      border-left-color: transparent;
      background: none;
    }
    p {
      min-height: 33px;
    }
    @media (max-height: 699px) {
      .none {
        display: none;
      }
    }
    .act {
      color: var(--action);
      font-weight: 600;
    }
    .soft {
      color: var(--soft);
    }
  `,
})
export class Messages {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly treating = inject(Treating);
  protected readonly analyst = inject(Analyst);
  private readonly leans = inject(Leans);
  private readonly fitting = inject(TempoFitting);
  private readonly songId = this.store.selectSignal(deskFeature.selectSongId);
  protected readonly selecting = inject(Selecting);
  private readonly hidden = signal<readonly string[]>([]);
  private readonly panels = inject(Panels);
  private readonly undoable = this.store.selectSignal(deskFeature.selectUndoName);
  /** Whoever has hidden the offer to put the song right once knows where it is. */
  private readonly offered = kept('no-remedy-offer', z.boolean(), false);

  /** What the messages are about. */
  private readonly of = computed(() => this.treating.rested() ?? { song: null, part: null });

  /** Each is found anew only where what it depends on has changed: several look at all notes. */
  private readonly each = [
    // As long as the desk is where it opened, the song comes first; then what is wrong with the track that was chosen.
    () => (this.isFirstTrack() ? this.untouched() : null),
    () => this.before(),
    () => (this.isFirstTrack() ? null : this.untouched()),
    () => this.songLean(),
    // Wrong lines come before what comes of them.
    () => this.running(),
    () => this.merges(),
    () => this.doubles(),
    () => this.fits(),
    () => this.held(),
    () => this.short(),
    () => this.zones(),
  ].map((find) => computed(find));

  private readonly all = computed(() =>
    this.each.map((find) => find()).filter((m): m is Message => m !== null && !this.hidden().includes(m.key)),
  );
  protected readonly message = computed(() => this.all()[0] ?? null);
  protected readonly rest = computed(() => this.all().length - 1);

  /** A message goes with what it asked for: the focus goes to the notes first. */
  protected act(message: Message): void {
    focusNotes();
    message.act?.();
  }

  protected dismiss(key: string): void {
    focusNotes();
    if (key === OFFER) this.offered.set(true);
    this.hidden.update((keys) => [...keys, key]);
  }

  private isFirstTrack(): boolean {
    const first = this.treating.song()?.tracks.find((t) => t.parts.length > 0);
    return first !== undefined && first.id === this.treating.track()?.id;
  }

  /** A song of several tracks that nobody has touched yet: the first thing that a newcomer is offered, until it is hidden once. */
  private untouched(): Message | null {
    const song = this.treating.song();
    if (!song || this.offered() || this.undoable() !== null) return null;
    const tracks = song.tracks.filter((t) => t.parts.some((p) => p.notes.length > 0));
    if (tracks.length < 2 || tracks.some(isTreated)) return null;
    return {
      key: OFFER,
      text: `${countedFirst(tracks.length, 'track')}, none corrected yet. See what each one needs, and hear it before you decide.`,
      ids: [],
      way: 'Put the song right',
      act: () => openStrip(this.panels, REMEDY),
    };
  }

  /** Most tracks lie beside the bars alike: the song does, and one step mends it. */
  private songLean(): Message | null {
    const lean = this.leans.song();
    if (!lean) return null;
    const ms = Math.round(Math.abs(lean.ms));
    return {
      key: `song-lean.${this.songId()}`,
      text: `Most tracks lie ${ms} ms ${lean.ms < 0 ? 'ahead of' : 'behind'} the bars, so the whole song does.`,
      ids: [],
      way: 'Remove it from all tracks',
      act: () => {
        const edit = this.leans.songEdit();
        if (edit) this.changes.make(edit, 'message');
      },
    };
  }

  /** The first chord of a take, a hair before its part, would be cut off there. */
  private before(): Message | null {
    const { part, song } = this.of();
    const found = part && song ? noteBeforePart(part, song) : null;
    if (!part || !song || !found) return null;
    const { start, groups } = treatPart(part, song);
    if (start[0] >= part.start) return null;
    const chord = firstChord(groups);
    const earliest = Math.min(...chord.map((i) => start[i]));
    const notes = chord.map((i) => part.notes[i]);
    const pinned = notes.map((n, k): Note => {
      const at = part.start + start[chord[k]] - earliest;
      return { ...n, exception: { kind: 'pinned', start: at, length: n.length, velocity: n.velocity } };
    });
    const what = notes.length === 1 ? 'First note' : `First chord, of ${notes.length} notes,`;
    const name = `Move the first ${notes.length === 1 ? 'note' : 'chord'} into ${part.name}`;
    return {
      key: `before.${part.id}`,
      text: `${what} ${found.ms.toFixed(0)} ms before its bar. A loop in another program would cut it off.`,
      ids: notes.map((n) => n.id),
      way: 'Move it to the bar',
      act: () => void this.changes.make(changeNotes(name, part, pinned), 'message'),
    };
  }

  /** Messages by which a controller says which channels have a note each, and which contradict each other. */
  private zones(): Message | null {
    const { part, song } = this.of();
    const track = this.treating.track();
    if (!part || !song || !track) return null;
    const faults = zoneFaults(part, track.setup);
    if (faults.length === 0) return null;
    const text = faults.map((fault) => {
      if (fault.kind === 'too-many') {
        return `A zone message asks for ${fault.members} member channels. A zone has at most 15, and gets 15.`;
      }
      if (fault.kind === 'overlap') {
        return `Two zones want the same channels. The newer one has them: ${fault.lower} in the lower zone, ${fault.upper} in the upper.`;
      }
      const { bar } = meterOf(song).toBarBeat(fault.tick);
      return `The zones change in bar ${bar}, in the middle of the take. The last ones count for all of it.`;
    });
    return { key: `zones.${part.id}`, text: text[text.length - 1], ids: [], way: null, act: null };
  }

  private merges(): Message | null {
    const { part, song } = this.of();
    if (!part?.on || !song) return null;
    const { groups } = treatPart(part, song);
    const group = groups.find((g) => g.set === (this.treating.set()?.id ?? null));
    if (!group?.treatment.quantize.on) return null;
    const merged = mergedChords(group);
    if (merged.length === 0) return null;
    const ids = merged.map(
      (c) => part.notes[group.members ? group.members[group.chords.first[c]] : group.chords.first[c]].id,
    );
    const { grid, groove } = group.treatment.quantize;
    const lines = groove ? groove.groove.name : formatGrid(grid);
    const better = this.analyst.analysis()?.fits.find((f) => f.merges < merged.length && f.text !== lines);
    const verb = merged.length === 1 ? 'merges' : 'merge';
    return {
      key: `merge.${part.id}.${lines}`,
      text: `${countedFirst(merged.length, 'chord')} ${verb} with the one before on ${lines}${lines.endsWith('.') ? '' : '.'}`,
      ids,
      way: better ? `Try ${better.text}` : null,
      act: better ? () => this.quantizeTo(better) : null,
    };
  }

  private doubles(): Message | null {
    const { part, song } = this.of();
    if (!song || !part?.on || part.treatment.settle.dropDoubles) return null;
    const { doubles } = reportPart(part, song);
    if (doubles === 0) return null;
    return {
      key: `double.${part.id}`,
      text: `${countedFirst(doubles, 'note')} would start together with a louder one of the same pitch.`,
      ids: [],
      way: 'Mute the softer',
      act: () => this.treating.commitPart('Mute the softer doubles', { settle: { dropDoubles: true } }),
    };
  }

  /** Triplets under a straight grid, or any grid that fits much worse than another. */
  private fits(): Message | null {
    const analysis = this.analyst.analysis();
    const song = this.treating.song();
    const t = this.treating.ownTreatment();
    if (!analysis?.sure || !song || !t?.quantize.on || t.quantize.groove) return null;
    const { grid } = t.quantize;
    const own = analysis.fits.find((f) => f.text === formatGrid(grid));
    const best = analysis.fits[0];
    const sameKind = best.grid.value === grid.value && JSON.stringify(best.grid.shape) === JSON.stringify(grid.shape);
    const sameMix = JSON.stringify(best.grid.mix) === JSON.stringify(grid.mix);
    if ((sameKind && sameMix) || (own && (best.bits - own.bits) * analysis.chords < MUCH_BITS)) return null;
    const hasTriplets = (g: Grid) => typeof g.shape !== 'string' || typeof (g.mix?.shape ?? '') !== 'string';
    const triplet = hasTriplets(best.grid) && !hasTriplets(grid);
    const finer = stepTicks(grid, song.ppq) < stepTicks(best.grid, song.ppq) && (own?.merges ?? 0) === 0;
    const why = triplet
      ? 'The playing has triplets'
      : finer
        ? `The lines of ${formatGrid(grid)} are finer than the playing`
        : 'Other lines fit better';
    return {
      key: `fit.${formatGrid(grid)}`,
      text: `${why}: ${best.text} leaves a typical miss of ${best.missMs.toFixed(1)} ms.`,
      ids: [],
      way: `Try ${best.text}`,
      act: () => this.quantizeTo(best),
    };
  }

  /** Notes that a push, a lag or a groove would put before the song. */
  private held(): Message | null {
    const { part, song } = this.of();
    if (!part?.on || !song) return null;
    const { held } = reportPart(part, song);
    if (held < 2) return null;
    const { start } = treatPart(part, song);
    return {
      key: `held.${part.id}`,
      text: `${held} notes would start before the song. They are held at its start, closer together than they were.`,
      ids: part.notes.filter((_, i) => start[i] === 0).map((n) => n.id),
      way: null,
      act: null,
    };
  }

  private short(): Message | null {
    const { part, song } = this.of();
    if (!part?.on || !song) return null;
    const { start, end, columns } = treatPart(part, song);
    const limit = minLength(song.ppq);
    const ids: number[] = [];
    inBlocks(columns.count, (from, to) => {
      for (let i = from; i < to; i++) {
        const played = columns.end[i] - columns.start[i];
        if (end[i] - start[i] < Math.min(limit, played / 2)) ids.push(part.notes[i].id);
      }
    });
    if (ids.length === 0) return null;
    return {
      key: `short.${part.id}`,
      text: `${countedFirst(ids.length, 'note')} ${ids.length === 1 ? 'becomes' : 'become'} very short.`,
      ids,
      way: part.treatment.lengths.on ? 'Keep lengths' : null,
      act: part.treatment.lengths.on
        ? () => this.treating.commitPart('Keep lengths', { lengths: { on: false } })
        : null,
    };
  }

  /** Offsets that run away mean a tempo that does not fit, or a player who drifts. */
  private running(): Message | null {
    const analysis = this.analyst.analysis();
    const t = this.treating.ownTreatment();
    const { part, song } = this.of();
    if (!analysis?.lag?.drifting || !part || !song) return null;
    if (leavesBeat(analysis.lag, part, song)) {
      return {
        key: `tempo.${part.id}`,
        text: 'This was not played to the song’s tempo: it drifts off the bars by more than a beat.',
        ids: [],
        way: 'Fit the tempo',
        act: () => this.fitting.start(),
      };
    }
    if (!t?.quantize.on || t.quantize.lines === 'follow') return null;
    return {
      key: 'drift',
      text: 'The player drifts against the bars, so the nearest lines may be the wrong ones.',
      ids: [],
      way: 'Follow the player',
      act: () => this.treating.commit('Follow the player', { quantize: { lines: 'follow' } }),
    };
  }

  private quantizeTo(fit: Fit): void {
    const { restart: _restart, shift: _shift, ...grid } = fit.grid;
    this.treating.commit(`Quantize to ${fit.text}`, { quantize: { groove: null, grid } });
  }
}

/** Indices of the notes of a part's first chord. */
function firstChord(groups: readonly TreatedGroup[]): number[] {
  const first = groups
    .filter((g) => g.chords.count > 0)
    .map(({ chords, members }) =>
      Array.from({ length: chords.first[1] - chords.first[0] }, (_, i) => (members ? members[i] : i)),
    )
    .sort((a, b) => a[0] - b[0]);
  return first[0]?.includes(0) ? first[0] : [0];
}

function focusNotes(): void {
  document.querySelector<HTMLElement>('es-timing-view .canvas')?.focus();
}
