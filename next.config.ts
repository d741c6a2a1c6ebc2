import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: [
    'sequelize',
    'sqlite3',
    'umzug',
    'pino',
    'liquidjs',
    'jsonpath-rfc9535',
    'ipaddr.js',
    'smpp',
    'nodemailer',
    're2js',
  ],
  // Types are checked by `npm test` for the whole project at once.
  typescript: { ignoreBuildErrors: true },
  poweredByHeader: false,
  experimental: {
    // The inbound handlers read the raw body themselves; nothing else takes large posts.
    serverActions: { bodySizeLimit: '1mb' },
    // A page is loaded when it is first asked for: a restart is no moment to keep providers waiting.
    preloadEntriesOnStart: false,
  },
  // Connector profiles are read from the source tree at run time.
  outputFileTracingIncludes: { '/**': ['./src/connectors/profiles/*.yaml'] },
};

export default config;
