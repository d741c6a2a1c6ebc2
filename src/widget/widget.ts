/**
 * The chat window on somebody else's page. Plain DOM in a shadow root, so that neither
 * side's styles reach the other; no framework, no cookies. What it keeps (the visitor's key
 * and the last message seen) is in the page's own storage.
 */
import { systemClock } from '../clock/clock';
import type { ChatFace, ChatMessage } from '../core/connect/webChat';

const script = document.currentScript as HTMLScriptElement | null;
const token = script?.dataset.chat ?? '';
const base = script ? new URL('.', script.src).href + token : '';
const kept = `windgap-chat-${token}`;

const STYLES = `
:host{all:initial}
*{box-sizing:border-box;font:15px/1.45 system-ui,sans-serif;color:#1c262e}
button{cursor:pointer;border:0;border-radius:4px;background:var(--c);color:var(--i);padding:8px 14px}
:focus-visible{outline:3px solid var(--c);outline-offset:2px}
.open{position:fixed;right:18px;bottom:18px;padding:11px 18px;z-index:2147483000;box-shadow:0 3px 14px #0004}
.box{position:fixed;right:18px;bottom:18px;width:min(350px,calc(100vw - 36px));height:min(500px,calc(100vh - 36px));display:flex;flex-direction:column;background:#fff;border:1px solid #8d8a80;border-radius:6px;z-index:2147483000;box-shadow:0 10px 34px #0005}
.head{display:flex;gap:10px;align-items:center;background:var(--c);padding:10px 12px;border-radius:5px 5px 0 0}
.head h2{margin:0;flex:1;font-weight:600;font-size:16px;color:var(--i)}
.head img{width:30px;height:30px;object-fit:cover;border-radius:3px}
.head button{padding:4px 10px}
.log{flex:1;overflow-y:auto;padding:12px}
.log>div{margin:0 0 10px;padding-left:9px;border-left:3px solid #8d8a80;white-space:pre-wrap;overflow-wrap:anywhere}
.log>div.us{border-color:var(--c)}
.log b{display:block;font-size:12px;font-weight:600;color:#56626b}
form{display:grid;gap:8px;padding:10px 12px;border-top:1px solid #dcd6c9;margin:0}
label{display:grid;gap:2px;font-size:13px}
label.tick{display:flex;gap:8px;align-items:start}
input:not([type=checkbox]),textarea{width:100%;padding:7px 9px;border:1px solid #76838b;border-radius:4px;background:#fff}
textarea{resize:none}
.row{display:flex;gap:8px}
.note{margin:0;font-size:13px;color:#56626b}
.bad{color:#a23a28}
[hidden]{display:none!important}`;

function element<K extends keyof HTMLElementTagNameMap>(
  name: K,
  properties: Partial<HTMLElementTagNameMap[K]> & Record<string, unknown> = {},
  ...children: (Node | string)[]
): HTMLElementTagNameMap[K] {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(properties)) {
    if (key in made) (made as unknown as Record<string, unknown>)[key] = value;
    else made.setAttribute(key, String(value));
  }
  made.append(...children);
  return made;
}

function read(): { key?: string; seen?: string } {
  try {
    return JSON.parse(localStorage.getItem(kept) ?? '{}') as { key?: string };
  } catch {
    return {};
  }
}

function keep(values: object) {
  try {
    localStorage.setItem(kept, JSON.stringify({ ...read(), ...values }));
  } catch {
    // A page that forbids storage has visitors who are new each time.
  }
}

