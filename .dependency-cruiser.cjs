// Imports run one way; see docs/architecture.md. Inside core each folder may use only those before it.
const CORE = [
  'units',
  'errors',
  'music',
  'dsp',
  'rooms',
  'catalogue',
  'keymap',
  'mixing',
  'measure',
  'balance',
  'engine',
  'performance',
  'report',
  'formats',
  'intake',
  'deliver',
  'listen',
  'recording',
];

const inCore = CORE.map((folder, i) => ({
  name: `core-${folder}`,
  comment: `core/${folder} may import only ${CORE.slice(0, i).join(', ') || 'nothing of core'}`,
  severity: 'error',
  from: { path: `^core/${folder}/`, pathNot: '\\.test\\.ts$' },
  to: { path: `^core/(${[...CORE.slice(i + 1), 'testing'].join('|')})/` },
}));

module.exports = {
  forbidden: [
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^core/' },
      to: { path: '^(api|server|web|scripts)/' },
    },
    {
      name: 'core-needs-no-node',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'api-over-core-only',
      severity: 'error',
      from: { path: '^api/' },
      to: { path: '^(server|web)/' },
    },
    { name: 'server-not-web', severity: 'error', from: { path: '^server/' }, to: { path: '^web/' } },
    {
      name: 'ui-knows-no-data',
      comment: 'primitives are given what they show',
      severity: 'error',
      from: { path: '^web/ui/' },
      to: { path: '^web/(views|app|state|sound)/' },
    },
    {
      name: 'state-and-sound-know-no-views',
      severity: 'error',
      from: { path: '^web/(state|sound)/' },
      to: { path: '^web/(views|app|ui)/' },
    },
    {
      name: 'views-do-not-know-each-other',
      comment: 'what two views share lies in web/app or web/ui',
      severity: 'error',
      from: { path: '^web/views/([^/]+)/' },
      to: { path: '^web/views/', pathNot: '^web/views/$1/' },
    },
    { name: 'web-not-server', severity: 'error', from: { path: '^web/' }, to: { path: '^server/' } },
    {
      name: 'sequelize-in-store-only',
      severity: 'error',
      from: { path: '^server/', pathNot: '^server/(store|testing)/' },
      to: { path: 'node_modules/sequelize' },
    },
    {
      name: 'one-way-into-a-core-folder',
      comment:
        'other folders come in by the index; a single file may be named where an index would close a circle',
      severity: 'error',
      from: { path: '^(api|server|web)/', pathNot: '\\.test\\.tsx?$|^(server|web)/testing/' },
      to: { path: '^core/[^/]+/(?!index\\.ts$)' },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: { path: '^(core|api|server|web)/' },
      to: { circular: true },
    },
    ...inCore,
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^dist/|\\.d\\.m?ts$)' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js'],
    },
  },
};
