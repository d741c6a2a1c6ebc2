/** Security headers for every page. A fresh nonce each time, so only our own scripts run. */
import { randomBytes } from 'node:crypto';
import { type NextRequest, NextResponse } from 'next/server';

export function proxy(request: NextRequest): NextResponse {
  const nonce = randomBytes(16).toString('base64');
  const policy = [
    `default-src 'self'`,
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'${process.env.NODE_ENV === 'development' ? ` 'unsafe-eval'` : ''}`,
    // Positions computed by components are style attributes.
    `style-src 'self' 'unsafe-inline'`,
    `img-src 'self' data:`,
    `font-src 'self'`,
    `connect-src 'self'`,
    `frame-ancestors 'none'`,
    `base-uri 'self'`,
    `form-action 'self'`,
    `object-src 'none'`,
  ].join('; ');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  // Where somebody was going, for whoever has to sign in first.
  headers.set('x-windgap-path', `${request.nextUrl.pathname}${request.nextUrl.search}`);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'same-origin');
  response.headers.set('x-frame-options', 'DENY');
  response.headers.set('permissions-policy', 'camera=(), microphone=(), geolocation=()');
  return response;
}

/** Machines' addresses need no page headers and must not wait for them. */
export const config = {
  matcher: [
    '/((?!in/|hooks/|media|compose/contacts/imports/upload|calls/|chat/|schemas/|api/|live|health|_next/static|_next/image|icon.svg).*)',
  ],
};
