import { expect, test } from 'vitest';
import { createOutboundHttp } from '../connectors/http/outbound';
import { networkOf } from '../connectors/outside/network';
import { asUnit, outsideUnit } from './unitOfWork';

test('a call to the outside is refused inside a unit, however deep, and allowed before, after and beside it', async () => {
  const call = async () => outsideUnit('a call');
  await call();
  await expect(asUnit(async () => Promise.all([1, 2].map(call)))).rejects.toThrow(/inside a unit/);
  let left: Promise<void> | undefined;
  let end: () => void = () => undefined;
  const unit = asUnit(async () => {
    // Begun in the unit, done after it.
    left = new Promise<void>((resolve) => setImmediate(resolve))
      .then(() => new Promise<void>((r) => (end = r)))
      .then(call);
  });
  await Promise.all([unit, call()]);
  await new Promise((resolve) => setImmediate(resolve));
  await new Promise((resolve) => setImmediate(resolve));
  end();
  await left;
  await call();
});

test('an HTTP request is such a call', async () => {
  const http = createOutboundHttp(networkOf({ allowPrivate: true }));
  const request = { method: 'GET', url: 'http://127.0.0.1:9/', headers: {}, timeoutMs: 100 };
  await expect(asUnit(() => http(request))).rejects.toThrow(/inside a unit/);
  await expect(http(request)).rejects.toThrow(/ECONNREFUSED/);
});
