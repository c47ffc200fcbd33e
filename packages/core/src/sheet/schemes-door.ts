// The color schemes, for programs that fetch them when a sheet first names one.
export { findScheme } from './schemes.js';
