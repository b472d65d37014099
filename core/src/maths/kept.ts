/** What is worked out from a thing that never changes and a key, once for both, and kept for as long as the thing is. */
export class Kept<T extends object, K, V> {
  private readonly things = new WeakMap<T, Map<K, V>>();

  of(thing: T, key: K, make: () => V): V {
    let values = this.things.get(thing);
    if (!values) this.things.set(thing, (values = new Map<K, V>()));
    let value = values.get(key);
    if (value === undefined) values.set(key, (value = make()));
    return value;
  }
}
