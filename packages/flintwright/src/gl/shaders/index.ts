export * from './area.js';
export * from './extrusion.js';
export * from './heat.js';
export * from './image.js';
export * from './line.js';
export * from './mask.js';
export * from './symbol.js';
export { globeShader } from './globe.js';
