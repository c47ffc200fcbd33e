// The door for publishing: a map as one page that opens anywhere, or as a folder for any host.
export {
  addressesOf,
  type PublishedFolder,
  publishedFolder,
  type PublishedMap,
  publishedPage,
} from './publish/page.js';
