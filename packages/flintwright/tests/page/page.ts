import * as flintwright from 'flintwright';
import * as drawing from 'flintwright/draw';
import * as filing from 'flintwright/files';
import * as publishing from 'flintwright/publish';
import * as searching from 'flintwright/search';

// A machine may have no fonts at all: those of the page are there before a test measures a text.
await Promise.all([13, 16].map((size) => document.fonts.load(`${size}px "Noto Sans"`, 'Hallow Quay')));
// The tests drive the library through its public names.
Object.assign(window, { flintwright, searching, drawing, filing, publishing, faults: [] });
