/** What a new profile begins with: every part an HTTP provider needs, to be filled in. */
export const STARTER = `profile: 1
id: my-provider
name: My provider
kind: sms-http
summary: One sentence on what it carries and how.
preconditions:
  - What must be at hand before starting.

credentials:
  - name: apiAddress
    label: API address
    help: Where its documentation says the API is.
    pattern: '^https?://[^\\s]+$'
  - name: key
    label: API key
    help: Where its console shows it.
    secret: true

http:
  base: "{{ credentials.apiAddress }}"
  bearer: "{{ credentials.key }}"

errors:
  code: $.error.code
  text: $.error.message
  rules:
    - { status: 401, cause: credential-refused }
    - { status: 402, code: no_credit, cause: credit-gone }
    - { status: 429, cause: throttled }

account:
  request: { method: GET, path: /account }
  read: { name: $.name }

numbers:
  request: { method: GET, path: /numbers }
  each: $.numbers[*]
  read: { remoteId: $.id, address: $.number }

send:
  request:
    method: POST
    path: /messages
    json: { from: "{{ message.sender }}", to: "{{ message.recipient }}", text: "{{ message.text }}" }
  read: { providerMessageId: $.id }

inbound:
  texts: { each: "$.messages[*]", providerMessageId: $.id, from: $.from, to: $.to, text: $.text }

limits: { pace: 5 }
`;
