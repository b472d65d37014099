/** What is worked out from a list and a key, once for both, and kept for as long as the list is. */
export class Kept<K, V> {
  private readonly lists = new WeakMap<Float64Array, Map<K, V>>();

  of(list: Float64Array, key: K, make: () => V): V {
    let values = this.lists.get(list);
    if (!values) this.lists.set(list, (values = new Map<K, V>()));
    let value = values.get(key);
    if (value === undefined) values.set(key, (value = make()));
    return value;
  }
}
