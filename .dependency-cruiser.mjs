/**
 * What may import what. The floors of core, from the top: a folder knows those above it, never those below, and two on one
 * line do not know each other.
 */
const FLOORS = [
  ['units', 'kernels', 'interpreter'],
  ['geometry'],
  ['inks'],
  ['colour', 'media'],
  ['marks'],
  ['artwork'],
  ['records'],
  ['cutting'],
  ['panels'],
  ['checks'],
  ['layout', 'screening'],
  ['photo'],
  ['rip'],
  ['charts'],
  ['calibration']
];
/** The rooms of the server, from the top. */
const ROOMS = [
  'platform',
  'machines',
  'media',
  'conditions',
  'records',
  'artwork',
  'dockets',
  'production',
  'printing',
  'cutting',
  'calibration',
  'automation',
  'app'
];
const room = (rooms) => `^src/lib/server/(${rooms.join('|')})/`;

const any = (folders) => `^core/(${folders.join('|')})/`;

/** Tests may look wherever they like. */
const notTests = { pathNot: '\\.test\\.ts$' };

const floors = FLOORS.flatMap((floor, i) => {
  const below = FLOORS.slice(i + 1).flat();
  return floor.map((folder) => ({
    name: `core-${folder}`,
    comment: `core/${folder} knows the floors above it alone.`,
    severity: 'error',
    from: { path: any([folder]), ...notTests },
    to: { path: any([...below, ...floor.filter((other) => other !== folder)]) }
  }));
});

const rooms = ROOMS.slice(0, -1).map((name, i) => ({
  name: `room-${name}`,
  comment: `lib/server/${name} knows the rooms above it alone; it tells those below by events.`,
  severity: 'error',
  from: { path: room([name]), ...notTests },
  to: { path: room(ROOMS.slice(i + 1)) }
}));

export default {
  forbidden: [
    ...floors,
    ...rooms,
    {
      name: 'server-has-rooms',
      comment: 'Every module of the server is in a room.',
      severity: 'error',
      from: {},
      to: { path: '^src/lib/server/', pathNot: room(ROOMS) }
    },
    {
      name: 'server-no-circles',
      comment: 'In the server not even types go in circles.',
      severity: 'error',
      from: { path: '^src/lib/server/', ...notTests },
      to: { circular: true }
    },
    {
      name: 'core-has-floors',
      comment: 'Every folder of core stands on a floor.',
      severity: 'error',
      from: {},
      to: { path: '^core/', pathNot: any(FLOORS.flat()) }
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: notTests,
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } }
    },
    {
      name: 'core-no-circles',
      comment: 'In core not even types go in circles.',
      severity: 'error',
      from: { path: '^core/', ...notTests },
      to: { circular: true }
    },
    {
      name: 'core-is-pure',
      comment: 'Core has no interface, database, network or files.',
      severity: 'error',
      from: { path: '^core/', ...notTests },
      to: { path: '^(src|protocol|standins|demo|scripts|tests)/|node_modules/(better-sqlite3|svelte|@sveltejs)/' }
    },
    {
      name: 'core-needs-no-node',
      severity: 'error',
      from: { path: '^core/', ...notTests },
      to: { dependencyTypes: ['core'] }
    },
    {
      name: 'protocol-stands-alone',
      comment: 'What both sides speak knows neither of them.',
      severity: 'error',
      from: { path: '^protocol/', ...notTests },
      to: { path: '^(src|standins|demo|scripts|tests)/' }
    },
    {
      name: 'standins-know-core-and-protocol',
      severity: 'error',
      from: { path: '^standins/', ...notTests },
      to: { path: '^(src|demo|scripts|tests)/' }
    },
    {
      name: 'server-knows-no-screens',
      severity: 'error',
      from: { path: '^src/lib/server/', ...notTests },
      to: { path: '^src/(lib/ui|routes)/' }
    },
    {
      name: 'screens-run-in-the-browser',
      comment: 'They know the shapes of what the server has, and nothing that runs there.',
      severity: 'error',
      from: { path: '^src/lib/ui/|[.]svelte$' },
      to: { path: '^src/lib/server/', dependencyTypesNot: ['type-only'] }
    }
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    webpackConfig: { fileName: 'scripts/resolve.mjs' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'node', 'default', 'types', 'svelte'] },
    exclude: { path: 'core/kernels/assembly' }
  }
};
