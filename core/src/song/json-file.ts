import type { z } from 'zod';

/**
 * Reads the text of a JSON file.
 * @param what kind of file it is, as in `This is not a rule file` @param Fault is thrown with a sentence that says what is wrong
 */
export function parseJson(text: string, what: string, Fault: new (message: string) => Error): unknown {
  try {
    return JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch {
    throw new Fault(`This is not a ${what} file: it is no JSON.`);
  }
}

/** Checks what {@link parseJson} gave by its schema. @throws Fault */
export function checkJson<T>(
  value: unknown,
  schema: z.ZodType<T>,
  what: string,
  Fault: new (message: string) => Error,
): T {
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  throw new Fault(`This is not a ${what} file: at ${issue.path.join('.') || 'its top'} ${issue.message}.`);
}
