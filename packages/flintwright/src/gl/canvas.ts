/** A canvas to draw on and read back. */
export function canvas(width: number, height: number): CanvasRenderingContext2D {
  const element = document.createElement('canvas');
  element.width = width;
  element.height = height;
  return element.getContext('2d', { willReadFrequently: true })!;
}
