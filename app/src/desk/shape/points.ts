import { computed, effect, inject, Injectable, signal } from '@angular/core';
import { asOne, eraseEvents, eventsOf, moveEvents, type Control, type Shaped } from '@early-sparrow/core/shape';
import type { Part, PartEvent } from '@early-sparrow/core/song';
import { treatEvents } from '@early-sparrow/core/treatment';
import { counted } from '../../common/format';
import { Said } from '../../common/said';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { Picking, type Picked } from '../kit/picking';

/** A key changes a bend by this many of its steps: one of 128. */
const BEND_STEP = 128;

/** Points of a part, with their ticks by their indices. */
interface Placed {
  readonly part: Part;
  readonly places: ReadonlyMap<number, number>;
}

interface Moved {
  readonly shaped: Shaped;
  readonly follow: () => void;
}

/** Points that are selected in one lane: they are moved, erased and thinned together. */
@Injectable()
export class Points implements Picked {
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  private readonly shaping = inject(Shaping);
  private readonly treating = inject(Treating);
  private readonly picking = inject(Picking);
  private readonly said = inject(Said);
  private readonly wanted = signal<ReadonlySet<PartEvent>>(NONE);
  /** The control that they are of. */
  private control: Control | null = null;

  /** Those that there still are. */
  readonly chosen = computed((): ReadonlySet<PartEvent> => {
    const wanted = this.wanted();
    if (wanted.size === 0) return NONE;
    const there = new Set<PartEvent>();
    for (const part of this.scenery.track().parts) {
      for (const event of part.events) if (wanted.has(event)) there.add(event);
    }
    return there;
  });

  constructor() {
    // Notes and points are never selected together: a key would have to choose.
    effect(() => {
      if (this.selecting.count() > 0) this.drop();
    });
  }

  /** @param also whether those that are selected already stay so */
  select(control: Control, events: readonly PartEvent[], also = false): void {
    const same = also && this.control !== null && JSON.stringify(this.control) === JSON.stringify(control);
    this.control = control;
    const next = new Set([...(same ? this.chosen() : []), ...events]);
    this.wanted.set(next);
    if (next.size > 0 && this.selecting.count() > 0) this.selecting.select([]);
    this.picking.now.set(next.size > 0 ? this : null);
  }

  /** Selects an event, or takes it out where it is selected already. */
  toggle(control: Control, event: PartEvent): void {
    const rest = [...this.chosen()].filter((e) => e !== event);
    if (rest.length < this.chosen().size) this.select(control, rest);
    else this.select(control, [event], true);
  }

  drop(): void {
    this.wanted.set(NONE);
    if (this.picking.now() === this) this.picking.now.set(null);
  }

  all(): void {
    const { control } = this;
    if (!control) return;
    this.select(
      control,
      this.parts().flatMap((part) => eventsOf(part, control).map((i) => part.events[i])),
    );
  }

  erase(): void {
    const points = counted(this.chosen().size, 'point');
    const erased = this.erased((part) => this.indicesIn(part));
    if (!this.shaping.make(erased, 'erase controller', {}, true)) return;
    this.drop();
    this.said.say(`Erased ${points}.`);
  }

  nudge(ticks: number, rows: number): void {
    const rise = rows * (this.control?.type === 'bend' ? BEND_STEP : 1);
    const { shaped, follow } = this.moved(this.places(), { ticks, rise });
    if (shaped && this.shaping.make(shaped, 'nudge controller', {}, true)) follow();
  }

  /** The change that erases points, by their indices in each part. */
  erased(of: (part: Part) => readonly number[]): Shaped {
    const going = this.parts().flatMap((part) => {
      const indices = of(part);
      return indices.length > 0 ? [{ part, indices }] : [];
    });
    const count = going.reduce((sum, { indices }) => sum + indices.length, 0);
    return asOne(
      `Erase ${counted(count, 'point')}`,
      going.map(({ part, indices }) => eraseEvents(part, indices)),
    );
  }

  /** The change that moves points, and what selects them where they have come to. */
  moved(moving: readonly Placed[], by: { readonly ticks: number; readonly rise: number }): Moved {
    const moved = moving.map(({ part, places }) => ({ part, ...moveEvents(part, places, by) }));
    const count = moving.reduce((sum, { places }) => sum + places.size, 0);
    const shaped = asOne(
      `Move ${counted(count, 'point')}`,
      moved.map((m) => m.shaped),
    );
    const follow = () => {
      for (const { part, shaped, events } of moved) if (shaped) this.follow(part, events);
    };
    return { shaped, follow };
  }

  /** Selected events that became others are still selected. */
  private follow(part: Part, events: readonly PartEvent[]): void {
    const before = new Set(part.events);
    this.wanted.update((wanted) => new Set([...[...wanted].filter((e) => !before.has(e)), ...events]));
  }

  /** What is selected as it is, to come back to where a gesture is taken back. */
  held(): () => void {
    const before = this.wanted();
    return () => this.wanted.set(before);
  }

  /** The parts that have selected events, with where these are. */
  places(): Placed[] {
    return this.parts().flatMap((part) => {
      const places = this.placesIn(part);
      return places.size > 0 ? [{ part, places }] : [];
    });
  }

  /** Where the selected events of a part are on the side that is shown, by their indices. Ticks. */
  private placesIn(part: Part): Map<number, number> {
    const { track, song, corrected } = this.scenery;
    const ticks = treatEvents(track().parts, song()).at(track().parts.findIndex((p) => p.id === part.id));
    return new Map(
      this.indicesIn(part).map((i) => [i, corrected() && ticks ? ticks[i] : part.events[i].tick] as const),
    );
  }

  indicesIn(part: Part): number[] {
    const chosen = this.chosen();
    return part.events.flatMap((e, i) => (chosen.has(e) ? [i] : []));
  }

  /** The track's parts without anything that is being tried. */
  private parts(): readonly Part[] {
    return this.treating.track()?.parts ?? [];
  }
}

const NONE: ReadonlySet<PartEvent> = new Set();
