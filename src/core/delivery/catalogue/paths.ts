/** Causes that no single message names: they show in what is set up, in what is missing, or in the whole of a path. */
import { by, type Cause } from '../cause';

export const PATHS_CAUSES = {
  'engine-silent': {
    title: 'The engine is not running',
    explain: () => 'Windgap’s engine has not been heard of: what comes in is stored and nothing is worked on or sent.',
    remedy: 'Start it again (“npm start” runs web and engine together); what waits is then done, and nothing is lost.',
    transient: true,
  },
  'sealing-key-lost': {
    title: 'Windgap cannot open the secrets it keeps',
    explain: (c) =>
      `The key that sealed the credentials of ${c.subject ?? 'the accounts'} is not the one that is here. Nothing is sent with them until it is.`,
    remedy:
      'Put “sealing.key” back into the data folder from the backup made with the database, and start again. If it is gone, enter the credentials of each account anew.',
    transient: true,
  },
  'database-locked': {
    title: 'Another program holds the database',
    explain: () =>
      'The database is locked for writing by something else, so nothing that comes in is stored and nothing is sent. The engine waits for it as well.',
    remedy:
      'Close whatever has “windgap.db” open: a database tool, a backup that copies the file, a second installation on the same folder. Where it is Windgap’s own engine, restart it.',
    transient: true,
  },
  'clock-off': {
    title: 'The clock of this computer is wrong',
    explain: (c) => `Against the clocks of ${by(c, 'all providers')}, this computer’s is ${c.said ?? 'off'}.`,
    remedy:
      'Set the time from a time server (NTP) and keep it so. Signatures that hold for minutes are refused on both sides until then.',
    transient: false,
  },
  'clock-differs': {
    title: 'A provider’s clock and this computer’s differ',
    explain: (c) =>
      `${by(c, 'The provider')} says that it is ${c.said ?? 'another time'}; ${c.subject ?? 'one of the two is wrong'}.`,
    remedy: 'Compare this computer’s time with a time server (NTP). Where it is right, tell the provider.',
    transient: true,
  },
  'inbound-silent': {
    title: 'Nobody has written for longer than is usual',
    explain: (c) =>
      `To ${by(c, 'this channel')} nobody has written for ${c.subject ?? 'long'}${c.said ? `; ${c.said}` : ''}.`,
    remedy:
      'Write to it from a phone. If that does not come in, Diagnosis says where it stops; on a day on which nobody writes it is nothing.',
    transient: true,
  },
  'receipts-stopped': {
    title: 'Receipts have stopped coming',
    explain: (c) => `On ${by(c, 'this channel')} ${c.said ?? 'fewer receipts come than usual'}.`,
    remedy:
      'Ask one of those people whether it arrived. Diagnosis compares those that have none with the others, and writes a report for the provider.',
    transient: true,
  },
  'submits-fell': {
    title: 'The provider accepts fewer texts than usual',
    explain: (c) => `On ${by(c, 'this channel')} ${c.said ?? 'fewer texts are accepted than usual'}.`,
    remedy:
      'Look at what the provider answered to the latest of them. Diagnosis compares them with those it accepted, and writes a report for the provider.',
    transient: true,
  },
  'app-answers-fell': {
    title: 'An app accepts fewer events than usual',
    explain: (c) => `${by(c, 'The app')}: ${c.said ?? 'it accepts fewer events than usual'}.`,
    remedy:
      'Look at what it answered, under Events on its page. What it did not accept is retried for a day and can be sent again by hand.',
    transient: true,
  },
  'door-unreachable': {
    title: 'The public address leads nowhere from here',
    explain: (c) =>
      `A request from this machine to ${c.subject ?? 'its public address'} got no answer${c.said ? ` (${c.said})` : ''}.`,
    remedy:
      'Look at the name, the certificate and the proxy in front of Windgap, and at WINDGAP_PUBLIC_URL. Some networks do not let a machine call itself by its public address: try the line for another machine on “Public address”.',
    transient: true,
  },
  'door-answered-by-other': {
    title: 'Something else answers at the public address',
    explain: (c) =>
      `A request to ${c.subject ?? 'the public address'} was answered by something that is not Windgap${c.said ? ` (${c.said})` : ''}.`,
    remedy:
      'Find out what stands there: a page of a proxy, a portal to sign in at, another server. Lead /in/ on to Windgap, or set WINDGAP_PUBLIC_URL to the address that leads here.',
    transient: false,
  },
  'door-another-installation': {
    title: 'The public address leads to another installation',
    explain: (c) => `At ${c.subject ?? 'the public address'} another installation of Windgap answers.`,
    remedy: 'Set WINDGAP_PUBLIC_URL to the address of this one. Nothing is to be set at providers before that.',
    transient: false,
  },
  'door-header-lost': {
    title: 'Headers are lost on the way to the public address',
    explain: (c) =>
      `A request to ${c.subject ?? 'the public address'} came without what it was sent with${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Let the proxy in front of Windgap pass on all headers as they come.',
    transient: false,
  },
  'door-body-altered': {
    title: 'Requests are changed on the way to the public address',
    explain: (c) =>
      `A request to ${c.subject ?? 'the public address'} did not come as it was sent${c.said ? `: ${c.said}` : ''}.`,
    remedy:
      'Have whatever stands before Windgap pass requests on with their octets, method and query unchanged: signatures are made over them.',
    transient: false,
  },
  'set-aside': {
    title: 'Something was set aside and waits for a decision',
    explain: (c) =>
      `${c.subject ?? 'Something'} could not be processed${c.said ? `: ${c.said}` : ''}. The others go on.`,
    remedy: 'Open “Set aside”, fix what its reason names, then process it again or drop it.',
    transient: false,
  },
  'queue-stuck': {
    title: 'A queue of the engine stands still',
    explain: (c) => `${c.subject ?? 'What waits'} has been waiting${c.said ? ` ${c.said}` : ' for too long'}.`,
    remedy: 'Look at the engine’s log and the load of the machine; restart the engine if nothing moves.',
    transient: true,
  },
  'loop-failing': {
    title: 'A part of the engine fails again and again',
    explain: (c) => `${c.subject ?? 'A part of the engine'} fails every time${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Fix what the message names; where it names nothing you know, the engine’s log has the whole of it.',
    transient: true,
  },
  'row-damaged': {
    title: 'A stored row cannot be read',
    explain: (c) =>
      `${c.subject ?? 'A row'} is damaged in the database${c.said ? `: ${c.said}` : ''}. The others go on.`,
    remedy: 'Enter it again or restore it from a backup. A damaged file or disk may be why; check them.',
    transient: false,
  },
  'disk-low': {
    title: 'The disk is nearly full',
    explain: (c) =>
      `There is ${c.said ?? 'little'} left where the database stands. When it is full, nothing can be stored.`,
    remedy: 'Free space or enlarge the disk; shorter retention under “Installation” helps from the next hour on.',
    transient: true,
  },
  'trunk-half-dead': {
    title: 'The carrier answers, but takes no messages',
    explain: (c) =>
      `${by(c, 'The carrier')} answers enquire_link but no submit${c.said ? ` (${c.said})` : ''}. The link is bound anew.`,
    remedy: 'If it comes back, ask the carrier: the service behind its connection does not work.',
    transient: true,
  },
  'queue-behind': {
    title: 'Messages wait behind others',
    explain: (c) =>
      `${c.subject ?? 'The channel'} has more to send than its pace allows${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Wait, raise the channel’s pace if the provider allows more, or send the rest over another channel.',
    transient: true,
  },
  'never-asked': {
    title: 'Windgap was never asked to send it',
    explain: (c) => `${by(c, 'The app')} did not call, post, or bring a row or event in the time in question.`,
    remedy: 'Look in the app: its automation may be off, filtered out, or call another address.',
    transient: false,
  },
  'asked-twice': {
    title: 'Windgap was asked for the same message twice',
    explain: (c) => `Two orders for the same text to the same phone came${c.said ? ` ${c.said}` : ''}.`,
    remedy: 'Give each order an idempotency key, or end one of the two automations that do the same.',
    transient: false,
  },
  'handed-twice': {
    title: 'The provider got the message twice',
    explain: (c) =>
      `${by(c, 'The provider')} gave no answer to the first attempt, took it all the same, and does not recognise a repeat.`,
    remedy: 'Ask the provider to honour references of messages, and find out why its answers are late.',
    transient: false,
  },
  'network-repeats': {
    title: 'The network delivered it more than once',
    explain: () => 'Windgap ordered and handed over one message only: the copy was made further on.',
    remedy: 'Show the provider the trail and ask the carrier; phones that change network sometimes get a copy.',
    transient: false,
  },
  'phone-hides': {
    title: 'The phone has it and does not show it',
    explain: () => 'The network confirms that the text reached the phone.',
    remedy: 'Look among blocked or filtered messages on the phone, and whether it still has the same owner.',
    transient: false,
  },
  'values-missing': {
    title: 'A value for the text is missing or another one',
    explain: (c) => `The record did not have what the text takes from it${c.said ? `: ${c.said}` : ''}.`,
    remedy: 'Compare the fields of the latest post with those the text names, and give each a fallback.',
    transient: false,
  },
  'provider-silent': {
    title: 'The provider does not post what it gets',
    explain: (c) => `${by(c, 'The provider')} has the text in its log and never called the inbound URL.`,
    remedy: 'Set the inbound URL at the provider again, save it there, and write once more.',
    transient: false,
  },
  'number-moved': {
    title: 'The number leads elsewhere',
    explain: (c) => `What people write to ${c.subject ?? 'the number'} does not reach the provider any more.`,
    remedy: 'Ask the provider whether the number was moved to another company or lost its text service.',
    transient: false,
  },
  'number-gone': {
    title: 'The account no longer has the number',
    explain: (c) => `${by(c, 'The provider')} does not list ${c.subject ?? 'the number'} any more.`,
    remedy: 'Claim it again or move it back at the provider, or give the channel another number.',
    transient: false,
  },
  'wrote-elsewhere': {
    title: 'They wrote to another number',
    explain: () => 'The path is whole: what is written to this number arrives.',
    remedy: 'Put the right number where people find it, and answer from the number they know.',
    transient: false,
  },
  'not-sent-by-phone': {
    title: 'The text never left their phone',
    explain: () => 'The path is whole, and their own network did not take the text.',
    remedy: 'The person may lack credit or cover, or their network may not reach this kind of number.',
    transient: false,
  },
  'draft-unpublished': {
    title: 'The change is a draft and not published',
    explain: (c) => `The routes were changed${c.who ? ` by ${c.who}` : ''} and the change decides nothing yet.`,
    remedy: 'Look at the difference and publish the draft.',
    transient: false,
  },
  'route-switched-off': {
    title: 'The route is switched off',
    explain: (c) => `${c.subject ?? 'The route'} took messages before it was switched off.`,
    remedy: 'Switch the route on and publish.',
    transient: false,
  },
  'app-not-routed': {
    title: 'No route tells the app',
    explain: (c) => `${by(c, 'The app')} is subscribed to messages that come in, and no live route tells it of any.`,
    remedy: 'Add a step that tells the app to a route and publish, or end the subscription.',
    transient: false,
  },
  'event-not-subscribed': {
    title: 'The app has not subscribed to messages',
    explain: (c) => `Routes tell ${by(c, 'the app')} of messages, and none of its subscriptions takes them.`,
    remedy: 'Add “a message came in” to the subscription’s events, or add a subscription.',
    transient: false,
  },
  'app-hides': {
    title: 'The app took it and does not show it',
    explain: (c) => `${by(c, 'The app')} answered that it took the event.`,
    remedy: 'Show its people the request and answer from the trail: the fault is on their side of the answer.',
    transient: false,
  },
  'automation-off': {
    title: 'The automation is switched off',
    explain: (c) => `${c.subject ?? 'It'} is switched off in Windgap.`,
    remedy: 'Switch it on where it is set up.',
    transient: false,
  },
  'credit-low': {
    title: 'The credit runs out soon',
    explain: (c) => `${by(c, 'The account')} has credit for ${c.said ?? 'a short time'} at the present use.`,
    remedy: 'Top up at the provider, or set up automatic topping up there.',
    transient: false,
  },
  'address-missing': {
    title: 'The provider has no address for the number',
    explain: (c) => `${by(c, 'The provider')} has no address to post to, so texts go nowhere.`,
    remedy: 'Set the inbound URL for the number, and save it there.',
    transient: false,
  },
  'address-other-origin': {
    title: 'The inbound URL is set under another address of this installation',
    explain: (c) =>
      `${c.subject ?? 'The channel'} is set there under another server than this installation is told it has.`,
    remedy: 'Where posts arrive, correct the public address of this installation; else set the URL at the provider.',
    transient: false,
  },
  'address-not-ours': {
    title: 'The provider has another address for the number',
    explain: (c) => `${by(c, 'The provider')} posts what comes in to another system.`,
    remedy: 'Replace it with the inbound URL of the channel.',
    transient: false,
  },
  'address-on-another-number': {
    title: 'The channel’s address stands at another number',
    explain: () => 'Texts to the other number arrive here, and those to this one may not.',
    remedy: 'Give each number its own inbound URL.',
    transient: false,
  },
  'events-not-subscribed': {
    title: 'The address is verified and no events are subscribed',
    explain: (c) => `${by(c, 'The platform')} posts nothing: no event is subscribed.`,
    remedy: 'Subscribe to the events.',
    transient: false,
  },
  'callback-unverified': {
    title: 'The platform has not verified the address',
    explain: (c) => `${by(c, 'The platform')} posts only to an address it has verified.`,
    remedy: 'Hand the inbound URL and the verification word over, and verify there.',
    transient: false,
  },
  'test-mode-on': {
    title: 'Test mode is on',
    explain: () => 'Only people who sent the join code are heard.',
    remedy: 'Switch test mode off.',
    transient: false,
  },
  'account-on-trial': {
    title: 'The account is on trial',
    explain: () => 'It reaches verified phones only.',
    remedy: 'Verify phones, or end the trial at the provider.',
    transient: false,
  },
  'fallback-empty': {
    title: 'There is no fallback address',
    explain: () => 'A text that comes while the first address cannot be reached is lost.',
    remedy: 'Set the fallback URL at the provider.',
    transient: false,
  },
  'one-way-sender': {
    title: 'The sender cannot be answered',
    explain: () => 'It carries messages one way only.',
    remedy: 'Where a reply is expected, send from a number that receives.',
    transient: false,
  },
  'credential-expires': {
    title: 'The credential expires soon',
    explain: () => 'Nothing is sent after its end.',
    remedy: 'Make a new one and save it; both work meanwhile.',
    transient: false,
  },
  'webhook-paused': {
    title: 'Events to the app are paused',
    explain: (c) => `Nothing is told to ${by(c, 'the app')} until they are resumed; nothing is lost.`,
    remedy: 'Fix what the last attempt says, then resume.',
    transient: false,
  },
  'route-shadowed': {
    title: 'An earlier route takes everything meant for this one',
    explain: (c) => `${c.subject ?? 'The route'} is never reached.`,
    remedy: 'Move it up, or narrow the one before it.',
    transient: false,
  },
  'route-contradicts-itself': {
    title: 'The route’s conditions exclude each other',
    explain: (c) => `${c.subject ?? 'The route'} can match nothing.`,
    remedy: 'Take one of the conditions out.',
    transient: false,
  },
  'no-routes': {
    title: 'There are no routes',
    explain: () => 'What comes in goes to the shared desk only.',
    remedy: 'Add a route.',
    transient: false,
  },
  'channel-without-route': {
    title: 'No route takes what comes over this channel',
    explain: (c) => `What comes over ${c.subject ?? 'the channel'} goes to the shared desk only.`,
    remedy: 'Add the channel to a route.',
    transient: false,
  },
  'delivery-test-fails': {
    title: 'A delivery test fails',
    explain: (c) => `${c.subject ?? 'A delivery test'} failed when it ran last${c.said ? `: ${c.said}` : '.'}`,
    remedy: 'Its run shows where it stopped, and the cause and the fix where one is known.',
    transient: true,
  },
  'broadcast-held': {
    title: 'A broadcast is held',
    explain: (c) => `${c.subject ?? 'A broadcast'} held itself${c.said ? `: ${c.said}` : '.'}`,
    remedy: 'Resume it, or cancel what is left of it.',
    transient: false,
  },
  'heartbeat-not-accepted': {
    title: 'The heartbeat is not accepted',
    explain: (c) => `${by(c, 'The address')} does not accept the heartbeat${c.said ? ` (${c.said})` : ''}.`,
    remedy: 'Check the address on the page of alert rules. Until it is accepted nobody notices when Windgap stops.',
    transient: true,
  },
  'change-reverted': {
    title: 'A change on trial was reverted',
    explain: (c) => `${c.subject ?? 'A change'} was on trial and is reverted${c.said ? `: ${c.said}` : '.'}`,
    remedy: 'See what was not proven, and make the change again once it can be.',
    transient: false,
  },
  'change-not-reverted': {
    title: 'A change on trial could not be reverted',
    explain: (c) =>
      `${c.subject ?? 'A change'} was to be reverted and was not, or not all of it${c.said ? `: ${c.said}` : '.'}`,
    remedy: 'Set by hand what is named, then mark the trial as reviewed on the page “Changes on trial”.',
    transient: false,
  },
  'template-gone': {
    title: 'The template was archived',
    explain: () => 'What used it sends nothing.',
    remedy: 'Choose another template.',
    transient: false,
  },
} satisfies Record<string, Cause>;
