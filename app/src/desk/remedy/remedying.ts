import { computed, effect, inject, Injectable, signal, untracked, type OnDestroy } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Edit } from '@early-sparrow/core/edit';
import type { Analysis } from '@early-sparrow/core/insight';
import {
  commonLag,
  isApplied,
  remediesOf,
  remedyEdit,
  remedyReport,
  trackNotes,
  type Remedy,
  type RemedyReport,
} from '@early-sparrow/core/remedy';
import { sameTime, timeOf, type Note, type Song, type Track } from '@early-sparrow/core/song';
import { Player } from '../../sound/player';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { Analyst } from '../fits/analyst';

type Notes = readonly Note[];

/** A row of the table. */
export interface Row {
  readonly track: Track;
  readonly remedy: Remedy;
  readonly report: RemedyReport | null;
  /** The lag that the other tracks have in common, in ms; null for none. */
  readonly common: number | null;
  /** Whether its parts have what is proposed. */
  readonly applied: boolean;
  /** Set aside by the user: it is not among those that are applied together. */
  readonly left: boolean;
}

/** Rows that call for a decision come first, the doubtful before the sure. */
const ORDER: readonly Remedy['state'][] = ['doubtful', 'sure', 'treated', 'good', 'empty'];

/** A row that was applied stays where it was: nothing moves under the pointer. */
function placeOf({ remedy, applied }: Row): number {
  return ORDER.indexOf(applied ? (remedy.doubts.length > 0 ? 'doubtful' : 'sure') : remedy.state);
}

/** What every track of the song needs: found out track by track, heard, applied and left. */
@Injectable()
export class Remedying implements OnDestroy {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly analyst = inject(Analyst);
  private readonly player = inject(Player);
  readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly trying = this.store.selectSignal(deskFeature.selectPreview);
  /** Share of the way to the lines, in percent. */
  readonly strength = signal(80);
  /** How many tracks are analysed, of how many; null once all are. */
  readonly progress = signal<{ readonly done: number; readonly all: number } | null>(null);
  readonly stopped = signal(false);
  readonly problem = signal(false);
  private readonly leftOut = signal<ReadonlySet<string>>(new Set());
  private readonly found = signal<ReadonlyMap<Notes, { readonly song: Song; readonly analysis: Analysis }>>(new Map());
  private readonly merged = new Map<string, { readonly parts: Track['parts']; readonly notes: Notes }>();
  private running = 0;
  private shown: Edit | null = null;
  /** What is heard corrected: a track's id, or all that are sure. */
  private readonly heard = signal<string | null>(null);
  readonly hearing = computed(() => (this.trying() !== null && this.trying() === this.shown ? this.heard() : null));

  private readonly remedies = computed((): readonly Remedy[] | null => {
    const song = this.song();
    if (!song) return null;
    const analyses = song.tracks.map((t) => this.of(song, t));
    // What the others tell belongs to it: nothing is said before all are known.
    return analyses.includes(undefined) ? null : remediesOf(song, analyses as (Analysis | null)[]);
  });
  readonly rows = computed((): readonly Row[] => {
    const [song, remedies, strength] = [this.song(), this.remedies(), this.strength() / 100];
    if (!song || !remedies) return [];
    const analyses = remedies.map((r) => r.analysis);
    return song.tracks
      .map((track, i): Row => {
        const remedy = remedies[i];
        return {
          track,
          remedy,
          report: remedyReport(song, remedy, strength),
          common: commonLag(analyses, i),
          applied: isApplied(track, remedy, strength),
          left: this.leftOut().has(track.id),
        };
      })
      .filter((row) => row.track.parts.length > 0)
      .sort((a, b) => placeOf(a) - placeOf(b));
  });
  /** Those that are applied together. */
  readonly sure = computed(() => this.rows().filter((r) => r.remedy.state === 'sure' && !r.left));

  constructor() {
    effect(() => {
      const song = this.song();
      if (song && !this.stopped()) untracked(() => void this.analyse());
    });
  }

  ngOnDestroy(): void {
    this.running++;
    this.endHearing();
  }

  stop(): void {
    this.running++;
    this.progress.set(null);
    this.stopped.set(true);
  }

  again(): void {
    this.problem.set(false);
    this.stopped.set(false);
  }

  leave({ track }: Row): void {
    this.leftOut.update((all) => {
      const next = new Set(all);
      if (!next.delete(track.id)) next.add(track.id);
      return next;
    });
  }

  apply(row: Row): void {
    this.make([row], `Put ${row.track.name} right`);
  }

  /** Applies it and takes the track in hand, with its treatment in the panel. */
  adjust(row: Row): void {
    if (!row.applied) this.apply(row);
    this.store.dispatch(DeskActions.selectTrack({ trackId: row.track.id }));
  }

  applySure(): void {
    const rows = this.sure();
    this.make(rows, rows.length === 1 ? `Put ${rows[0].track.name} right` : `Put ${rows.length} tracks right`);
  }

  /** Shows and sounds the song with a track corrected, or with all that are sure; once more, as it is. */
  toggleHearing(what: string, rows: readonly Row[]): void {
    if (this.hearing() === what) return this.endHearing();
    const song = this.song();
    const remedies = rows.map((r) => r.remedy);
    const edit = song && remedyEdit(song, remedies, this.strength() / 100, 'Corrected');
    if (!edit) return;
    this.shown = edit;
    this.heard.set(what);
    this.store.dispatch(DeskActions.preview({ edit }));
    if (!this.player.playing()) void this.player.play();
  }

  private endHearing(): void {
    if (this.hearing() !== null) this.store.dispatch(DeskActions.preview({ edit: null }));
    this.heard.set(null);
    this.shown = null;
  }

  private make(rows: readonly Row[], name: string): void {
    const song = this.song();
    this.endHearing();
    const edit =
      song &&
      remedyEdit(
        song,
        rows.map((r) => r.remedy),
        this.strength() / 100,
        name,
      );
    if (edit) this.changes.make(edit, 'treat');
  }

  /** What is known about a track; null where it has no notes, undefined while it is not known. */
  private of(song: Song, track: Track): Analysis | null | undefined {
    const notes = this.notesOf(track);
    if (notes.length === 0) return null;
    const known = this.found().get(notes);
    return known && sameTime(timeOf(known.song), timeOf(song)) ? known.analysis : undefined;
  }

  private async analyse(): Promise<void> {
    const run = ++this.running;
    const song = this.song();
    if (!song) return;
    const all = song.tracks.filter((t) => this.notesOf(t).length > 0);
    const missing = all.filter((t) => this.of(song, t) === undefined);
    for (const [i, track] of missing.entries()) {
      this.progress.set({ done: all.length - missing.length + i, all: all.length });
      const notes = this.notesOf(track);
      const analysis = await this.analyst.listen(notes);
      if (run !== this.running) return;
      if (!analysis) {
        this.problem.set(true);
        this.stopped.set(true);
        break;
      }
      this.found.update((all) => new Map(all).set(notes, { song, analysis }));
    }
    this.progress.set(null);
  }

  /** A track's notes as one list, the same one as long as its parts have the same notes. */
  private notesOf(track: Track): Notes {
    const [, second] = track.parts;
    if (!second) return trackNotes(track);
    const known = this.merged.get(track.id);
    if (known?.parts.length === track.parts.length && known.parts.every((p, i) => p.notes === track.parts[i].notes)) {
      return known.notes;
    }
    const notes = trackNotes(track);
    this.merged.set(track.id, { parts: track.parts, notes });
    return notes;
  }
}
