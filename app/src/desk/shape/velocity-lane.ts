import { Injectable } from '@angular/core';
import { louder, setVelocities, type Shaped } from '@early-sparrow/core/shape';
import type { Picture } from '../hand/picture';
import type { SeenNote } from '../hand/scenery';
import type { Hand } from '../hand/shaping';
import { StemLane, type ScaleLine } from './stem-lane';
import { VelocityHead } from './velocity-head';

const velocityOf = (share: number) => Math.max(1, Math.min(127, Math.round(share * 127)));

/** How loud each note is. */
@Injectable()
export class VelocityLane extends StemLane {
  readonly id = 'velocity';
  readonly name = 'Velocity';
  readonly order = 20;
  readonly head = VelocityHead;

  constructor() {
    super();
    this.book.add({ id: this.id, usual: (picture) => Math.min(120, picture * 0.2) });
  }

  protected scale(): readonly ScaleLine[] {
    return [1, 32, 64, 96, 127].map((v) => ({ at: v / 127, text: String(v) })).filter((_, i) => this.shows(i));
  }

  /** In a low lane there is no room for all the numbers. */
  private shows(i: number): boolean {
    const height = this.height();
    return height > 110 || (height > 70 ? i % 2 === 0 : i === 2);
  }

  protected played(picture: Picture, index: number): number {
    return picture.playedVelocity[index] / 127;
  }

  protected now(picture: Picture, index: number): number {
    return picture.velocity[index] / 127;
  }

  protected dragged({ track, taken }: Hand, _note: SeenNote, from: number, to: number): Shaped {
    const by = velocityOf(to) - velocityOf(from);
    return by === 0 ? null : louder(track, taken, by);
  }

  protected drawn({ track, taken }: Hand, shares: ReadonlyMap<number, number>): Shaped {
    const velocities = new Map([...shares].map(([id, share]) => [id, velocityOf(share)]));
    return setVelocities(track, taken, velocities);
  }

  protected tell(share: number): string {
    return `velocity ${velocityOf(share)}`;
  }
}
