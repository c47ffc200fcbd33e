/** Whether a text is path data (SVG 2, section 9.3): it begins with a move, and holds nothing but commands and numbers. */
export const isPath = (text: string): boolean =>
  /^\s*[Mm][-+\d.,\s]+[-+\d.,\seE\w]*$/.test(text) && !/[^MmZzLlHhVvCcSsQqTtAaEe\d.,\s+-]/.test(text);
