import { inject } from '@angular/core';
import { byStep, cutNotes, erase, louder, mute, takeUp, type Taken } from '@early-sparrow/core/shape';
import { Scenery } from '../hand/scenery';
import { LANES } from '../kit/lane';
import type { Verb } from '../kit/verb';
import { Viewport } from '../kit/viewport';
import { Sweeps, type Sweeping } from './sweep';

/** A velocity goes up or down by this much. */
const VELOCITY_STEP = 8;

/** What keys do to the notes at the pointer: tapped for one, held and moved for all that are swept. */
export function shapeVerbs(): readonly Verb[] {
  const sweeps = inject(Sweeps);
  const view = inject(Viewport);
  const lanes = inject(LANES);
  const scenery = inject(Scenery);
  /** The line nearest to where a note was come by, if it runs through the note; else its middle. */
  const cutPlace = (taken: Taken, at: number): number => {
    const { start, length } = taken;
    const line = scenery.linesOf(taken.part).nearest(Math.max(0, at));
    return line > start && line < start + length ? line : start + length / 2;
  };
  const length =
    (by: 1 | -1): Sweeping['begin'] =>
    () =>
    ({ track, taken }) =>
      byStep(track, taken, scenery.linesOf, by);
  return [
    sweeps.verb(
      { id: 'erase', short: 'Erase', name: 'Erase the note at the pointer; held, all that are swept', keys: ['x'] },
      {
        done: 'erased',
        marks: true,
        begin:
          () =>
          ({ track, taken }) =>
            erase(track, taken),
      },
      // Over a lane of events its points go.
      (at) => {
        const id = view.laneAt(at.offsetY);
        const lane = lanes.find((l) => l.id === id);
        return lane?.erasing?.(at, view.frameOf(lane.id)) ?? null;
      },
    ),
    sweeps.verb(
      { id: 'mute', short: 'Mute', name: 'Mute the note at the pointer, or let it sound; held, all', keys: ['a'] },
      {
        done: 'muted or sounding again',
        // All go the way that the first one went.
        begin: ({ note }) => {
          const muted = note.muted !== true;
          return ({ track, taken }) => mute(track, taken, muted);
        },
      },
    ),
    sweeps.verb(
      { id: 'cut', short: 'Cut', name: 'Cut the note at the nearest line; held, all that are swept', keys: ['c'] },
      {
        done: 'cut',
        elsewhere: true,
        marks: true,
        begin:
          () =>
          ({ song, track, taken }, at) =>
            cutNotes(song, track, taken, (t) => [cutPlace(t, at(t))]),
      },
    ),
    sweeps.verb(
      { id: 'cut-all', name: 'Cut every note of the part at the nearest line', keys: ['Shift+c'] },
      {
        done: 'pointed at: all that sound there are cut',
        elsewhere: true,
        marks: true,
        begin:
          (first) =>
          ({ song, track }, at) => {
            const line = cutPlace(first, at(first));
            const all = takeUp(
              song,
              track,
              first.part.notes.map((n) => n.id),
              scenery.corrected() ? 'corrected' : 'played',
            );
            return cutNotes(song, track, all, () => [line]);
          },
      },
    ),
    sweeps.verb(
      { id: 'longer', short: 'Longer', name: 'Make the note at the pointer a step longer; held, all', keys: ['w'] },
      { done: 'longer', elsewhere: true, begin: length(1) },
    ),
    sweeps.verb(
      { id: 'shorter', short: 'Shorter', name: 'Make the note at the pointer a step shorter; held, all', keys: ['s'] },
      { done: 'shorter', elsewhere: true, begin: length(-1) },
    ),
    sweeps.verb(
      { id: 'louder', short: 'Louder', name: 'Make the note at the pointer louder; held, all', keys: ['r'] },
      {
        done: 'louder',
        begin:
          () =>
          ({ track, taken }) =>
            louder(track, taken, VELOCITY_STEP),
      },
    ),
    sweeps.verb(
      { id: 'softer', short: 'Softer', name: 'Make the note at the pointer softer; held, all', keys: ['f'] },
      {
        done: 'softer',
        begin:
          () =>
          ({ track, taken }) =>
            louder(track, taken, -VELOCITY_STEP),
      },
    ),
  ];
}
