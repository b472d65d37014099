/** Text of a meta event: UTF-8 where it is valid, else Latin-1, as older programs write it. */
export function readText(data: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(data);
  } catch {
    return new TextDecoder('latin1').decode(data);
  }
}

/** Text as bytes for a meta event, in UTF-8. */
export function writeText(text: string): Uint8Array {
  return new TextEncoder().encode(text);
}

/** Text in the spelling of a text that it replaces: Latin-1 stays Latin-1 where the new one can be said in it. */
export function rewriteText(text: string, before: Uint8Array): Uint8Array {
  const wasLatin1 = readText(before) !== new TextDecoder().decode(before);
  const points = [...text].map((c) => c.codePointAt(0) ?? 0);
  return wasLatin1 && points.every((p) => p < 256) ? Uint8Array.from(points) : writeText(text);
}
