import { NgComponentOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, input, signal, type Type } from '@angular/core';
import { STRIPS, type Strip } from './strip';

/** The strips of one place of the desk that are open, in their order. */
@Component({
  selector: 'es-strips',
  imports: [NgComponentOutlet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (strip of open(); track strip.id) {
      @if (componentOf(strip); as component) {
        <ng-container *ngComponentOutlet="component" />
      } @else if (failed().has(strip.id)) {
        <p class="problem" role="alert">
          This could not be loaded. Is the program still running? Then reload the page.
        </p>
      } @else {
        <p class="soft" role="status">Opening …</p>
      }
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    p {
      margin: 0;
      padding: 8px 16px;
    }
    .soft {
      color: var(--soft);
    }
  `,
})
export class Strips {
  readonly place = input.required<Strip['place']>();
  private readonly all = [...(inject(STRIPS, { optional: true }) ?? [])].sort((a, b) => a.order - b.order);
  private readonly fetched = signal<ReadonlyMap<string, Type<unknown>>>(new Map());
  protected readonly failed = signal<ReadonlySet<string>>(new Set());
  protected readonly open = computed(() => this.all.filter((s) => s.place === this.place() && s.isOpen()));
  private readonly asked = new Set<string>();

  protected componentOf(strip: Strip): Type<unknown> | null {
    if (!strip.lazy) return strip.component as Type<unknown>;
    const known = this.fetched().get(strip.id);
    if (known) return known;
    if (!this.asked.has(strip.id)) void this.fetch(strip);
    return null;
  }

  private async fetch({ id, component }: Strip): Promise<void> {
    this.asked.add(id);
    try {
      const fetched = await (component as () => Promise<Type<unknown>>)();
      this.fetched.update((all) => new Map(all).set(id, fetched));
    } catch {
      this.failed.update((all) => new Set([...all, id]));
    }
  }
}
