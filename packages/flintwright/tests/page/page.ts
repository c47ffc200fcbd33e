import * as flintwright from 'flintwright';

// The tests drive the library through its public names.
Object.assign(window, { flintwright, faults: [] });
