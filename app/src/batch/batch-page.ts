import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import { directoryOpen } from 'browser-fs-access';
import { from } from 'rxjs';
import { GridTextError, parseGrid } from '@early-sparrow/core/grid';
import { BUILT_IN_RECIPES, type Recipe } from '@early-sparrow/core/recipe';
import { isClosedWindow } from '../common/closed-window';
import { FileDrop } from '../common/file-drop';
import { MIDI_NAME } from '../common/file-kinds';
import { countedFirst } from '../common/format';
import { MidiFiles } from '../common/midi-files';
import { Notices } from '../common/notices';
import { STRENGTHS, type Option } from '../common/option';
import { PickOne } from '../common/pick-one';
import { Said } from '../common/said';
import { Theme } from '../common/theme';
import { RecipeStore } from '../storage/recipe-store';
import { SongStore } from '../storage/song-store';
import type { Compare } from '../state/desk.feature';
import { Batch, MOST_FILES, type DoneRow, type How, type Row } from './batch';
import { doubtRank, doubtWords, foundWords, movedWords } from './batch-words';
import { Hearing } from './hearing';
import { Writing } from './writing';

const FITS = 'fits';
const LINES = 'lines';
const AGAIN = 'Free some space and try again.';

/** Many files that are corrected in one way, each by itself: looked at, heard, opened, and written together. */
@Component({
  selector: 'es-batch-page',
  imports: [RouterLink, PickOne, ScrollingModule],
  providers: [Batch, Hearing, Writing],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './batch-page.html',
  styleUrls: ['../common/page.scss', './batch-page.scss'],
})
export class BatchPage {
  protected readonly batch = inject(Batch);
  protected readonly hearing = inject(Hearing);
  protected readonly writing = inject(Writing);
  protected readonly theme = inject(Theme);
  private readonly midi = inject(MidiFiles);
  private readonly songs = inject(SongStore);
  private readonly router = inject(Router);
  private readonly notices = inject(Notices);
  private readonly said = inject(Said);
  private readonly page = inject(DestroyRef);
  private readonly own = toSignal(from(inject(RecipeStore).list$), { initialValue: [] });

  protected readonly fits = FITS;
  protected readonly lines = LINES;
  /** Name of the file whose song is on its way to the desk. */
  private readonly opening = signal<string | null>(null);
  protected readonly by = signal<string>(FITS);
  protected readonly gridText = signal('1/16');
  protected readonly gridProblem = signal('');
  protected readonly strength = signal(100);
  protected readonly strengths = STRENGTHS;
  /** By their values among the ways; own ones may come and go in another tab. */
  private readonly recipes = computed(
    () =>
      new Map<string, Recipe>([
        ...BUILT_IN_RECIPES.map((r) => [`built in ${r.name}`, r] as const),
        ...this.own().map((r) => [`own ${r.name}`, r] as const),
      ]),
  );
  protected readonly ways = computed((): Option[] => [
    { value: FITS, text: 'what fits each track' },
    { value: LINES, text: 'lines of your choice' },
    ...[...this.recipes()].map(([value, { name }]) => ({ value, text: name })),
  ]);
  protected readonly about = computed((): string => {
    if (this.by() === FITS) return 'Each track’s lag is removed and its starts go to the lines that fit it best.';
    if (this.by() === LINES) return 'Starts go to these lines. Write 1/16, 1/8T, 1/16+1/8T or 1/16 ~62%.';
    return this.recipe()?.about ?? '';
  });

  protected readonly summary = computed((): string => {
    const count = this.batch.count();
    if (count === 0) return '';
    if (this.batch.running()) return `Correcting … ${count - this.batch.waiting()} of ${count}`;
    const doubtful = this.batch.doubtful();
    const failed = this.batch.failed();
    const waiting = this.batch.waiting();
    return [
      countedFirst(count, 'file'),
      ...(doubtful > 0 ? [`${doubtful} to look at`] : []),
      ...(failed > 0 ? [`${failed} could not be corrected`] : []),
      ...(waiting > 0 ? [`${waiting} not corrected yet`] : []),
    ].join(', ');
  });
  protected readonly canWrite = computed(
    () => this.batch.done().length > 0 && !this.batch.running() && this.writing.progress() === null,
  );
  protected readonly written = computed(() => {
    const n = this.writing.progress();
    const opening = this.opening();
    if (opening !== null) return `Opening “${opening}” …`;
    return n === null ? this.said.text() || this.writing.said() : `Writing … ${n}`;
  });

