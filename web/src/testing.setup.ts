// Modules are loaded once for all test files, and what a test has drawn goes after each.
import { cleanup, configure } from '@testing-library/react';
import { afterEach, vi } from 'vitest';

// a machine on which other tests are at work takes its time; what comes is not waited for longer
configure({ asyncUtilTimeout: 10_000 });

// files share one document: nobody's stand-ins outlive their test
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});
