import * as z from 'zod';

/** A number, or a pitch, which is told by its name. */
export interface NumberField {
  readonly kind: 'number' | 'pitch';
  readonly label: string;
  /** Behind the number: `ms`, `%`; empty for none. */
  readonly unit: string;
  readonly least: number;
  readonly most: number;
  readonly fresh: number;
}

export interface ChoiceField<O extends readonly string[] = readonly string[]> {
  readonly kind: 'choice';
  readonly label: string;
  readonly options: O;
  readonly fresh: string;
}

/** A value of a condition or an action: what it may be, and how it is asked for. */
export type Field = NumberField | ChoiceField;

export type Fields = Readonly<Record<string, Field>>;

/** The values of some fields. */
export type Values<F extends Fields> = {
  readonly [K in keyof F]: F[K] extends { readonly options: readonly (infer O)[] } ? O : number;
};

/** @param fresh what it is where nothing was set */
export function number(label: string, unit: string, least: number, most: number, fresh: number): NumberField {
  return { kind: 'number', label, unit, least, most, fresh };
}

/** A pitch from 0 to 127. */
export function pitch(label: string, fresh: number): NumberField {
  return { kind: 'pitch', label, unit: '', least: 0, most: 127, fresh };
}

export function choice<const O extends readonly string[]>(label: string, options: O, fresh: O[number]): ChoiceField<O> {
  return { kind: 'choice', label, options, fresh };
}

/** The schema of some fields' values. */
export function schemaOf(fields: Fields): Record<string, z.ZodType<number | string>> {
  return Object.fromEntries(
    Object.entries(fields).map(([key, field]) => [
      key,
      field.kind === 'choice'
        ? z.enum(field.options as [string, ...string[]])
        : field.kind === 'pitch'
          ? z.int().min(field.least).max(field.most)
          : z.number().min(field.least).max(field.most),
    ]),
  );
}

/** Their values where nothing was set. */
export function freshOf(fields: Fields): Record<string, number | string> {
  return Object.fromEntries(Object.entries(fields).map(([key, { fresh }]) => [key, fresh]));
}
