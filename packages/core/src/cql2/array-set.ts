/** A list as a set of its members' JSON texts; an attribute may hold a list as JSON text. */
export function setOf(value: unknown):
  | {
      isSubset(of: { has(key: string): boolean }): boolean;
      has(key: string): boolean;
      meets(other: { has(key: string): boolean }): boolean;
    }
  | undefined {
  let items: unknown = value;
  if (typeof value === 'string' && value.startsWith('[')) {
    try {
      items = JSON.parse(value);
    } catch {
      // A text that only looks like a list is no list.
      return undefined;
    }
  }
  if (!Array.isArray(items)) return undefined;
  const keys = new Set(items.map((item) => JSON.stringify(item)));
  return {
    has: (key) => keys.has(key),
    isSubset: (of) => [...keys].every((key) => of.has(key)),
    meets: (other) => [...keys].some((key) => other.has(key)),
  };
}
