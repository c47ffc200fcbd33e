import type { Sheet } from '../sheet/types.js';

/**
 * Returns the attributes that a map needs, by the names of its data entries: all that filters, symbols, labels, popups, clusters, joins and ids
 * name.
 *
 * @param sheet of the map
 * @throws SheetFault for a sheet that is not valid
 */
export async function attributesUsed(sheet: Sheet): Promise<ReadonlyMap<string, ReadonlySet<string>>> {
  return (await import('./find-attributes.js')).findAttributes(sheet);
}

/** Attributes that were left out of published data. */
export class LeftOut {
  private readonly names = new Set<string>();

  /** @param used attributes that are kept; all without it */
  constructor(private readonly used: ReadonlySet<string> | undefined) {}

  /** Whether an attribute is kept; notes one that is not. */
  keeps(name: string): boolean {
    if (!this.used || this.used.has(name)) return true;
    this.names.add(name);
    return false;
  }

  /** The attributes of a feature or row that are kept. */
  kept(properties: Readonly<Record<string, unknown>>): Record<string, unknown> {
    return Object.fromEntries(Object.entries(properties).filter(([name]) => this.keeps(name)));
  }

  get list(): readonly string[] {
    return [...this.names];
  }
}
