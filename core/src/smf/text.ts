/** Text of a meta event: UTF-8 where it is valid, else Latin-1, as older programs write it. */
export function readText(data: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(data);
  } catch {
    return new TextDecoder('latin1').decode(data);
  }
}

/** Text as bytes for a meta event. */
export function writeText(text: string): Uint8Array {
  return new TextEncoder().encode(text);
}
