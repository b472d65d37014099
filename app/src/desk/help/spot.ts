import { DestroyRef, DOCUMENT, inject, Injectable } from '@angular/core';

/** A marked control stays marked so long, in ms. */
const MARKED_MS = 4000;
const ROUND_PX = 4;

/** What a person can press, choose or type into. */
const CONTROLS =
  'button, a[href], input, label, summary, [role=switch], [role=radio], [role=tab], [role=combobox], [role=slider], h2, h3, .lane-head';

/** Shows where a control is: a frame around it for a while. */
@Injectable()
export class Spot {
  private readonly document = inject(DOCUMENT);
  private frame: HTMLElement | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor() {
    inject(DestroyRef).onDestroy(() => this.clear());
  }

  /** @returns whether it is on the screen now */
  show(name: string, without: Element | null): boolean {
    this.clear();
    const control = this.find(name, without);
    if (!control) return false;
    control.scrollIntoView({ block: 'nearest', inline: 'nearest' });
    const { left, top, width, height } = control.getBoundingClientRect();
    const frame = this.document.createElement('div');
    frame.className = 'spot';
    frame.style.left = `${left - ROUND_PX}px`;
    frame.style.top = `${top - ROUND_PX}px`;
    frame.style.width = `${width + 2 * ROUND_PX}px`;
    frame.style.height = `${height + 2 * ROUND_PX}px`;
    this.document.body.append(frame);
    this.frame = frame;
    this.timer = setTimeout(() => this.clear(), MARKED_MS);
    return true;
  }

  clear(): void {
    clearTimeout(this.timer);
    this.frame?.remove();
    this.frame = null;
  }

  /** The control that is called so, else one whose name begins with it, else one that has it in its name. */
  private find(name: string, without: Element | null): Element | null {
    const wanted = tidy(name);
    const named = [...this.document.querySelectorAll(CONTROLS)].flatMap((control) => {
      if (without?.contains(control) || !isSeen(control)) return [];
      return [{ control, names: namesOf(control) }];
    });
    const by = (test: (name: string) => boolean) => named.find(({ names }) => names.some(test))?.control;
    return (
      by((n) => n === wanted) ??
      by((n) => n.startsWith(wanted)) ??
      by((n) => wanted.length > 3 && n.includes(wanted)) ??
      null
    );
  }
}

function namesOf(control: Element): string[] {
  const label = control.getAttribute('aria-label') ?? '';
  return [label, control.textContent ?? ''].map(tidy).filter(Boolean);
}

function tidy(text: string): string {
  return text
    .replace(/\s+/g, ' ')
    .replace(/[.…]+$/, '')
    .trim()
    .toLowerCase();
}

function isSeen(control: Element): boolean {
  const { width, height } = control.getBoundingClientRect();
  return width > 0 && height > 0;
}
