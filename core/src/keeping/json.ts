/**
 * JSON in which raw bytes stand as `{"$bytes": "…"}`, in base64. Used by every file that a song is kept in.
 */
const BYTES = '$bytes';

/** A value as JSON text. */
export function toJson(value: unknown): string {
  // Node's own kind of bytes makes itself a list of numbers before it gets here: the value is looked at where it lies.
  return JSON.stringify(value, function (this: Record<string, unknown>, key, v: unknown) {
    const whole = this[key];
    return isBytes(whole) ? { [BYTES]: toBase64(whole) } : v;
  });
}

/**
 * What {@link toJson} was given.
 * @throws SyntaxError where it is no JSON, RangeError where it is nested without end
 */
export function fromJson(text: string): unknown {
  return JSON.parse(text, (_, v: unknown) => {
    const base64 = isPlain(v) && Object.keys(v).length === 1 ? v[BYTES] : undefined;
    return typeof base64 === 'string' ? fromBase64(base64) : v;
  });
}

function isBytes(value: unknown): value is Uint8Array {
  return Object.prototype.toString.call(value) === '[object Uint8Array]';
}

function isPlain(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** So many bytes become characters in one call: more arguments than that overflow the stack. */
const CHUNK = 0x8000;

function toBase64(bytes: Uint8Array): string {
  let binary = '';
  for (let i = 0; i < bytes.length; i += CHUNK) binary += String.fromCharCode(...bytes.subarray(i, i + CHUNK));
  return btoa(binary);
}

/** What is no base64 gives no bytes: whoever reads the value then refuses it. */
function fromBase64(text: string): Uint8Array | null {
  try {
    return Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
  } catch {
    return null;
  }
}
