import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import * as z from 'zod';
import {
  addPart,
  copyParts,
  cutParts,
  isProblem,
  joinParts,
  lookParts,
  moveParts,
  partsStop,
  removeParts,
  repeatParts,
  resizePart,
  treatAlike,
  type Edit,
  type EditProblem,
  type Over,
  type PartsMove,
} from '@early-sparrow/core/edit';
import { findPart, meterOf, type Song } from '@early-sparrow/core/song';
import { kept } from '../../common/kept';
import { Said } from '../../common/said';
import { Player } from '../../sound/player';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import { ChosenParts } from '../hand/chosen-parts';

const OverSchema = z.enum(['refuse', 'cut', 'push']);

/** What can be done with the chosen parts: each is one step for undo. */
@Injectable()
export class PartActs {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly said = inject(Said);
  private readonly player = inject(Player);
  private readonly chosen = inject(ChosenParts);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly tracks = this.store.selectSignal(deskFeature.selectTracks);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);
  /** What happens to what lies in the way. */
  readonly over = kept<Over>('parts.over', OverSchema, 'refuse');

  /** How far the chosen parts go where they are dragged so far. */
  stop(by: number, rows: number): { readonly by: number; readonly rows: number } {
    const song = this.song();
    if (!song) return { by, rows };
    const { ticks, down } = partsStop(song, this.chosen.ids(), this.to(by, rows));
    return { by: ticks, rows: down };
  }

  move(by: number, rows: number): void {
    this.make((song, ids) => moveParts(song, ids, this.to(by, rows), this.over()), 'nudge parts');
  }

  /** @param bars later; earlier is negative */
  moveByBars(bars: 1 | -1): void {
    const song = this.song();
    const first = song && findPart(song, this.chosen.ids()[0] ?? '');
    if (!song || !first) return;
    const meter = meterOf(song);
    const { start } = first.part;
    const bar = meter.wholeBar(start);
    const to = bars > 0 ? bar.end - bar.start : meter.wholeBar(Math.max(0, bar.start - 1)).start - bar.start;
    if (to !== 0) this.move(to, 0);
    else this.said.say('The part is in the first bar already.');
  }

  copy(by: number, rows: number): void {
    this.make((song, ids) => copyParts(song, ids, this.to(by, rows), this.over()), 'parts');
  }

  repeat(times: number): void {
    this.make((song, ids) => repeatParts(song, ids, times, this.over()), 'parts');
  }

  resize(id: string, span: { readonly start: number; readonly end: number }): void {
    this.make((song) => resizePart(song, id, span), 'parts');
  }

  cutAtPlayhead(): void {
    this.make((song, ids) => cutParts(song, ids, this.player.position()), 'parts');
  }

  join(): void {
    this.make((song, ids) => joinParts(song, ids), 'parts');
  }

  name(name: string): void {
    this.make((song, ids) => lookParts(song, ids, { name }), 'parts');
  }

  /** Mutes all, or all sound again where the current one is muted. */
  mute(): void {
    this.make((song, ids) => lookParts(song, ids, { muted: !findPart(song, ids[0])?.part.muted }), 'parts');
  }

  /** @param colour its index; null for none of its own */
  colour(colour: number | null): void {
    this.make((song, ids) => lookParts(song, ids, { colour }), 'parts');
  }

  /** Gives all chosen parts the treatment of the current one. */
  treatAlike(): void {
    const ids = this.chosen.ids();
    const like = this.part()?.id;
    if (ids.length < 2 || like === undefined) this.said.say('Choose two or more parts first: Shift-click them.');
    else this.make((song) => treatAlike(song, ids, like), 'treat');
  }

  remove(): void {
    this.make((song, ids) => removeParts(song, ids), 'parts');
  }

  /** An empty part over a bar, or several. */
  draw(trackId: string, start: number, end: number): void {
    const song = this.song();
    const track = song?.tracks.find((t) => t.id === trackId);
    if (!song || !track) return;
    const edit = addPart(song, trackId, track.name, Math.round(start), Math.round(end));
    this.changes.make(edit, 'parts', { track: trackId, part: `p${song.nextId}`, selection: [] });
  }

  private to(by: number, rows: number): PartsMove {
    return { by, rows, listed: this.tracks().map((t) => t.id) };
  }

  private make(edit: (song: Song, ids: readonly string[]) => Edit | EditProblem | null, how: string): void {
    const song = this.song();
    const ids = this.chosen.ids();
    if (!song) return;
    if (ids.length === 0) {
      this.said.say('There is no part here. Double-click in the song view to draw one.');
      return;
    }
    const before = new Set(song.tracks.flatMap((t) => t.parts.map((p) => p.id)));
    const done = edit(song, ids);
    // Parts stay chosen where they go, to other tracks too; of copies and cuts what came in is chosen with them.
    if (done === null || this.changes.make(done, how) !== null || isProblem(done)) return;
    const after = this.song()?.tracks.flatMap((t) => t.parts.map((p) => p.id)) ?? [];
    const came = after.filter((id) => !before.has(id));
    const stays = ids.filter((id) => after.includes(id));
    if (came.length > 0 && how === 'parts') this.chosen.set(came.length <= 50 ? came : stays);
    else this.chosen.set(stays);
  }
}
