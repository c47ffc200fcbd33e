// The door for coordinate systems by code or by name: the public register, fetched when a code or a search asks for it.
export { crsByCode, searchSystems } from './crs/match.js';
export type { RegisteredCrs } from './crs/register/register.js';
