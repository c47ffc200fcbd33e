// Before the tests of the core: writes the generated sources that are missing or older than what they are made from.
import { makeGenerated } from './generated.mjs';

export default () => makeGenerated();
