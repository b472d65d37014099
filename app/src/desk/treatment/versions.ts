import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { Store } from '@ngrx/store';
import { formatGrid } from '@early-sparrow/core/grid';
import { idNumber, versionsOf, type Part, type Treatment, type TreatmentVersion } from '@early-sparrow/core/song';
import { BlindTest } from '../listening/blind-test';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';

/** Versions of a part's treatment, side by side: switched while it plays, compared blind, one chosen in the end. */
@Component({
  selector: 'es-versions',
  imports: [MatMenuModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row" role="radiogroup" aria-label="Versions of the treatment">
      @for (version of versions(); track version.id) {
        @if (renaming() === version.id) {
          <input
            #field
            aria-label="Name of the version"
            maxlength="100"
            [value]="version.name"
            (keydown.enter)="rename(version, field.value)"
            (keydown.escape)="renaming.set(null); $event.stopPropagation()"
            (blur)="rename(version, field.value)"
          />
        } @else {
          <button
            class="chip"
            role="radio"
            [class.current]="version.id === current()"
            [attr.aria-checked]="version.id === current()"
            [title]="version.name + ': ' + told(version.treatment)"
            (click)="choose(version)"
          >
            {{ version.name }}
          </button>
        }
      }
      <button class="chip" title="Saves the treatment as it is now, to compare it with changes" (click)="add()">
        {{ versions().length === 0 ? 'New version' : '+' }}
      </button>
      @if (versions().length > 0) {
        <button class="chip" [matMenuTriggerFor]="more" aria-label="Options for versions">…</button>
        <mat-menu #more="matMenu">
          <button mat-menu-item (click)="renaming.set(current())">Rename “{{ name() }}”</button>
          @for (other of others(); track other.id) {
            <button mat-menu-item (click)="blind(other)">Compare blind with “{{ other.name }}”</button>
            <button mat-menu-item (click)="drop(other)">Delete “{{ other.name }}”</button>
          }
          <button mat-menu-item (click)="settle()">Use “{{ name() }}” and delete the others</button>
        </mat-menu>
      }
    </div>
  `,
  styles: `
    /* Its chips stand in a row with the panel's others. */
    :host,
    .row {
      display: contents;
    }
    .chip {
      max-width: 150px;
      overflow: hidden;
      padding: 2px 10px;
      border: 1px solid var(--line);
      border-radius: 14px;
      background: none;
      color: var(--ink);
      font: inherit;
      font-size: 14px;
      text-overflow: ellipsis;
      white-space: nowrap;
      cursor: pointer;
    }
    .chip:hover {
      background: var(--raised);
    }
    .chip.current {
      border-color: var(--action);
      color: var(--action);
      font-weight: 600;
    }
    input {
      width: 130px;
      padding: 2px 8px;
      border: 1px solid var(--action);
      border-radius: 6px;
      background: var(--paper);
      color: var(--ink);
      font: inherit;
      font-size: 14px;
    }
  `,
})
export class Versions {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly test = inject(BlindTest);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);

  protected readonly renaming = signal<string | null>(null);
  protected readonly versions = computed(() => {
    const part = this.part();
    return part ? versionsOf(part) : [];
  });
  protected readonly current = computed(() => this.part()?.versions?.current.id ?? '');
  protected readonly name = computed(() => this.part()?.versions?.current.name ?? '');
  protected readonly others = computed(() => this.versions().filter((v) => v.id !== this.current()));

  protected readonly told = inWords;

  protected choose({ id, name }: TreatmentVersion): void {
    const part = this.part();
    if (!part || id === this.current()) return;
    const edit = { kind: 'part-version', name: `Version ${name} of ${part.name}`, part: part.id, version: id } as const;
    this.changes.make(edit, 'version');
  }

  /** What is set stays as one version; a new one, the same so far, is worked on from now on. */
  protected add(): void {
    const part = this.part();
    if (!part) return;
    const { treatment, versions } = part;
    const taken = this.versions().map((v) => idNumber(v.id));
    const next = Math.max(1, ...taken) + 1;
    const was = versions?.current ?? { id: 'version 1', name: inWords(treatment) };
    const others = [...(versions?.others ?? []), { ...was, treatment }];
    const current = { id: `version ${next}`, name: `Version ${next}` };
    this.set(part, `New version of ${part.name}`, { current, others });
  }

  protected rename({ id }: TreatmentVersion, text: string): void {
    const part = this.part();
    const name = text.trim();
    if (this.renaming() === null) return;
    this.renaming.set(null);
    if (!part?.versions || !name) return;
    const { current, others } = part.versions;
    this.set(part, `Name version ${name}`, {
      current: current.id === id ? { ...current, name } : current,
      others: others.map((v) => (v.id === id ? { ...v, name } : v)),
    });
  }

  protected drop({ id, name }: TreatmentVersion): void {
    const part = this.part();
    if (!part?.versions) return;
    const others = part.versions.others.filter((v) => v.id !== id);
    this.set(part, `Delete version ${name}`, others.length > 0 ? { ...part.versions, others } : null);
  }

  protected settle(): void {
    const part = this.part();
    if (part) this.set(part, `Use version ${this.name()}, delete the others`, null);
  }

  protected blind(other: TreatmentVersion): void {
    const part = this.part();
    if (!part) return;
    this.test.start({ plain: { part: part.id, version: other.id }, wanted: 'corrected', name: this.name() });
  }

  private set(part: Part, name: string, versions: Part['versions'] | null): void {
    this.changes.make({ kind: 'part-versions', name, part: part.id, versions: versions ?? null }, 'version');
  }
}

/** A treatment by what it does, in a few words: `1/16, 80 %`. */
function inWords({ lag, quantize, lengths, push, velocity, humanize }: Treatment): string {
  const starts = quantize.groove ? quantize.groove.groove.name : formatGrid(quantize.grid);
  const parts = [
    ...(lag.on ? ['lag'] : []),
    ...(quantize.on ? [`${starts}, ${Math.round(quantize.strength * 100)} %`] : []),
    ...(quantize.on && quantize.lines === 'follow' ? ['follow'] : []),
    ...(lengths.on ? ['lengths'] : []),
    ...(push.on ? ['push'] : []),
    ...(velocity.on ? ['velocity'] : []),
    ...(humanize.on ? ['humanize'] : []),
  ];
  return parts.length > 0 ? parts.join(', ') : 'as played';
}
