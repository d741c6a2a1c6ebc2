/** What the chaos happens to: an installation with a provider, a trunk, a hook, and an app that is this process. */
import { createServer, type Server } from 'node:http';
import { createApp } from '../../src/operations/apps/apps';
import { subscribe } from '../../src/operations/apps/webhooks/subscriptions';
import { SYSTEM } from '../../src/operations/context/actor';
import { routeToApp } from '../../src/operations/routes/routes';
import { connectMossgate, type Mossgate, noticeHook } from '../harness/mossgate';
import { connectTrunk, type Trunk } from '../harness/ostrel';
import { brackwaterProfile, type Installation, startInstallation } from '../harness/processes';

export interface World {
  house: Installation;
  mossgate: Mossgate;
  trunk: Trunk;
  hookUrl: string;
  app: ListeningApp;
  subscriptionId: string;
  stop(): Promise<void>;
}

/** An app that keeps what it accepts, and does what a test wants of it. */
export interface ListeningApp {
  url: string;
  /** How often each event was accepted, by its id. */
  accepted: Map<string, number>;
  /** Texts of the inbound messages it was told of. */
  texts: Set<string>;
  mood: 'well' | 'frozen' | 'broken' | 'refusing';
  close(): Promise<void>;
}

/** Enough for their conversations to go on beside one another; numbers reserved for fiction. */
export const PEOPLE = Array.from({ length: 30 }, (_, n) => `+4477009005${String(n).padStart(2, '0')}`);

export async function startWorld(dataFolder?: string): Promise<World> {
  const house = await startInstallation({
    perSecond: 500,
    profiles: { 'swift.yaml': brackwaterProfile('swift', (text) => text.replace('pace: 25', 'pace: 100')) },
    ...(dataFolder ? { env: { WINDGAP_DATA: dataFolder } } : {}),
  });
  const { ctx } = house;
  const mossgate = await connectMossgate(house, 'swift', 100);
  const trunk = await connectTrunk(house, { settings: { answerSeconds: 2 } });
  for (const person of PEOPLE) await house.bench.addHandset(person);
  const app = await listeningApp();
  const { id: appId } = await createApp(ctx, SYSTEM, { name: 'Gatehouse', description: 'Takes every event' });
  const { id: subscriptionId } = await subscribe(ctx, SYSTEM, { appId, url: app.url });
  await routeToApp(ctx, SYSTEM, appId, true);
  const { url } = await noticeHook(house, appId, mossgate.channel.id);
  return {
    house,
    mossgate,
    trunk,
    hookUrl: url,
    app,
    subscriptionId,
    async stop() {
      await house.stop();
      await app.close();
    },
  };
}

async function listeningApp(): Promise<ListeningApp> {
  const app = { accepted: new Map(), texts: new Set(), mood: 'well' } as unknown as ListeningApp;
  const server: Server = createServer((request, response) => {
    let body = '';
    request.on('data', (chunk) => {
      body += chunk;
    });
    request.on('end', () => {
      if (app.mood === 'frozen') return;
      if (app.mood === 'broken') return response.writeHead(500).end('broken');
      if (app.mood === 'refusing') return request.socket.destroy();
      const id = String(request.headers['webhook-id']);
      app.accepted.set(id, (app.accepted.get(id) ?? 0) + 1);
      const event = JSON.parse(body) as { type: string; data?: { text?: string } };
      if (event.type.endsWith('message.received')) app.texts.add(event.data?.text ?? '');
      response.writeHead(204).end();
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  app.url = `http://127.0.0.1:${(server.address() as { port: number }).port}/events`;
  app.close = () =>
    new Promise((resolve) => {
      server.closeAllConnections();
      server.close(() => resolve());
    });
  return app;
}
