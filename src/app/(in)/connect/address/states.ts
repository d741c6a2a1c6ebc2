import type { DoorState } from '../../../../core/door/door';

/** How the public address stands, in words, with what to do. */
export const STATES: Readonly<Record<DoorState, { title: string; remedy?: string }>> = {
  open: { title: 'The request came back whole: header, body, method and query as they were sent' },
  unreachable: {
    title: 'No answer came',
    remedy:
      'Look at the name, the certificate and the proxy in front of Windgap. Some networks do not let a machine call itself by its public address: the line below tells from elsewhere.',
  },
  'answered-by-other': {
    title: 'Something that is not Windgap answered',
    remedy: 'Find out what stands there: a page of a proxy, a portal to sign in at, another server.',
  },
  'another-installation': {
    title: 'Another installation of Windgap answered',
    remedy: 'Set WINDGAP_PUBLIC_URL to the address of this one before anything is set at a provider.',
  },
  'header-lost': {
    title: 'It came without its header',
    remedy: 'Let the proxy in front of Windgap pass on all headers as they come.',
  },
  'body-altered': {
    title: 'It came changed',
    remedy: 'Have whatever stands before Windgap pass requests on with their octets, method and query unchanged.',
  },
};
