/**
 * Which way imports point. In core each folder may use those before it in this list, never the reverse;
 * nothing runs in a circle, types included; the page knows the server by its types and by `server/wire`
 * alone.
 */
const CORE = [
  'parcel',
  'scene',
  'shape',
  'formats',
  'images',
  'colour',
  'maps',
  'links',
  'materials',
  'asset',
  'sets',
  'findings',
  'edits',
  'join',
  'compare',
  'rules',
  'destinations',
  'handoff',
  'preview',
];
/** Stages of a handoff, in the order in which data flow. */
const STAGES = ['prepare', 'plan', 'bake', 'write', 'readBack', 'tell'];
const TESTS = '\\.test\\.tsx?$|/test/';

const order = CORE.slice(0, -1).map((folder, i) => ({
  name: `core-${folder}`,
  comment: `core/src/${folder} comes before ${CORE.slice(i + 1).join(', ')}`,
  severity: 'error',
  from: { path: `^core/src/${folder}/`, pathNot: TESTS },
  to: { path: `^core/src/(${CORE.slice(i + 1).join('|')})/` },
}));

const stages = STAGES.slice(0, -1).map((stage, i) => ({
  name: `handoff-${stage}`,
  comment: `${stage} comes before ${STAGES.slice(i + 1).join(', ')}`,
  severity: 'error',
  from: { path: `^core/src/handoff/${stage}/`, pathNot: TESTS },
  to: { path: `^core/src/handoff/(${STAGES.slice(i + 1).join('|')})/` },
}));

export default {
  forbidden: [
    {
      name: 'no-circles',
      comment: 'nothing runs in a circle',
      severity: 'error',
      from: {},
      to: { circular: true },
    },
    ...order,
    ...stages,
    {
      name: 'core-alone',
      comment: 'core knows no interface, no database and nobody who uses it',
      severity: 'error',
      from: { path: '^core/src/', pathNot: TESTS },
      to: { path: '^(cli|web|demo|e2e|bench)/|node_modules/(react|next|drizzle-orm|pg)(/|$)' },
    },
    {
      name: 'page-without-server',
      comment: 'the page takes types of the server, and what both sides make of what is sent',
      severity: 'error',
      from: { path: '^web/(features|ui)/', pathNot: TESTS },
      to: { path: '^web/server/', pathNot: '^web/server/wire/', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'server-without-page',
      severity: 'error',
      from: { path: '^web/(server|worker)/' },
      to: { path: '^web/(features|ui|app)/' },
    },
    {
      name: 'database-below-services',
      comment: 'database and queue know no service; what jobs do is listed in jobs/handlers',
      severity: 'error',
      from: { path: '^web/server/(db|jobs)/', pathNot: `${TESTS}|jobs/handlers` },
      to: { path: '^web/server/services/' },
    },
    {
      name: 'cli-over-core',
      severity: 'error',
      from: { path: '^cli/src/', pathNot: TESTS },
      to: { path: '^(web|demo|e2e|bench)/' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '\\.next|\\.data|\\.d\\.ts$' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.depcruise.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
};