async function post(part: string, body: object): Promise<Response> {
  return fetch(`${base}/${part}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
}

interface CodeAnswer {
  code?: string;
  reason?: string;
}

async function start() {
  if (!token) return;
  const answer = await fetch(`${base}/face`).catch(() => undefined);
  if (!answer?.ok) {
    const why = answer ? ((await answer.json()) as { reason?: string }).reason : 'the chat does not answer';
    console.error(`Chat: ${why}`);
    return;
  }
  show((await answer.json()) as ChatFace);
}

function show(face: ChatFace) {
  const host = element('div', { id: 'windgap-chat' });
  const root = host.attachShadow({ mode: 'open' });
  host.style.setProperty('--c', face.colour);
  host.style.setProperty('--i', face.ink);
  const opener = element('button', {
    className: 'open',
    type: 'button',
    textContent: face.title,
    'aria-expanded': 'false',
  });
  const log = element('div', { className: 'log', role: 'log', 'aria-label': 'Messages', tabIndex: 0 });
  const foot = element('div');
  const close = element('button', { type: 'button', textContent: 'Close' });
  const heading = element('h2', { textContent: face.title, id: 'title' });
  const head = element(
    'div',
    { className: 'head' },
    ...(face.picture ? [element('img', { src: face.picture, alt: '' })] : []),
    heading,
    close,
  );
  const box = element(
    'section',
    { className: 'box', hidden: true, role: 'dialog', 'aria-labelledby': 'title' },
    head,
    log,
    foot,
  );
  const style = element('style', { textContent: STYLES });
  root.append(style, opener, box);
  document.body.append(host);

  let stream: EventSource | undefined;
  let failures = 0;
  const drawn = new Set<string>();

  opener.onclick = () => toggle(true);
  close.onclick = () => toggle(false);
  box.onkeydown = (event) => event.key === 'Escape' && toggle(false);
  greet(read().key ? face.returningGreeting || face.greeting : face.greeting);
  if (read().key) void resume();
  else askFirst();

  function toggle(open: boolean) {
    box.hidden = !open;
    opener.hidden = open;
    opener.setAttribute('aria-expanded', String(open));
    if (open) {
      foot.querySelector<HTMLElement>('input,textarea')?.focus();
      tellShown();
    } else opener.focus();
  }

  function greet(words: string) {
    log.append(element('div', { className: 'us' }, element('b', { textContent: face.title }), words));
  }

  function note(words: string, bad = false) {
    let line = foot.querySelector<HTMLElement>('.note');
    if (!line) {
      line = element('p', { className: 'note', role: 'status' });
      foot.querySelector('form')?.append(line);
    }
    line.className = bad ? 'note bad' : 'note';
    line.textContent = words;
  }

  /** Name, phone and consent, as far as they are asked for, before the first words. */
  function askFirst() {
    const name = element('input', { name: 'name', autocomplete: 'name' });
    const phone = element('input', { name: 'phone', type: 'tel', autocomplete: 'tel', required: true });
    const consent = element('input', { type: 'checkbox', name: 'consent' });
    const words = element('textarea', { name: 'words', rows: 3, required: true, maxLength: 2000 });
    const send = element('button', { textContent: 'Send' });
    const form = element('form', { noValidate: true });
    if (face.askName) form.append(element('label', {}, 'Your name (optional)', name));
    if (face.askPhone) form.append(element('label', {}, 'Your phone number', phone));
    form.append(element('label', {}, 'Your message', words));
    if (face.consentText)
      form.append(element('label', { className: 'tick' }, consent, element('span', { textContent: face.consentText })));
    form.append(send);
    form.onsubmit = async (event) => {
      event.preventDefault();
      if (!words.value.trim()) return note('Write your message first.', true);
      if (face.consentText && !consent.checked)
        return note('Tick the box first: without it nothing may be kept.', true);
      send.disabled = true;
      const answer = await post('begin', { name: name.value, phone: phone.value, consent: consent.checked }).catch(
        () => undefined,
      );
      send.disabled = false;
      if (!answer?.ok) return note(await reasonOf(answer), true);
      const begun = (await answer.json()) as { key: string } & CodeAnswer;
      keep({ key: begun.key });
      const text = words.value;
      talk();
      // The words are with us whatever becomes of the code.
      if (await say(text)) askCode(begun);
    };
    foot.replaceChildren(form);
  }

  async function resume() {
    const answer = await post('begin', { key: read().key }).catch(() => undefined);
    if (answer && !answer.ok) {
      keep({ key: undefined, seen: undefined });
      askFirst();
      return;
    }
    talk();
    if (answer) askCode((await answer.json()) as CodeAnswer);
  }

  /** The code that was texted to the phone the visitor left, before anything else is texted there. */
  function askCode({ code: state, reason }: CodeAnswer) {
    if (state !== 'asked' && state !== 'not-sent') return;
    const code = element('input', {
      name: 'code',
      inputMode: 'numeric',
      autocomplete: 'one-time-code',
      maxLength: 10,
      required: true,
    });
    const send = element('button', { textContent: 'Confirm' });
    const again = element('button', { type: 'button', textContent: 'Another code' });
    const form = element(
      'form',
      { noValidate: true },
      element('label', {}, 'The code we texted to your phone', code),
      element('div', { className: 'row' }, send, again),
    );
    const ask = async (part: string, body: object): Promise<CodeAnswer | undefined> => {
      send.disabled = again.disabled = true;
      const answer = await post(part, { key: read().key, ...body }).catch(() => undefined);
      send.disabled = again.disabled = false;
      if (answer?.ok) return (await answer.json()) as CodeAnswer;
      note(await reasonOf(answer), true);
      return undefined;
    };
    form.onsubmit = async (event) => {
      event.preventDefault();
      if (!code.value.trim() || !(await ask('confirm', { code: code.value }))) return;
      talk();
      note('Your phone is confirmed. We can answer there.');
    };
    again.onclick = async () => {
      const sent = await ask('code', {});
      if (sent)
        note(sent.code === 'not-sent' ? sentence(sent.reason) : 'A code is on its way.', sent.code === 'not-sent');
    };
    foot.replaceChildren(form);
    note(
      state === 'not-sent' ? sentence(reason) : 'We have your message. Type the code so that we may answer by text.',
      state === 'not-sent',
    );
  }

  function talk() {
    const words = element('textarea', { name: 'words', rows: 2, maxLength: 2000, 'aria-label': 'Your message' });
    const send = element('button', { textContent: 'Send' });
    const form = element('form', { noValidate: true }, words, send);
    form.onsubmit = async (event) => {
      event.preventDefault();
      const text = words.value;
      if (text.trim() && (await say(text))) words.value = '';
    };
    words.onkeydown = (event) => {
      if (event.key === 'Enter' && !event.shiftKey && !event.isComposing) {
        event.preventDefault();
        form.requestSubmit();
      }
    };
    foot.replaceChildren(form);
    if (face.answers === 'live') listen();
  }

  /** The id is the browser's, so that a repeat after a lost answer is the same message. */
  async function say(text: string): Promise<boolean> {
    const id = crypto.getRandomValues(new Uint32Array(4)).join('-');
    for (let attempt = 0; attempt < 4; attempt++) {
      const answer = await post('say', { key: read().key, id, text }).catch(() => undefined);
      if (answer?.ok) {
        if (face.answers === 'later') draw({ id, from: 'visitor', who: 'You', text, at: systemClock.now() });
        note(face.acknowledgement);
        return true;
      }
      if (answer) {
        note(await reasonOf(answer), true);
        return false;
      }
      note('The connection is gone; trying again…', true);
      await systemClock.pause(800 * 2 ** attempt);
    }
    note('This could not be sent. Try again when you are online.', true);
    return false;
  }

  function listen() {
    stream?.close();
    const key = read().key ?? '';
    stream = new EventSource(`${base}/stream?key=${encodeURIComponent(key)}`);
    stream.onopen = () => {
      failures = 0;
      host.dataset.state = 'connected';
    };
    stream.onmessage = (event: MessageEvent<string>) => {
      draw(JSON.parse(event.data) as ChatMessage);
      tellShown();
    };
    stream.onerror = () => {
      host.dataset.state = 'reconnecting';
      // A browser gives up on an answer that is no stream; then it is asked again, slower each time.
      if (stream?.readyState === EventSource.CLOSED)
        systemClock.after(Math.min(1000 * 2 ** failures++, 30_000), listen);
    };
  }

  function draw(message: ChatMessage) {
    if (drawn.has(message.id)) return;
    drawn.add(message.id);
    const who = message.from === 'visitor' ? 'You' : message.who;
    const line = element(
      'div',
      { className: message.from, 'data-id': message.id },
      element('b', { textContent: who }),
      message.text,
    );
    log.append(line);
    log.scrollTop = log.scrollHeight;
    if (message.from === 'us' && box.hidden) opener.textContent = `${face.title} (new)`;
  }

  let told = new Set<string>();
  /** In the page is delivered; before the eyes is read. */
  function tellShown() {
    const state = box.hidden || document.visibilityState !== 'visible' ? 'delivered' : 'read';
    const ids = [...log.querySelectorAll<HTMLElement>('.us[data-id]')]
      .map((line) => line.dataset.id ?? '')
      .filter((id) => !told.has(`${id} ${state}`));
    if (state === 'read') opener.textContent = face.title;
    if (ids.length === 0) return;
    told = new Set([...told, ...ids.map((id) => `${id} ${state}`)]);
    void post('shown', { key: read().key, ids: ids.slice(-50), state }).catch(() => undefined);
  }

  addEventListener('online', () => face.answers === 'live' && read().key && listen());
  document.addEventListener('visibilitychange', tellShown);
}

function sentence(words = 'this was not taken; try again'): string {
  return `${words.charAt(0).toUpperCase()}${words.slice(1)}.`;
}

async function reasonOf(answer: Response | undefined): Promise<string> {
  if (!answer) return 'The connection is gone. Try again.';
  const { reason } = (await answer.json().catch(() => ({}))) as { reason?: string };
  return reason ? reason.charAt(0).toUpperCase() + reason.slice(1) : 'This was not taken. Try again.';
}

void start();
