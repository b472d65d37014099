/** Sizes of the records of a bank's lists, in bytes (SoundFont Technical Specification 2.04, section 7). */
const RECORDS = {
  phdr: 38,
  pbag: 4,
  pmod: 10,
  pgen: 4,
  inst: 22,
  ibag: 4,
  imod: 10,
  igen: 4,
  shdr: 46,
} as const;
type List = keyof typeof RECORDS;

/** Generators that name an instrument and a sample (section 8.1.2). */
const INSTRUMENT = 41;
const SAMPLE = 53;
/** Bits of a sample's type that say it is compressed (SF3), or in a ROM. */
const COMPRESSED = 0x10;
const ROM = 0x8000;

interface Chunk {
  readonly id: string;
  readonly from: number;
  readonly to: number;
}

/**
 * Whether a bank hangs together: its chunks fill it, its lists hold whole records with a closing one, and every index and
 * every sample lies in what it points to (SoundFont Technical Specification 2.04, sections 4 to 7).
 */
export function isWhole(bytes: Uint8Array): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const end = 8 + view.getUint32(4, true);
  const lists = chunksOf(view, 12, end);
  if (!lists) return false;
  const named = new Map<string, readonly Chunk[]>();
  for (const { id, from, to } of lists) {
    if (id !== 'LIST' || to - from < 4) return false;
    const inside = chunksOf(view, from + 4, to);
    if (!inside) return false;
    named.set(letters(view, from), inside);
  }
  const records = named.get('pdta');
  const samples = named.get('sdta')?.find((c) => c.id === 'smpl');
  if (!named.has('INFO') || !records || !samples) return false;
  const found = new Map(records.map((c) => [c.id, c]));
  for (const [id, size] of Object.entries(RECORDS)) {
    const chunk = found.get(id);
    const length = chunk ? chunk.to - chunk.from : 0;
    // One more closes each list.
    if (length < size || length % size !== 0) return false;
  }
  return isConsistent(view, found as ReadonlyMap<List, Chunk>, samples.to - samples.from);
}

function isConsistent(view: DataView, found: ReadonlyMap<List, Chunk>, sampleBytes: number): boolean {
  const count = (list: List) => {
    const { from, to } = found.get(list)!;
    return (to - from) / RECORDS[list];
  };
  const at = (list: List, k: number, offset: number) => found.get(list)!.from + k * RECORDS[list] + offset;
  /** Indices into another list rise, and end with its last record. */
  const points = (list: List, offset: number, into: List) => {
    let last = 0;
    for (let k = 0; k < count(list); k++) {
      const index = view.getUint16(at(list, k, offset), true);
      if (index < last || index >= count(into)) return false;
      last = index;
    }
    return true;
  };
  const names = (list: List, generator: number, into: List) => {
    for (let k = 0; k + 1 < count(list); k++) {
      if (view.getUint16(at(list, k, 0), true) !== generator) continue;
      if (view.getUint16(at(list, k, 2), true) >= count(into) - 1) return false;
    }
    return true;
  };
  const inside = () => {
    for (let k = 0; k + 1 < count('shdr'); k++) {
      const type = view.getUint16(at('shdr', k, 44), true);
      if ((type & ROM) !== 0) continue;
      const [from, to] = [20, 24].map((offset) => view.getUint32(at('shdr', k, offset), true));
      // Places are in samples of two bytes, or in bytes where they are compressed.
      const width = (type & COMPRESSED) !== 0 ? 1 : 2;
      if (to < from || to * width > sampleBytes) return false;
    }
    return true;
  };
  return (
    points('phdr', 24, 'pbag') &&
    points('pbag', 0, 'pgen') &&
    points('inst', 20, 'ibag') &&
    points('ibag', 0, 'igen') &&
    names('pgen', INSTRUMENT, 'inst') &&
    names('igen', SAMPLE, 'shdr') &&
    inside()
  );
}

/** The chunks of a stretch; null where one reaches beyond it. */
function chunksOf(view: DataView, from: number, to: number): Chunk[] | null {
  const chunks: Chunk[] = [];
  for (let at = from; at + 8 <= to;) {
    const size = view.getUint32(at + 4, true);
    const body = at + 8;
    if (body + size > to) return null;
    chunks.push({ id: letters(view, at), from: body, to: body + size });
    at = body + size + (size & 1);
  }
  return chunks;
}

function letters(view: DataView, at: number): string {
  return String.fromCharCode(...[0, 1, 2, 3].map((k) => view.getUint8(at + k)));
}
