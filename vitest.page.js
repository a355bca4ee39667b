// A document for all files of tests of a process: to load and make one for each took longer than most of them.
import { builtinEnvironments } from 'vitest/runtime';

const { jsdom } = builtinEnvironments;
let made;

export default {
  ...jsdom,
  name: 'page',
  async setup(global, options) {
    made ??= await jsdom.setup(global, options);
    return {
      teardown() {
        document.body.replaceChildren();
        localStorage.clear();
      },
    };
  },
};
