import { inject, Injectable } from '@angular/core';
import * as z from 'zod';
import { SongStore } from './song-store';

const MessageSchema = z.object({
  ms: z.number(),
  round: z.int().min(0),
  pass: z.int().min(0).optional(),
  bytes: z.tuple([z.int().min(0).max(255), z.int().min(0).max(127), z.int().min(0).max(127)]).readonly(),
});

/** Where a recording goes, and how it becomes notes. Ticks and ms of the song. */
export const PlanSchema = z.object({
  /** Null for a new one. */
  track: z.string().nullable(),
  /** Id of the track that a new one sounds like. */
  like: z.string().nullable(),
  /** Id of the part that it goes into; null for one of its own. */
  into: z.string().nullable(),
  replace: z.boolean(),
  correct: z.boolean(),
  latency: z.number(),
  loop: z.object({ from: z.number(), to: z.number() }).nullable(),
  punch: z.object({ from: z.number(), to: z.number() }).nullable(),
  from: z.number(),
});
export type Plan = Readonly<z.infer<typeof PlanSchema>>;

/** What was played in and became no part yet: its tab was closed, or broke. */
export interface Unfinished {
  /** When it began: what it is known by. */
  readonly began: string;
  readonly plan: Plan;
  readonly messages: readonly z.infer<typeof MessageSchema>[];
}

/** Keeps what is being played in until it is in the song. */
@Injectable({ providedIn: 'root' })
export class PlayedStore {
  private readonly songs = inject(SongStore);

  /** Adds what was played since the last time. */
  async add(song: string, began: string, plan: Plan, messages: Unfinished['messages']): Promise<void> {
    await this.songs.played.add({ song, began, plan, messages });
  }

  /** A recording is in the song and on the disk, or had nothing in it. */
  async clear(song: string, began: string): Promise<void> {
    await this.songs.played
      .where('song')
      .equals(song)
      .filter((chunk) => chunk.began === began)
      .delete();
  }

  /** What was left of recordings, each whole as far as it was written; what cannot be read is left out. */
  async unfinished(song: string): Promise<Unfinished[]> {
    const chunks = await this.songs.played.where('song').equals(song).sortBy('id');
    const found = new Map<string, Unfinished>();
    for (const chunk of chunks) {
      const plan = PlanSchema.safeParse(chunk.plan);
      const messages = z.array(MessageSchema).safeParse(chunk.messages);
      if (!plan.success || !messages.success) continue;
      const known = found.get(chunk.began)?.messages ?? [];
      found.set(chunk.began, { began: chunk.began, plan: plan.data, messages: [...known, ...messages.data] });
    }
    return [...found.values()];
  }
}
