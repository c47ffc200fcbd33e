import * as flintwright from 'flintwright';
import * as drawing from 'flintwright/draw';
import * as publishing from 'flintwright/publish';
import * as searching from 'flintwright/search';

// The tests drive the library through its public names.
Object.assign(window, { flintwright, searching, drawing, publishing, faults: [] });
