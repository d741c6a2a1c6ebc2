/** The frame of the stand-ins' own consoles: plain pages that redraw their live part by themselves. */
import { html, raw } from 'hono/html';

interface Frame {
  title: string;
  /** Background, ink and accent: each outside service looks like itself. */
  colours: [string, string, string];
  body: unknown;
}

export function page({ title, colours: [paper, ink, accent], body }: Frame) {
  return html`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${title}</title>
<style>
  body { margin: 0; background: ${paper}; color: ${ink}; font: 15px/1.5 Georgia, 'DejaVu Serif', serif; }
  header { background: ${accent}; color: #fff; padding: 12px 28px; font-size: 20px; }
  header small { opacity: .85; font-size: 13px; margin-left: 12px; }
  main { padding: 20px 28px 60px; max-width: 1180px; }
  h2 { font-size: 17px; margin: 28px 0 8px; border-bottom: 2px solid ${accent}; padding-bottom: 3px; }
  table { border-collapse: collapse; width: 100%; background: #fff; color: #1d1d1d; }
  th, td { text-align: left; padding: 5px 9px; border: 1px solid #cfcfcf; font-size: 13.5px; vertical-align: top; overflow-wrap: anywhere; }
  code, input, textarea { font: 13px 'DejaVu Sans Mono', monospace; }
  label { display: block; margin: 8px 0 2px; font-size: 13.5px; }
  input, select, textarea { padding: 5px 7px; border: 1px solid #767676; width: 100%; max-width: 620px; box-sizing: border-box; background: #fff; color: #1d1d1d; }
  button { margin-top: 8px; padding: 6px 14px; border: 0; background: ${accent}; color: #fff; font: inherit; font-size: 14px; cursor: pointer; }
  .bad { color: #a01d1d; font-weight: bold; } .good { color: #1c6130; font-weight: bold; }
  .side { display: grid; grid-template-columns: 1fr 1fr; gap: 24px; }
</style>
</head>
<body><header>${title}<small>simulated, for demonstration and tests</small></header><main>${body}</main>
<script>${raw(REDRAW)}</script></body></html>`;
}

const REDRAW = `setInterval(async () => {
  const part = document.getElementById('live');
  if (!part) return;
  const answer = await fetch(location.href).catch(() => null);
  if (!answer || !answer.ok) return;
  const fresh = new DOMParser().parseFromString(await answer.text(), 'text/html').getElementById('live');
  if (fresh && fresh.innerHTML !== part.innerHTML) part.innerHTML = fresh.innerHTML;
}, 1000);`;
