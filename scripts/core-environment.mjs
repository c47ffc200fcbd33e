// Where the tests without a page run: Node, with its globals as they are.
import vm from 'node:vm';
import { TestEnvironment } from 'jest-environment-node';

export default class CoreEnvironment extends TestEnvironment {
  /** Jest wraps the global object in a proxy by default. Computations read globals often, and run at half the speed through it. */
  constructor(...given) {
    const { createContext } = vm;
    vm.createContext = () => createContext(vm.constants.DONT_CONTEXTIFY);
    try {
      super(...given);
    } finally {
      vm.createContext = createContext;
    }
  }
}
