// The dependency rule of docs/architecture.md: arrows as drawn and no others, no cycles.
const only = (from, allowed) => ({
  name: `${from}-imports`,
  comment: `${from} may import ${allowed.join(', ') || 'nothing of ours'}`,
  severity: 'error',
  from: { path: `^${from}/` },
  to: {
    path: '^(core|engine|contract|server|web|cli|demo|bench|e2e)/',
    pathNot: `^(${[from, ...allowed].join('|')})/`,
  },
});
module.exports = {
  forbidden: [
    {
      name: 'no-cycles',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    only('core', []),
    only('engine', ['core']),
    only('contract', ['core']),
    only('demo', ['core']),
    only('server', ['core', 'engine', 'contract', 'demo']),
    only('web', ['core', 'engine', 'contract']),
    { ...only('cli', ['contract']), from: { path: '^cli/src' } },
    only('e2e', ['contract', 'demo']),
    only('bench', ['core', 'engine', 'contract', 'demo', 'server']),
    {
      name: 'core-is-pure',
      comment: 'core knows nothing of React, Express, the database, files or the DOM',
      severity: 'error',
      from: { path: '^core/src', pathNot: '[.]test[.]ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-libraries',
      comment: 'readers of files may use the library that the view is drawn with; nothing else of core may',
      severity: 'error',
      from: { path: '^(core|contract)/src', pathNot: '^core/src/import' },
      to: { path: 'node_modules/(react|express|typeorm|pg|pg-boss|three|sharp)/' },
    },
    {
      name: 'engine-is-pure',
      comment: 'only engine/host/node knows Node',
      severity: 'error',
      from: { path: '^engine/host', pathNot: '^engine/host/node' },
      to: { dependencyTypes: ['core'] },
    },
    { name: 'unresolved', severity: 'error', from: {}, to: { couldNotResolve: true, pathNot: '[?]url$' } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(dist/|[.]d[.]ts$|kernel/(?!layout))' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['source', 'import', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.js', '.mjs', '.cjs', '.json', '.css'],
    },
  },
};
