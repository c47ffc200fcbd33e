// The door for publishing: a map as one page that opens anywhere, or as a folder for any host.
export { attributesUsed } from './publish/attributes.js';
export { checkPublishedPage } from './publish/check.js';
export {
  addressesOf,
  base64,
  type PublishedFolder,
  publishedFolder,
  type PublishedMap,
  publishedPage,
  publishedPagePieces,
  type StreamedFile,
} from './publish/page.js';
