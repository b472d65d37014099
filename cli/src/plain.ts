/** Characters that steer a terminal: C0 and C1 controls, and those that turn the direction of text. */
const STEERING = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u200e\u200f\u202a-\u202e\u2066-\u2069]/g;

/** Text from files made harmless: what would steer a terminal shows as a dot. Line ends and tabs stay. */
export function plain(text: string): string {
  return text.replace(STEERING, '·');
}
