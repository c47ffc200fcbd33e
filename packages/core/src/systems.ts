// The door for coordinate systems by code alone: the public register, fetched when a code asks for it.
export { crsByCode } from './crs/match.js';
