/** The arrows of ARCHITECTURE.md, enforced: every room may use only what lies below it. */
const only = (name, from, allowed, comment) => ({
  name,
  comment,
  severity: 'error',
  from: { path: from, pathNot: '\\.test\\.tsx?$' },
  to: { path: '^(src|standins|demo|bench|e2e)/', pathNot: allowed },
});

module.exports = {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    only('core-is-pure', '^src/core/', '^src/core/', 'core imports nothing else of the project'),
    {
      name: 'core-has-no-io',
      comment: 'node:crypto is computation; everything else of the platform, the framework and the store is not',
      severity: 'error',
      from: { path: '^src/core/', pathNot: '\\.test\\.ts$' },
      to: {
        path: '^(node:)?(fs|net|http|https|child_process|worker_threads|dgram|tls|os|sqlite3|sequelize|next|react)(/|$)|node_modules/(sequelize|sqlite3|next|react|pino)/',
      },
    },
    only('connectors', '^src/connectors/', '^src/(core|connectors|clock)/', 'connectors know core and each other'),
    only('clock', '^src/clock/', '^src/clock/', 'the one source of time needs nothing'),
    only('store', '^src/store/', '^src/(core|store|clock)/', 'the store knows core and the clock'),
    only(
      'workers',
      '^src/workers/',
      '^src/(core|connectors|workers|clock)/',
      'what is worked through apart is computation',
    ),
    only(
      'operations',
      '^src/operations/',
      '^src/(core|connectors|store|operations|clock)/|^src/workers/(apart|jobs)[.]ts$',
      'operations join store and connectors, and have untrusted input worked through apart',
    ),
    only('engine', '^src/engine/', '^src/(core|operations|engine|clock)/', 'the engine works through operations'),
    only('web', '^src/web/', '^src/(core|operations|web|clock)/', 'the web process works through operations'),
    only('app', '^src/app/', '^src/(core|operations|ui|web|app|clock)/', 'pages parse, call an operation and render'),
    only('ui', '^src/ui/', '^src/(core|ui|clock)/', 'components never reach the store or operations'),
    {
      name: 'widget-is-alone',
      comment:
        'the widget runs on strangers’ pages and is kept small; it may share the clock and the names of what it is sent',
      severity: 'error',
      from: { path: '^src/widget/', pathNot: '\\.test\\.ts$' },
      to: { path: '.', pathNot: '^src/(widget/|clock/clock[.]ts)', dependencyTypesNot: ['type-only'] },
    },
    only('standins-are-outside', '^standins/', '^standins/', 'the simulated outside shares no code with the product'),
    {
      name: 'nothing-knows-the-standins',
      severity: 'error',
      from: { path: '^src/' },
      to: { path: '^(standins|demo|bench|e2e)/' },
    },
  ],
  options: {
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^(\\.next|dist)/' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
};
