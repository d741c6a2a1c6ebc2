/** Notices to those who can fix something, inside the unit that found it. */
import type { Unit } from '../../store/store';
import { beginRuns } from '../runs';
import { MAIL_SETTING } from './mailSetting';

/** Mails every owner and administrator; where no mail account is set, Overview alone tells. */
export async function tellAdministrators(
  unit: Unit,
  appId: string,
  about: string,
  subject: string,
  text: string,
  at: number,
): Promise<void> {
  if (!(await unit.settings.one({ name: MAIL_SETTING }))) return;
  const people = await unit.users.all({ role: ['owner', 'administrator'], disabled_at: null });
  const to = people.map(({ email }) => email);
  if (to.length === 0) return;
  const steps = [{ kind: 'notify' as const, to, subject, text }];
  await beginRuns(unit, [{ appId, source: 'notice', sourceId: about, subjectId: about, steps }], at);
}
