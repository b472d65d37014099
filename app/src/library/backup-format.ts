import * as z from 'zod';

/** What a backup says of itself: `backup.json`, its first entry. Songs that were damaged are listed, without a file. */
export const BackupSchema = z.object({
  kind: z.literal('early-sparrow-backup'),
  version: z.literal(1),
  /** ISO date. */
  made: z.string().max(40),
  songs: z
    .array(
      z.object({
        /** Its entry: a song file. */
        path: z.string().max(300),
        id: z.uuid(),
        name: z.string().max(200),
        created: z.string().max(40),
        changed: z.string().max(40),
      }),
    )
    .max(100_000)
    .readonly(),
});
export type BackupList = Readonly<z.infer<typeof BackupSchema>>;

/** The entries beside the songs. */
export const LIST = 'backup.json';
export const RECIPES = 'recipes.json';
export const RULES = 'rules.json';
export const SETTINGS = 'settings.json';
export const BANKS = 'sounds/';
export const DAMAGED = 'damaged/';

/** Settings of the browser, by their names. */
export const SettingsSchema = z.record(z.string().max(100), z.string().max(100_000));

/** No list in a backup is larger, in bytes. */
export const MOST_LIST = 50_000_000;
