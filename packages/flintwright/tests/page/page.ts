import * as flintwright from 'flintwright';
import * as searching from 'flintwright/search';

// The tests drive the library through its public names.
Object.assign(window, { flintwright, searching, faults: [] });
