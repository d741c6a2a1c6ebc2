import { CloudEvent } from 'cloudevents';
import fc from 'fast-check';
import { Webhook } from 'standardwebhooks';
import { describe, expect, test } from 'vitest';
import { nextAttemptAt, parseRetryAfter, SEND_RETRIES, WEBHOOK_RETRIES } from './retryPlan';
import { newWebhookSecret, signWebhook } from './standardWebhooks';

describe('webhook signatures', () => {
  test('the example of the specification', () => {
    const secret = 'whsec_plJ3nmyCDGBKInavdOK15jsl';
    const headers = signWebhook(
      'msg_loFOjxBNrRLzqYUf',
      1731705121_000,
      '{"event_type":"ping","data":{"success":true}}',
      [secret],
    );
    expect(headers['webhook-signature']).toBe('v1,rAvfW3dJ/X/qxhsaXPOyyCGmRKsaKWcsNccKXlIktD0=');
  });

  test('any body is verified by the public library, and no changed one', () => {
    fc.assert(
      fc.property(fc.json(), fc.json(), (body, other) => {
        const secret = newWebhookSecret();
        const headers = { ...signWebhook('evt_1', Date.now(), body, [secret]) };
        expect(() => new Webhook(secret).verify(body, headers)).not.toThrow();
        if (other !== body) expect(() => new Webhook(secret).verify(other, headers)).toThrow();
      }),
    );
  });

  test('during a rotation both secrets verify, a third does not', () => {
    const [old, fresh, stranger] = [newWebhookSecret(), newWebhookSecret(), newWebhookSecret()] as const;
    const headers = { ...signWebhook('evt_1', Date.now(), '{}', [fresh, old]) };
    expect(() => new Webhook(old).verify('{}', headers)).not.toThrow();
    expect(() => new Webhook(fresh).verify('{}', headers)).not.toThrow();
    expect(() => new Webhook(stranger).verify('{}', headers)).toThrow();
  });

  test('an old timestamp is refused by the public library', () => {
    const secret = newWebhookSecret();
    const headers = { ...signWebhook('evt_1', Date.now() - 6 * 60_000, '{}', [secret]) };
    expect(() => new Webhook(secret).verify('{}', headers)).toThrow(/old/i);
  });

  test('a secret of another shape is refused', () => {
    expect(() => signWebhook('evt_1', 0, '{}', ['secret'])).toThrow(RangeError);
  });

  test('the events package rejects what is not a CloudEvent', () => {
    expect(() => new CloudEvent({ id: '1', type: '', source: '/x' })).toThrow();
  });
});

describe('retry plans', () => {
  test('delays grow, never undercut what was asked for, and end at the horizon', () => {
    for (const plan of [WEBHOOK_RETRIES, SEND_RETRIES]) {
      let now = 0;
      let gap = 0;
      for (let attempts = 1; ; attempts++) {
        const next = nextAttemptAt(plan, { attempts, firstAttemptAt: 0, now, jitter: 0 });
        if (next === undefined) break;
        expect(next - now).toBeGreaterThanOrEqual(gap);
        gap = next - now;
        now = next;
      }
      expect(now).toBeLessThanOrEqual(plan.horizon);
      expect(now).toBeGreaterThan(plan.horizon / 2);
    }
    expect(nextAttemptAt(SEND_RETRIES, { attempts: 1, firstAttemptAt: 0, now: 0, jitter: 0, askedDelay: 90_000 })).toBe(
      90_000,
    );
  });

  test('Retry-After in both of its forms', () => {
    expect(parseRetryAfter('3', 0)).toBe(3000);
    expect(parseRetryAfter('Thu, 01 Jan 1970 00:00:10 GMT', 4000)).toBe(6000);
    expect(parseRetryAfter('soon', 0)).toBeUndefined();
    expect(parseRetryAfter(null, 0)).toBeUndefined();
  });
});
