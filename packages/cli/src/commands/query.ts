/**
 * The value of a parameter that may be given once: undefined where it is not given, null where it is given several times, which is a fault
 * of the request.
 */
export const single = (value: unknown): string | undefined | null =>
  value === undefined ? undefined : typeof value === 'string' ? value : null;