  protected readonly found = foundWords;
  protected readonly moved = movedWords;
  protected readonly doubts = doubtWords;

  constructor() {
    inject(FileDrop).take((files) => this.add(files));
  }

  protected byId(_: number, row: Row): number {
    return row.id;
  }

  protected stateOf(row: Row): string {
    if (row.state !== 'done') return row.state;
    return doubtRank(row.tracks) > 0 ? 'doubtful' : 'sure';
  }

  /** Never colour alone. */
  protected sign(row: Row): string {
    return { sure: '●', doubtful: '?', failed: '✕', waiting: '·' }[this.stateOf(row)] ?? '';
  }

  protected sounds(row: Row, side: Compare): boolean {
    const now = this.hearing.what();
    return now?.id === row.id && now.side === side;
  }

  protected async hear(row: DoneRow, side: Compare): Promise<void> {
    if (!(await this.hearing.toggle(row, side))) this.tell(`“${row.file.name}” could not be played. ${AGAIN}`);
  }

  protected async choose(): Promise<void> {
    this.add(await this.midi.choose());
  }

  protected async chooseFolder(): Promise<void> {
    try {
      const found = await directoryOpen({ recursive: true });
      this.add(found.filter((f): f is typeof f & File => f instanceof File));
    } catch (error) {
      if (!isClosedWindow(error)) throw error;
    }
  }

  protected clear(): void {
    this.hearing.stop();
    this.batch.clear();
    this.writing.said.set('');
  }

  protected setBy(by: string): void {
    this.by.set(by);
    this.gridProblem.set('');
    this.use();
  }

  protected setGrid(text: string): void {
    try {
      parseGrid(text);
    } catch (error) {
      if (!(error instanceof GridTextError)) throw error;
      this.gridProblem.set(error.message);
      return;
    }
    this.gridProblem.set('');
    this.gridText.set(text);
    this.use();
  }

  protected setStrength(text: string): void {
    this.strength.set(Number(text));
    this.use();
  }

  /** Keeps the file's song with its treatment on it, and goes to its desk; once, however often it is pressed. */
  protected async open(row: DoneRow): Promise<void> {
    if (this.opening() !== null) return;
    this.opening.set(row.file.name);
    try {
      const song = await this.batch.song(row);
      const id = song && (await this.songs.add(song).catch(() => null));
      // Whoever has left the page finds it among the songs.
      if (id && !this.page.destroyed) await this.router.navigate(['/song', id]);
      else if (!id) this.tell(`“${row.file.name}” could not be opened. ${AGAIN}`);
    } finally {
      this.opening.set(null);
    }
  }

  private add(files: readonly File[]): void {
    const midi = files.filter((f) => MIDI_NAME.test(f.name));
    const others = files.length - midi.length;
    const over = this.batch.add(midi);
    const said = [
      ...(others > 0 && midi.length === 0 ? ['These are no MIDI files. Choose files that end in .mid.'] : []),
      ...(over > 0 ? [`At most ${MOST_FILES} files can be corrected together; ${over} were left out.`] : []),
    ];
    if (said.length > 0) this.tell(said.join(' '));
  }

  private tell(text: string): void {
    void this.notices.open(text, 'Close');
  }

  private use(): void {
    this.hearing.stop();
    this.writing.said.set('');
    this.batch.use(this.how());
  }

  private how(): How {
    const strength = this.strength() / 100;
    const recipe = this.recipe();
    if (recipe) return { kind: 'recipe', recipe };
    return this.by() === LINES ? { kind: 'lines', grid: this.gridText(), strength } : { kind: 'fits', strength };
  }

  private recipe(): Recipe | undefined {
    return this.recipes().get(this.by());
  }
}
