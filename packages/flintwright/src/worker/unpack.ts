// Fetched where a tile is packed in a way that the platform does not unpack, or is damaged.
export { gunzip } from '@flintwright/core';
