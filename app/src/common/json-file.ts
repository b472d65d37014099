import { fileOpen } from 'browser-fs-access';

/** Recipes and rules are far smaller, in bytes. */
const MOST = 1_000_000;

/**
 * The text of a JSON file that the user chooses.
 * @param description what the file window calls such files
 * @throws Error with a sentence for one that is too large, and what the browser throws where the window is closed
 */
export async function chooseJson(description: string): Promise<string> {
  const file = await fileOpen({ extensions: ['.json'], mimeTypes: ['application/json'], description });
  if (file.size > MOST) throw new Error(`“${file.name}” is too large for a file of ${description.toLowerCase()}.`);
  return file.text();
}
