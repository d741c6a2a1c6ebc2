/** The public address seen from outside: a request to Windgap's own door and back. Others come in here. */
export { type AtTheDoor, answerAtDoor, type DoorStanding, LARGEST_KNOCK, readDoor, SEAL_HEADER } from './knock';
export { cameFromOutside, curlFor, type DoorView, knockNow, viewDoor } from './view';
export { createDoorWatch } from './watch';
