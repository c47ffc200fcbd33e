// What can be wrong with the parts of a shapefile, whether they are read whole or piece by piece.
import { Fault } from '../../base/fault.js';

/** A table that ends before its rows do. */
export const cutTable = (name: string, at: number) =>
  new Fault('dbf.cut', `the table ${name} is truncated`, 'Fetch or write it again.', `${name}, byte ${at}`);

/** A table that belongs to other shapes. */
export const shapefileRows = (name: string, rows: number, shapes: string) =>
  new Fault(
    'shapefile.rows',
    `${name}.dbf has ${rows} rows, and ${name}.shp has ${shapes} shapes`,
    'The table belongs to another file. Use the matching one.',
    `${name}.dbf`,
  );

/** How a table is laid out. */
export interface TableLayout {
  readonly count: number;
  /** Bytes before the first row, and of each row. */
  readonly headerLength: number;
  readonly rowLength: number;
}

/**
 * How a table is laid out, by its first 33 bytes.
 *
 * @param bytes of the .dbf file
 * @param name its name, for messages
 * @throws Fault `dbf.cut`, `dbf.header`
 */
export function tableLayout(bytes: Uint8Array, name: string): TableLayout {
  if (bytes.length < 33) throw cutTable(name, bytes.length);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [count, headerLength, rowLength] = [view.getUint32(4, true), view.getUint16(8, true), view.getUint16(10, true)];
  if (headerLength < 33 || rowLength < 1)
    throw new Fault('dbf.header', `${name} does not start like a .dbf table`, 'Check the file.', name);
  return { count, headerLength, rowLength };
}
