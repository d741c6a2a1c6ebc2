/** The record of who did what, read and taken out; refused access. Others come in here. */
export { type AuditChoices, type AuditFilter, auditChoices, exportAudit, listAudit } from './auditLog';
export { noteReading, noteRefusal } from './noted';
